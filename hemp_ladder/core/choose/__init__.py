"""Choose: what enters the job of all that was received, and what of it a polygon leaves."""
