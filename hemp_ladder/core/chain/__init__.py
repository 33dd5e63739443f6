"""Chains of steps: what leads from a body to a mesh, and how it is followed."""
