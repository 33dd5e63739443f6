"""Trim: what makes meshes lighter, and what is measured of it."""
