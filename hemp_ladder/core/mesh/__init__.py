"""Meshes: triangles, what hangs on them, what is counted and measured of them."""
