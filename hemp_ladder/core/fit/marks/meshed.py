"""Marks of a mesh: creases and borders as edges, corners where they meet or bend, circles fitted to them, flat faces."""

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.fit.marks.marks import Array, Kind, Marks, MarksBuilder
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import cross, lengths

#: Faces that meet at more than this meet in an edge; an edge that bends by more than this has a corner there.
_CREASE, _BEND = np.radians(25), np.radians(40)
#: How far points may lie off a circle, as a share of its radius, and how many it takes to see one.
_ROUND, _FEWEST = 5e-3, 7
#: Flat faces smaller than this share of the part's size squared are not marked.
_SMALL = 1e-6


def mesh_marks(mesh: Mesh) -> Marks:
    """Marks of a mesh, in its coordinates."""
    build = MarksBuilder()
    if not len(mesh.triangles):
        return build.build()
    first = np.unique(mesh.welded, return_index=True)[1]
    positions = mesh.positions[first]
    triangles = mesh.welded[mesh.triangles]
    triangles = triangles[
        (triangles[:, 0] != triangles[:, 1])
        & (triangles[:, 1] != triangles[:, 2])
        & (triangles[:, 2] != triangles[:, 0])
    ]
    if not len(triangles):
        return build.build()
    build.size = max(float(np.linalg.norm(np.ptp(positions, axis=0))), 1e-12)
    corners = positions[triangles]
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    doubled = lengths(across)
    normals = across / np.where(doubled > 0, doubled, 1.0)[:, None]
    edges, pairs, sharp = _creases(triangles, normals)
    for chain, closed in _chains(edges[sharp], positions):
        _mark_chain(build, positions[chain], closed)
    _mark_faces(build, pairs[~sharp & (pairs[:, 1] >= 0)], normals, doubled / 2, corners)
    return build.build()


def _creases(
    triangles: NDArray[np.int64], normals: Array
) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.bool_]]:
    """Every edge once (e, 2), the triangles beside it (e, 2), the second -1 at a border, and whether it is a crease or a
    border. Where more than two triangles meet, it is one too."""
    every = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    owner = np.tile(np.arange(len(triangles)), 3)
    every = np.sort(every, axis=1)
    order = np.lexsort((every[:, 1], every[:, 0]))
    every, owner = every[order], owner[order]
    new = np.ones(len(every), bool)
    new[1:] = (every[1:] != every[:-1]).any(axis=1)
    starts = np.flatnonzero(new)
    counts = np.diff(np.append(starts, len(every)))
    pairs = np.full((len(starts), 2), -1, np.int64)
    pairs[:, 0] = owner[starts]
    two = counts >= 2
    pairs[two, 1] = owner[starts[two] + 1]
    bent = np.ones(len(starts), bool)
    bent[two] = np.abs(np.einsum("ij,ij->i", normals[pairs[two, 0]], normals[pairs[two, 1]])) < np.cos(_CREASE)
    return every[starts], pairs, bent | (counts != 2)


def _chains(edges: NDArray[np.int64], positions: Array) -> list[tuple[NDArray[np.int64], bool]]:
    """Edges joined where exactly two meet without bending: points along each, and whether it is closed."""
    if not len(edges):
        return []
    around: dict[int, list[int]] = {}
    for number, (a, b) in enumerate(edges.tolist()):
        around.setdefault(a, []).append(number)
        around.setdefault(b, []).append(number)
    ways = positions[edges[:, 1]] - positions[edges[:, 0]]
    ways /= np.maximum(lengths(ways), 1e-300)[:, None]
    cosine = np.cos(_BEND)

    def ends(point: int) -> bool:
        beside = around[point]
        if len(beside) != 2:
            return True
        one, two = beside
        same = (edges[one, 0] == point) == (edges[two, 0] == point)
        straight = float(ways[one] @ ways[two]) * (-1 if same else 1)
        return bool(straight < cosine)

    stops = {point for point in around if ends(point)}
    used = np.zeros(len(edges), bool)
    told: list[tuple[NDArray[np.int64], bool]] = []

    def follow(start: int, number: int) -> list[int]:
        line, point = [start], start
        while not used[number]:
            used[number] = True
            point = int(edges[number].sum()) - point
            line.append(point)
            if point in stops:
                break
            number = next((other for other in around[point] if not used[other]), number)
        return line

    for start in stops:
        for number in around[start]:
            if not used[number]:
                told.append((np.array(follow(start, number)), False))
    for number in range(len(edges)):
        if not used[number]:
            told.append((np.array(follow(int(edges[number, 0]), number)), True))
    return told


def _mark_chain(build: MarksBuilder, points: Array, closed: bool) -> None:
    steps = lengths(np.diff(points, axis=0))
    length = float(steps.sum())
    if not length:
        return
    if not closed:
        for end in (points[0], points[-1]):
            build.mark(Kind.CORNER, end, weight=length)
    chord = float(np.linalg.norm(points[-1] - points[0]))
    if not closed and length - chord <= 1e-6 * length:
        middle = build.mark(
            Kind.EDGE_MIDDLE, (points[0] + points[-1]) / 2, (points[-1] - points[0]) / chord, 0.0, length
        )
        build.line(points[[0, -1]], middle, length)
        return
    round_ = circle_through(points)
    if round_ is not None:
        centre, axis, radius = round_
        build.line(points, build.mark(Kind.CENTRE, centre, axis, radius, 2 * build.size + radius), length)
        if closed:
            return
    half = int(np.searchsorted(np.cumsum(steps), length / 2))
    middle = build.mark(Kind.EDGE_MIDDLE, (points[half] + points[half + 1]) / 2, (0, 0, 0), 0.0, length)
    if round_ is None:
        build.line(points, middle, length)


def circle_through(points: Array) -> tuple[Array, Array, float] | None:
    """Centre (3,), axis (3,) and radius of the circle that points (n, 3) lie on; None where they lie on none.

    By least squares in their plane. Source: I. Kasa, "A circle fitting procedure and its error analysis", IEEE Trans.
    Instrum. Meas. 25, 1976.
    """
    if len(points) < _FEWEST:
        return None
    middle = points.mean(axis=0)
    _, spread, along = np.linalg.svd(points - middle, full_matrices=False)
    if spread[1] <= 1e-3 * spread[0] or spread[2] > 1e-3 * spread[1]:
        return None
    flat = (points - middle) @ along[:2].T
    told = np.linalg.lstsq(np.column_stack([2 * flat, np.ones(len(flat))]), (flat**2).sum(axis=1), rcond=None)[0]
    radius = float(np.sqrt(max(told[2] + told[0] ** 2 + told[1] ** 2, 0.0)))
    if not np.isfinite(radius) or radius == 0:
        return None
    off = np.abs(np.hypot(flat[:, 0] - told[0], flat[:, 1] - told[1]) - radius).max()
    # A bend of few degrees is a circle of any radius to whoever fits one.
    sweep = float(lengths(np.diff(points, axis=0)).sum()) / radius
    if off > _ROUND * radius or sweep < np.radians(25):
        return None
    return middle + told[0] * along[0] + told[1] * along[1], along[2], radius


def _mark_faces(build: MarksBuilder, pairs: NDArray[np.int64], normals: Array, areas: Array, corners: Array) -> None:
    """Triangles that meet in no crease are one face: flat ones are marked at their centres of area."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    count = len(normals)
    graph = coo_matrix((np.ones(len(pairs), bool), (pairs[:, 0], pairs[:, 1])), shape=(count, count))
    many, face = connected_components(graph, directed=False)
    area = np.bincount(face, areas, many)
    centre = np.stack([np.bincount(face, areas * corners[:, :, k].mean(axis=1), many) for k in range(3)], axis=1)
    normal = np.stack([np.bincount(face, areas * normals[:, k], many) for k in range(3)], axis=1)
    for number in np.argsort(-area, kind="stable")[:8000]:
        if area[number] <= _SMALL * build.size**2:
            break
        straight = normal[number] / area[number]
        if np.linalg.norm(straight) > 1 - 1e-6:
            at = centre[number] / area[number]
            build.mark(
                Kind.FACE_CENTRE,
                at,
                straight / np.linalg.norm(straight),
                0.0,
                3 * build.size + float(np.sqrt(area[number])),
            )
