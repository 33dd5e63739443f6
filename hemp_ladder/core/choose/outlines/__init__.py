"""Outlines: what of what was drawn is solid, and how high."""
