"""Meshing: chains followed in children, and the tasks that have it done."""
