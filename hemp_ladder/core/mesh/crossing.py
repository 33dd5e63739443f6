"""Triangles that go through each other: found by a library with exact arithmetic."""

import numpy as np

from hemp_ladder.core.mesh.edges import Numbers
from hemp_ladder.core.mesh.mesh import Mesh


def crossing_triangles(mesh: Mesh) -> Numbers:
    """Triangles that another goes through, (c,), touching at shared places not counted; those without an area are
    passed over, and copies lying on each other in one plane are no crossing.

    Five seconds a million triangles. Near vertices are one place, or every pole would cross itself.
    """
    from igl.predicates import find_self_intersections

    places = mesh.welded[mesh.triangles]
    whole = (places[:, 0] != places[:, 1]) & (places[:, 1] != places[:, 2]) & (places[:, 2] != places[:, 0])
    rows = np.flatnonzero(whole)
    if not len(rows):
        return rows
    spots = np.zeros((int(mesh.welded.max()) + 1, 3))
    spots[mesh.welded] = mesh.positions
    _, pairs, coplanar = find_self_intersections(spots, np.ascontiguousarray(places[rows]), False)
    pairs = np.asarray(pairs).reshape(-1, 2)
    if not len(pairs):
        return rows[:0]
    flat = np.asarray(coplanar).reshape(-1).astype(bool)
    return np.unique(rows[pairs[~flat].reshape(-1)])
