"""Triangles that are too many: those without an area, and those that lie on another."""

import numpy as np

from hemp_ladder.core.mend.repair.edit import edges_and_spots, only
from hemp_ladder.core.mesh.counts import duplicates, flat_triangles
from hemp_ladder.core.mesh.mesh import Mesh


def without_degenerate(mesh: Mesh) -> tuple[Mesh, int]:
    """Without triangles that have no area, and how many those were.

    Where one bridged the middle of an edge, the gap that it leaves has no width: a T-joint.
    """
    gone = flat_triangles(mesh, mesh.welded)
    return (only(mesh, ~gone), int(gone.sum())) if gone.any() else (mesh, 0)


def without_duplicates(mesh: Mesh) -> tuple[Mesh, int]:
    """Without triangles on the places of an earlier one that face the same way, and how many those were. A leaf that is
    to be seen from both sides has two that face away from each other; those stay."""
    edges, _ = edges_and_spots(mesh)
    gone = duplicates(edges, edges.shells[1])
    if not len(gone):
        return mesh, 0
    kept = np.ones(len(mesh.triangles), bool)
    kept[gone] = False
    return only(mesh, kept), len(gone)
