"""Turn edges where the other diagonal of their two triangles lies nearer to the surface.

The mesher triangulates by circles in the surface's own parameters; where
those stretch, as on a dome or a thin ring, edges run the long way round the
curve and would be split again and again. Turning them first saves three
quarters of the splits on such faces. An edge is turned when the quadrilateral
is convex in the parameters, the new triangles face as their normals do, and
the distance falls by a third (in the manner of Lawson's flips, 1977, with
distance to the surface for the measure).
"""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.facet.deviation import pair_reach

_GAIN = 0.67
_ROUNDS = 4

Triangles = NDArray[np.int32]


def flip_edges(
    positions: NDArray[np.float64],
    normals: NDArray[np.float32],
    uv: NDArray[np.float64],
    triangles: Triangles,
    limit: float,
    measure: Callable[[NDArray[np.int64]], NDArray[np.float64]],
) -> Triangles:
    """The same vertices with some inner edges turned.

    `limit` is the distance that is good enough; `measure` gives the true
    distance of edges, (k, 2) vertex pairs, and is asked before one is turned.
    """
    for _ in range(_ROUNDS):
        turned = _round(positions, normals, uv, triangles, limit, measure)
        if turned is None:
            break
        triangles = turned
    return triangles


def _round(
    positions: NDArray[np.float64],
    normals: NDArray[np.float32],
    uv: NDArray[np.float64],
    triangles: Triangles,
    limit: float,
    measure: Callable[[NDArray[np.int64]], NDArray[np.float64]],
) -> Triangles | None:
    left, right, a, b, c, d = _quads(triangles, len(positions))
    now = pair_reach(positions, normals, a, b)
    bad = np.flatnonzero(now > limit)
    if not len(bad):
        return None
    left, right, a, b, c, d = (x[bad] for x in (left, right, a, b, c, d))
    now = now[bad]
    then = pair_reach(positions, normals, c, d)
    first, second = np.stack([a, d, c], axis=1), np.stack([d, b, c], axis=1)
    sign = np.sign(_area(uv, np.stack([a, b, c], axis=1)))
    good = (then < _GAIN * now) & (sign != 0)
    for new in (first, second):
        good &= (_area(uv, new) * sign > 0) & _faces_right(positions, normals, new)
    chosen = np.flatnonzero(good)
    if not len(chosen):
        return None
    # One turn a triangle and round: the largest gain first.
    chosen = chosen[np.argsort(then[chosen] - now[chosen], kind="stable")]
    rank = np.full(len(triangles), len(chosen))
    order = np.arange(len(chosen))
    np.minimum.at(rank, left[chosen], order)
    np.minimum.at(rank, right[chosen], order)
    free = (rank[left[chosen]] == order) & (rank[right[chosen]] == order)
    chosen = chosen[free]
    chosen = chosen[measure(np.stack([c[chosen], d[chosen]], axis=1)) < now[chosen]]
    out = triangles.copy()
    out[left[chosen]] = first[chosen]
    out[right[chosen]] = second[chosen]
    return out


def _quads(triangles: Triangles, vertices: int) -> tuple[NDArray[np.int64], ...]:
    """For each inner edge a-b: the triangles a b c on its left and b a d on its right."""
    wide = triangles.astype(np.int64)
    start = wide[:, [0, 1, 2]].reshape(-1)
    end = wide[:, [1, 2, 0]].reshape(-1)
    apex = wide[:, [2, 0, 1]].reshape(-1)
    owner = np.repeat(np.arange(len(triangles)), 3)
    code, mirror = start * vertices + end, end * vertices + start
    order = np.argsort(mirror)
    place = np.searchsorted(mirror[order], code).clip(max=max(len(code) - 1, 0))
    twin = order[place]
    inner = (mirror[twin] == code) & (start < end)
    here, there = np.flatnonzero(inner), twin[inner]
    return owner[here], owner[there], start[here], end[here], apex[here], apex[there]


def _area(uv: NDArray[np.float64], triangles: NDArray[np.int64]) -> NDArray[np.float64]:
    one = uv[triangles[:, 1]] - uv[triangles[:, 0]]
    two = uv[triangles[:, 2]] - uv[triangles[:, 0]]
    return one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]


def _faces_right(
    positions: NDArray[np.float64], normals: NDArray[np.float32], triangles: NDArray[np.int64]
) -> NDArray[np.bool_]:
    corners = positions[triangles]
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    return np.asarray((np.einsum("ij,ikj->ik", cross, normals[triangles]) > 0).all(axis=1))
