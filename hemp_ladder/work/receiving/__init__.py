"""Receiving: sources read in children, and the task that does it."""
