"""Triangles as larger faces: what is flat and convex, and pairs that make good quads. Every reader cuts them up again."""

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.edges import Edges, components, following
from hemp_ladder.core.mesh.triangles import cross, dot, lengths
from hemp_ladder.core.ship.quads import quads_of

#: Cosine of the angle that neighbours of one polygon lean by at the most.
_FLAT = 1 - 1e-9
#: Sine of the turn at a corner below which it goes straight on.
_TURN = 1e-6


def polygons_of(
    positions: NDArray[np.float64], triangles: NDArray[np.int32]
) -> tuple[list[list[int]], NDArray[np.int32]]:
    """The polygons that triangles (m, 3) make where they share vertices, each as its vertices in order, and the triangles
    that are left. A polygon of n corners stands for n - 2 triangles, all of it seen from its first corner: it is convex,
    turns at every corner, and has no hole."""
    corners = positions[triangles]
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    long = lengths(across)
    normal = np.divide(across, long[:, None], out=np.zeros_like(across), where=long[:, None] > 0)
    one, two = Edges.of(triangles).pairs
    level = dot(normal[one // 3], normal[two // 3]) > _FLAT
    one, two = one[level], two[level]
    count, of = components(len(triangles), one // 3, two // 3)
    inner = np.zeros(3 * len(triangles), bool)
    inner[one] = inner[two] = True
    order = np.argsort(of, kind="stable")
    starts = np.searchsorted(of[order], np.arange(count + 1))
    flat, ends = triangles.reshape(-1), triangles.reshape(-1)[following(np.arange(3 * len(triangles)))]
    found: list[list[int]] = []
    taken = np.zeros(len(triangles), bool)
    for group in np.flatnonzero(np.diff(starts) > 1).tolist():
        rows = order[starts[group] : starts[group + 1]]
        sides = (3 * rows[:, None] + np.arange(3)).reshape(-1)
        sides = sides[~inner[sides]]
        ring = _ring(flat[sides].tolist(), ends[sides].tolist())
        if ring is not None and len(ring) == len(rows) + 2 and _is_convex(positions[ring], normal[rows[0]]):
            found.append(ring)
            taken[rows] = True
    return found, triangles[~taken]


def faces_of(
    positions: NDArray[np.float64], triangles: NDArray[np.int32], flats: bool, quads: bool
) -> list[NDArray[np.int32]]:
    """The faces that triangles (m, 3) become, (f, n) for each number of corners that occurs: flat and convex regions as one
    face each where `flats` says so, of the rest two triangles as one where `quads` does and they make a good one."""
    rings: list[list[int]] = []
    if flats:
        rings, triangles = polygons_of(positions, triangles)
    found = [np.zeros((0, 4), np.int32)]
    if quads:
        found[0], triangles = quads_of(positions, triangles)
    by_size: dict[int, list[list[int]]] = {}
    for ring in rings:
        by_size.setdefault(len(ring), []).append(ring)
    found += [np.array(alike, np.int32) for _, alike in sorted(by_size.items())]
    return [faces for faces in (triangles, *found) if len(faces)]


def fanned(
    positions: NDArray[np.float64], triangles: NDArray[np.int32], flats: bool = True, quads: bool = False
) -> NDArray[np.int32]:
    """The triangles with every face cut up from its first corner, as readers cut it."""
    fans = [
        np.stack([np.broadcast_to(faces[:, :1], faces[:, 1:-1].shape), faces[:, 1:-1], faces[:, 2:]], axis=-1)
        for faces in faces_of(positions, triangles, flats, quads)
    ]
    return np.concatenate([np.zeros((0, 3), np.int32), *(item.reshape(-1, 3) for item in fans)]).astype(np.int32)


def _ring(start: list[int], end: list[int]) -> list[int] | None:
    """The one loop that sides make, from its lowest vertex; None where they make another thing."""
    after = dict(zip(start, end, strict=True))
    if len(after) != len(start) or not start:
        return None
    ring = [min(start)]
    while (at := after.get(ring[-1])) is not None and at != ring[0] and len(ring) < len(start):
        ring.append(at)
    return ring if at == ring[0] and len(ring) == len(start) else None


def _is_convex(points: NDArray[np.float64], normal: NDArray[np.float64]) -> bool:
    before, after = points - np.roll(points, 1, axis=0), np.roll(points, -1, axis=0) - points
    size = lengths(before) * lengths(after)
    return bool((dot(cross(before, after), np.broadcast_to(normal, before.shape)) > _TURN * size).all())
