"""Holes: rings of open edges filled with triangles."""

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mend.repair.edit import edges_and_spots, with_flat
from hemp_ladder.core.mesh.edges import Edges, Numbers
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import cross, dot, lengths

#: A ring that leaves its plane by less than this share of its size is flat.
_FLAT = 1e-3
#: Rings that are not flat are filled with the least area up to so many edges.
_MOST = 200
#: Open edges that are followed, and rings, at the most: a soup that was never welded has millions.
_MOST_EDGES, _MOST_RINGS = 500_000, 20_000
#: A shell that would hold less than this, against what a ball of its area holds, is a sheet.
_SHEET = 0.01


def without_holes(mesh: Mesh) -> tuple[Mesh, int]:
    """With the rings of open edges filled, and how many were.

    A flat ring is filled in its plane, any other with the triangles of least
    area (G. Barequet and M. Sharir, "Filling gaps in the boundary of a
    polyhedron", 1995). The outer edge of a sheet is no hole: where what
    would be closed holds next to nothing, the longest ring of it stays.
    Rings that run through one place twice stay as well.
    """
    edges, spots = edges_and_spots(mesh)
    if not 0 < len(edges.borders) <= _MOST_EDGES:
        return mesh, 0
    rings = _rings(edges)
    if len(rings) > _MOST_RINGS:
        return mesh, 0
    fills: list[tuple[Numbers, Numbers]] = []
    filled = []
    for ring in rings:
        triangles = fill(spots[edges.end(ring)])
        if triangles is not None:
            fills.append((ring, triangles))
    fills = _without_sheets(mesh, edges, spots, fills)
    if not fills:
        return mesh, 0
    corner = mesh.triangles.reshape(-1)
    vertices, like = [], []
    for ring, triangles in fills:
        # The vertex at the end of each side, as its triangle has it.
        own = corner[np.where(ring % 3 == 2, ring - 2, ring + 1)]
        vertices.append(own[triangles])
        like.append(np.full(len(triangles), ring[0] // 3))
        filled.append(ring)
    return with_flat(mesh, np.concatenate(vertices), np.concatenate(like)), len(filled)


def _rings(edges: Edges) -> list[Numbers]:
    """Rings of open sides, each in the order in which a filling goes round: against that of the triangles there."""
    borders = edges.borders
    start, end = edges.start(borders), edges.end(borders)
    simple = (np.bincount(start)[start] == 1) & (np.bincount(end, minlength=int(end.max()) + 1)[end] == 1)
    at_end = dict(zip(end.tolist(), range(len(borders)), strict=True))
    used = ~simple
    rings = []
    starts, ends = start.tolist(), end.tolist()
    for first in range(len(borders)):
        ring, now = [], first
        while not used[now]:
            used[now] = True
            ring.append(now)
            if starts[now] not in at_end:
                ring = []
                break
            now = at_end[starts[now]]
        if len(ring) >= 3 and starts[ring[-1]] == ends[ring[0]]:
            rings.append(borders[ring])
    return rings


def fill(points: NDArray[np.float64]) -> Numbers | None:
    """Triangles (n - 2, 3) over a ring of points (n, 3), which they go round as the ring does; None where it cannot be
    filled without crossing itself."""
    count = len(points)
    if count == 3:
        return np.array([[0, 1, 2]])
    middle = points - points.mean(axis=0)
    normal = cross(middle, np.roll(middle, -1, axis=0)).sum(axis=0)
    size = float(np.linalg.norm(normal))
    if size > 0:
        off = np.abs(middle @ (normal / size)).max()
        if off <= _FLAT * np.ptp(middle, axis=0).max():
            return _in_plane(middle, normal / size)
    if count <= _MOST:
        return _least_area(middle)
    return _in_plane(middle, normal / size) if size > 0 else None


def _in_plane(points: NDArray[np.float64], normal: NDArray[np.float64]) -> Numbers | None:
    """By ear cutting of the ring as it is seen along the normal; None where it crosses itself there."""
    import mapbox_earcut
    import shapely

    across = np.eye(3)[np.abs(normal).argmin()]
    right = np.cross(across, normal)
    right /= np.linalg.norm(right)
    flat = np.column_stack([points @ right, points @ np.cross(normal, right)])
    if not shapely.Polygon(flat).is_valid:
        return None
    told = mapbox_earcut.triangulate_float64(flat, np.array([len(flat)], np.uint32)).astype(np.int64).reshape(-1, 3)
    a, b, c = flat[told].transpose(1, 0, 2)
    way = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    told[way < 0] = told[way < 0][:, ::-1]
    return told if len(told) == len(points) - 2 else None


def _least_area(points: NDArray[np.float64]) -> Numbers:
    """The triangles over a ring whose areas have the least sum: by sums over ever longer stretches of it."""
    count = len(points)
    best = np.zeros((count, count))
    split = np.zeros((count, count), np.int64)
    for span in range(2, count):
        i = np.arange(count - span)
        j = i + span
        middle = i[:, None] + np.arange(1, span)
        one = points[middle] - points[i][:, None]
        two = (points[j] - points[i])[:, None]
        area = np.linalg.norm(np.cross(one, two), axis=2)
        total = best[i[:, None], middle] + best[middle, j[:, None]] + area
        least = total.argmin(axis=1)
        best[i, j] = total[i, least]
        split[i, j] = middle[i, least]
    found: list[tuple[int, int, int]] = []
    left: list[tuple[int, int]] = [(0, count - 1)]
    while left:
        low, high = left.pop()
        if high - low >= 2:
            between = int(split[low, high])
            found.append((low, between, high))
            left += [(low, between), (between, high)]
    return np.array(found)


def _without_sheets(
    mesh: Mesh, edges: Edges, spots: NDArray[np.float64], fills: list[tuple[Numbers, Numbers]]
) -> list[tuple[Numbers, Numbers]]:
    """The fillings but those of the outer edges of sheets."""
    if not fills:
        return fills
    count, label = edges.shells
    corners = mesh.corners - mesh.positions.mean(axis=0)
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    six = np.bincount(label, dot(corners[:, 0], across), count)
    area = np.bincount(label, lengths(across) / 2, count)
    longest: dict[int, tuple[float, int]] = {}
    for number, (ring, triangles) in enumerate(fills):
        points = spots[edges.end(ring)] - mesh.positions.mean(axis=0)
        shell = int(label[ring[0] // 3])
        told = points[triangles]
        over = cross(told[:, 1] - told[:, 0], told[:, 2] - told[:, 0])
        six[shell] += dot(told[:, 0], over).sum()
        length = float(lengths(np.roll(points, -1, axis=0) - points).sum())
        longest[shell] = max(longest.get(shell, (0.0, -1)), (length, number))
    # A ball holds area^1.5 / (6 sqrt(pi)).
    ball = area**1.5 / (6 * np.sqrt(np.pi))
    gone = {number for shell, (_, number) in longest.items() if abs(six[shell]) / 6 <= _SHEET * ball[shell]}
    return [item for number, item in enumerate(fills) if number not in gone]
