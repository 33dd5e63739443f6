"""HTTP: the same house through `/api`. Never imports a kernel."""
