"""Flaws of a mesh where they lie, to be shown: borders, edges shared too often, triangles that should not be."""

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mend.normals import edges_of, leans
from hemp_ladder.core.mend.repair.edit import edges_and_spots
from hemp_ladder.core.mesh.counts import duplicates, flat_triangles, inward_shells
from hemp_ladder.core.mesh.crossing import crossing_triangles
from hemp_ladder.core.mesh.edges import Edges, Numbers, following
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.seams import t_joints
from hemp_ladder.core.mesh.triangles import cross, dot, lengths, weld_tolerance

#: Of a kind so many are shown at the most, and in so many triangles crossings are looked for.
_MOST, _MOST_TRIANGLES = 20_000, 2_000_000
#: An edge of a rounded mesh that leans more than this was not, in radians.
_SHARP = np.radians(40)
Points = NDArray[np.float64]


def flaws_of(mesh: Mesh) -> dict[str, Points]:
    """By kind the edges as pairs of points, (2 k, 3), in source coordinates: those of triangles for what is wrong with
    triangles, a short cross for a T-joint, and `sharp` for what rounding left so. Kinds of which there is nothing are left out; `crossing` is not looked for in
    very large meshes."""
    if not len(mesh.triangles):
        return {}
    edges, spots = edges_and_spots(mesh)
    sides = edges.sides[edges.first[:-1]]
    found: dict[str, Points] = {
        "holes": _lines(edges, spots, edges.borders),
        "against": _lines(edges, spots, sides[(edges.uses == 2) & (edges.balance != 0)]),
        "over-shared": _lines(edges, spots, sides[edges.uses > 2]),
        "duplicate": _around(mesh, duplicates(edges, edges.shells[1])),
        "degenerate": _around(mesh, np.flatnonzero(flat_triangles(mesh, mesh.welded))),
        "inward": _around(mesh, _inward(mesh)),
    }
    if mesh.figures.effects.get("round.sharp"):
        found["sharp"] = _lines(edges, spots, _sharp(mesh, edges))
    joints = t_joints(edges, spots, 2 * weld_tolerance(mesh.positions))
    if joints is not None:
        found["t-joints"] = _crosses(spots[np.unique(joints[1])], mesh)
    if len(mesh.triangles) <= _MOST_TRIANGLES:
        found["crossing"] = _around(mesh, crossing_triangles(mesh))
    return {kind: points for kind, points in found.items() if len(points)}


def _lines(edges: Edges, spots: Points, sides: Numbers) -> Points:
    sides = sides[:_MOST]
    return np.asarray(np.stack([spots[edges.start(sides)], spots[edges.end(sides)]], axis=1).reshape(-1, 3))


def _around(mesh: Mesh, rows: Numbers) -> Points:
    """The three sides of triangles."""
    sides = 3 * np.repeat(rows[:_MOST], 3) + np.tile(np.arange(3), len(rows[:_MOST]))
    corner = mesh.triangles.reshape(-1)
    ends = np.stack([corner[sides], corner[following(sides)]], axis=1).reshape(-1)
    return np.asarray(mesh.positions[ends])


def _crosses(at: Points, mesh: Mesh) -> Points:
    """A small cross of three lines at each point."""
    reach = 0.01 * float(np.ptp(mesh.positions, axis=0).max()) * np.eye(3)
    ends = np.stack([at[:_MOST, None] - reach, at[:_MOST, None] + reach], axis=2)
    return np.asarray(ends.reshape(-1, 3))


def _sharp(mesh: Mesh, edges: Edges) -> Numbers:
    """Sides of edges that bend outward by more than is sharp: of a mesh that was rounded, those that stayed."""
    across = cross(*(mesh.corners[:, k] - mesh.corners[:, 0] for k in (1, 2)))
    flat = across / np.maximum(lengths(across), 1e-300)[:, None]
    one, two = edges.pairs
    corner = mesh.triangles.reshape(-1)
    away = mesh.positions[corner[following(following(two))]] - mesh.positions[corner[one]]
    return np.asarray(one[(leans(flat, one, two) > _SHARP) & (dot(away, flat[one // 3]) < 0)])


def _inward(mesh: Mesh) -> Numbers:
    edges = edges_of(mesh)
    corners = mesh.corners - mesh.positions.mean(axis=0)
    double = lengths(cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]))
    six = dot(corners[:, 0], cross(corners[:, 1], corners[:, 2]))
    return np.flatnonzero(np.isin(edges.shells[1], inward_shells(edges, corners, six, double)))
