"""Shells: what hangs together, told apart, taken out, and turned by hand."""
