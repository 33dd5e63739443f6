"""Turn edges where the other diagonal of their two triangles lies nearer to the surface.

The mesher triangulates by circles in the surface's own parameters; where
those stretch, as on a dome or a thin ring, edges run the long way round the
curve and would be split again and again. Turning them first saves three
quarters of the splits on such faces. An edge is turned when the quadrilateral
is convex in the parameters, the new triangles face as their normals do, and
the distance falls by a third (in the manner of Lawson's flips, 1977, with
distance to the surface for the measure).
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.facet.patch import Integers, Patch, edge_codes
from hemp_ladder.core.facet.ruler import Ruler
from hemp_ladder.core.mesh.triangles import cross

_GAIN = 0.67
#: Splits leave vertices in a row; a triangle of three of them is nothing in the parameters, and what it is
#: split into later lies on top of itself. So each new triangle has this share of its quadrilateral.
_THIN = 1e-3


@dataclass(frozen=True)
class _Quads:
    """Inner edges a-b with the triangles a b c on their left and b a d on their right.

    left, right  (k,) rows of these triangles
    corners      (k, 4) the vertices a, b, c, d
    sides        (k, 5) what is known of the edges ab, bc, ca, ad, db
    """

    left: NDArray[np.int64]
    right: NDArray[np.int64]
    corners: NDArray[np.int64]
    sides: NDArray[np.float64]

    def only(self, rows: Integers | NDArray[np.bool_]) -> "_Quads":
        return _Quads(self.left[rows], self.right[rows], self.corners[rows], self.sides[rows])

    def turned(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """The two triangles there would be."""
        return self.corners[:, [0, 3, 2]], self.corners[:, [3, 1, 2]]


def flip_edges(patch: Patch, rows: Integers, ruler: Ruler) -> Patch:
    """The same vertices with some edges inside the triangles `rows` turned, at most one for each triangle."""
    patch = ruler.measure_sides(patch, rows)
    # Both triangles of a stray edge have it, so the others need not be paired.
    rows = rows[ruler.astray(patch, rows).any(axis=1)]
    quads = _quads(patch, rows)
    quads = quads.only(quads.sides[:, 0] > ruler.limits[patch.face[quads.corners[:, 0]]])
    whole = _area(patch.uv, quads.corners[:, [0, 1, 2]]) + _area(patch.uv, quads.corners[:, [1, 0, 3]])
    good = whole != 0
    for new in quads.turned():
        good &= (_area(patch.uv, new) * np.sign(whole) > _THIN * np.abs(whole)) & _faces_right(patch, new)
    quads = quads.only(good)
    if not len(quads.left):
        return patch
    then = ruler.edges(patch, quads.corners[:, 2:])
    better = then < _GAIN * quads.sides[:, 0]
    quads, then = quads.only(better), then[better]
    if not len(then):
        return patch
    # One turn a triangle: the largest gain first.
    order = np.empty(len(then), dtype=np.int64)
    order[np.argsort(then - quads.sides[:, 0], kind="stable")] = np.arange(len(then))
    rank = np.full(len(patch.triangles), len(then))
    np.minimum.at(rank, quads.left, order)
    np.minimum.at(rank, quads.right, order)
    chosen = (rank[quads.left] == order) & (rank[quads.right] == order)
    quads, then = quads.only(chosen), then[chosen]
    _, bc, ca, ad, db = quads.sides.T
    sides = np.concatenate([np.stack([ad, then, ca], axis=1), np.stack([db, bc, then], axis=1)])
    return patch.with_triangles(np.concatenate([quads.left, quads.right]), np.concatenate(quads.turned()), sides)


def _quads(patch: Patch, rows: Integers) -> _Quads:
    """All edges that two of the triangles `rows` share, run along once each way."""
    triangles = patch.triangles[rows].astype(np.int64)
    codes = edge_codes(triangles).reshape(-1)
    order = np.argsort(codes, kind="stable")
    same = np.flatnonzero(codes[order[1:]] == codes[order[:-1]])
    (left, k), (right, j) = np.divmod(order[same], 3), np.divmod(order[same + 1], 3)
    twins = triangles[left, k] == triangles[right, (j + 1) % 3]
    left, k, right, j = left[twins], k[twins], right[twins], j[twins]
    corners = [triangles[left, (k + turn) % 3] for turn in range(3)] + [triangles[right, (j + 2) % 3]]
    sides = [patch.sides[rows[left], (k + turn) % 3] for turn in range(3)]
    sides += [patch.sides[rows[right], (j + turn) % 3] for turn in (1, 2)]
    return _Quads(rows[left], rows[right], np.stack(corners, axis=1), np.stack(sides, axis=1))


def _area(uv: NDArray[np.float64], triangles: NDArray[np.int64]) -> NDArray[np.float64]:
    one = uv[triangles[:, 1]] - uv[triangles[:, 0]]
    two = uv[triangles[:, 2]] - uv[triangles[:, 0]]
    return one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]


def _faces_right(patch: Patch, triangles: NDArray[np.int64]) -> NDArray[np.bool_]:
    corners = patch.positions[triangles]
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    return np.asarray((np.einsum("ij,ikj->ik", across, patch.normals[triangles]) > 0).all(axis=1))
