"""Repair: what is wrong with triangles put right, kind by kind."""
