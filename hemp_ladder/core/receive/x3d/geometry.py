"""Geometry nodes as polygons (ISO/IEC 19775-1, clauses 11 and 13)."""

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.receive.meshed.colours import linear
from hemp_ladder.core.receive.meshed.parts import Polygons, cornered
from hemp_ladder.core.receive.meshed.polygons import strips, triangulated
from hemp_ladder.core.receive.x3d.scene import SceneNode

#: A round primitive has so many sides: the format leaves that to who shows it.
_SIDES = 48
#: Positions, corners of all polygons, and how many each has, seen from outside counterclockwise.
Solid = tuple[NDArray[np.float64], NDArray[np.int64], NDArray[np.int64]]
_Stream = tuple[NDArray[np.float32], NDArray[np.int64]]
POLYGONS = {
    "IndexedFaceSet", "IndexedTriangleSet", "TriangleSet", "IndexedTriangleStripSet", "IndexedTriangleFanSet",
    "TriangleStripSet", "TriangleFanSet", "QuadSet", "IndexedQuadSet", "ElevationGrid",
}  # fmt: skip
ROUND = {"Box", "Sphere", "Cone", "Cylinder"}
#: What may be left out of round ones (13.3.2, 13.3.3).
_SURFACES = {"Cone": ("bottom", "side"), "Cylinder": ("bottom", "side", "top")}
LINES = {"IndexedLineSet", "LineSet", "PointSet", "Text", "Arc2D", "Circle2D", "Polyline2D", "Polypoint2D"}


def polygons(node: SceneNode, material: str | None) -> Polygons:
    """The triangles of a geometry node, all in one material."""
    if node.kind in ROUND:
        positions, corners, counts = _primitive(node)
        places, _ = triangulated(positions, corners, counts)
        return Polygons(positions, corners[places], {}, np.zeros(len(places), np.int64), [material])
    if node.kind == "ElevationGrid":
        positions, corners, counts = _grid(node)
        own = corners
    else:
        coordinate = node.one("Coordinate", "CoordinateDouble")
        positions = _rows(coordinate, "point", 3)
        own, counts = _corners(node, len(positions))
        corners = own
    inside = (corners >= 0) & (corners < len(positions))
    if not len(positions) or not len(corners):
        return Polygons(np.zeros((0, 3)), np.zeros((0, 3), np.int64))
    safe = np.where(inside, corners, 0)
    places = _triangles(node, positions, safe, counts)
    if not node.true("ccw", True):
        places = np.ascontiguousarray(places[:, ::-1])
    owner = np.repeat(np.arange(len(counts)), counts)
    streams = _hung(node, own, owner)
    spots, vertex, attributes = cornered(positions, safe, streams)
    triangles = np.where(inside, vertex, -1)[places]
    return Polygons(spots, triangles, attributes, np.zeros(len(triangles), np.int64), [material])


def _triangles(
    node: SceneNode, positions: NDArray[np.float64], corners: NDArray[np.int64], counts: NDArray[np.int64]
) -> NDArray[np.int64]:
    """As places among the corners."""
    if "Strip" not in node.kind and "Fan" not in node.kind:
        return triangulated(positions, corners, counts)[0]
    runs, start = [np.zeros((0, 3), np.int64)], 0
    for count in counts.tolist():
        runs.append(strips(np.arange(start, start + count), "Fan" in node.kind))
        start += count
    return np.concatenate(runs)


def _rows(node: SceneNode | None, name: str, width: int) -> NDArray[np.float64]:
    values = node.numbers(name) if node is not None else np.zeros(0)
    return values[: len(values) // width * width].reshape(-1, width)


def _corners(node: SceneNode, points: int) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Indices of the corners of all polygons or strips, and how many each has."""
    kind = node.kind
    if kind == "IndexedFaceSet" or kind.startswith(("IndexedTriangleStrip", "IndexedTriangleFan")):
        return _parted(node.whole("coordIndex" if kind == "IndexedFaceSet" else "index"))
    width = 4 if "Quad" in kind else 3
    if kind in ("IndexedTriangleSet", "IndexedQuadSet"):
        index = node.whole("index")
        return index[: len(index) // width * width], np.full(len(index) // width, width, np.int64)
    if kind in ("TriangleStripSet", "TriangleFanSet"):
        counts = np.maximum(node.whole("stripCount" if "Strip" in kind else "fanCount"), 0)
        counts = counts[np.cumsum(counts) <= points]
        return np.arange(int(counts.sum())), counts
    return np.arange(points // width * width), np.full(points // width, width, np.int64)


def _parted(index: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Runs that end at -1."""
    ends = np.flatnonzero(index < 0)
    if not len(ends) or ends[-1] != len(index) - 1:
        index, ends = np.append(index, -1), np.append(ends, len(index))
    counts = np.diff(np.concatenate([[-1], ends])) - 1
    return index[index >= 0], counts


def _hung(node: SceneNode, corners: NDArray[np.int64], owner: NDArray[np.int64]) -> dict[str, _Stream]:
    """Normals, UV and colours of corners: by their own indices where there are any, else by those of the points."""
    found: dict[str, _Stream] = {}
    colour = node.one("Color", "ColorRGBA")
    shades = _rows(colour, "color", 4 if colour is not None and colour.kind == "ColorRGBA" else 3)
    values = {
        "normal": (_rows(node.one("Normal"), "vector", 3).astype(np.float32), "normalIndex", "normalPerVertex"),
        "uv": (_rows(node.one("TextureCoordinate"), "point", 2).astype(np.float32), "texCoordIndex", ""),
        "colour": (linear(shades[:, :3], shades[:, 3] if shades.shape[1] > 3 else None), "colorIndex", "colorPerVertex"),
    }  # fmt: skip
    for name, (rows, index_name, by) in values.items():
        if not len(rows):
            continue
        told = node.whole(index_name)
        if by and not node.true(by, True):
            index = told[owner] if len(told) > owner.max(initial=0) else owner
        else:
            index = _parted(told)[0] if len(told) else corners
        if len(index) == len(corners) and ((index >= 0) & (index < len(rows))).all():
            found[name] = (rows, index)
    return found


def _grid(node: SceneNode) -> tuple[NDArray[np.float64], NDArray[np.int64], NDArray[np.int64]]:
    wide, deep = int(node.number("xDimension", 0)), int(node.number("zDimension", 0))
    heights = node.numbers("height")
    if wide < 2 or deep < 2 or len(heights) < wide * deep:
        return np.zeros((0, 3)), np.zeros(0, np.int64), np.zeros(0, np.int64)
    z, x = np.mgrid[0:deep, 0:wide]
    positions = np.column_stack(
        [x.ravel() * node.number("xSpacing", 1.0), heights[: wide * deep], z.ravel() * node.number("zSpacing", 1.0)]
    )
    first = (np.arange(deep - 1)[:, None] * wide + np.arange(wide - 1)).ravel()
    squares = np.stack([first, first + wide, first + wide + 1, first + 1], axis=1)
    return positions, squares.ravel(), np.full(len(squares), 4, np.int64)


def _primitive(node: SceneNode) -> Solid:
    x, y, z = node.vector("size", (2.0, 2.0, 2.0))
    radius = node.number("bottomRadius" if node.kind == "Cone" else "radius", 1.0)
    positions, corners, counts = round_shape(node.kind, (x, y, z), radius, node.number("height", 2.0))
    if node.kind in _SURFACES:
        # As many polygons each, from the bottom up.
        there = np.repeat([node.true(name, True) for name in _SURFACES[node.kind]], _SIDES)
        corners, counts = corners[np.repeat(there, counts)], counts[there]
    return positions, corners, counts


def round_shape(kind: str, size: tuple[float, float, float], radius: float, height: float) -> Solid:
    """A box of a size, or a sphere, cylinder, cone or capsule about Y, around the origin."""
    if kind in ("Box", "Cube"):
        x, y, z = (side / 2 for side in size)
        spots = np.array([[i * x, j * y, k * z] for i in (-1, 1) for j in (-1, 1) for k in (-1, 1)])
        faces = [0, 1, 3, 2, 4, 6, 7, 5, 0, 4, 5, 1, 2, 3, 7, 6, 0, 2, 6, 4, 1, 5, 7, 3]
        return spots, np.array(faces), np.full(6, 4, np.int64)
    half = height / 2
    if kind in ("Sphere", "Capsule"):
        apart = half if kind == "Capsule" else 0.0
        angles = np.pi * np.arange(1, _SIDES // 2) / (_SIDES // 2)
        rings = [(radius * np.sin(a), -radius * np.cos(a) + (apart if a > np.pi / 2 else -apart)) for a in angles]
        return _turned(rings, -radius - apart, radius + apart)
    return _turned([(radius, -half)] if kind == "Cone" else [(radius, -half), (radius, half)], -half, half)


def _turned(rings: list[tuple[float, float]], low: float, high: float) -> Solid:
    """Rings, radius by height, about Y, closed by a point at each end."""
    around = 2 * np.pi * np.arange(_SIDES) / _SIDES
    spots = [np.column_stack([r * np.sin(around), np.full(_SIDES, y), r * np.cos(around)]) for r, y in rings]
    positions = np.concatenate([*spots, [[0, low, 0], [0, high, 0]]])
    k = np.arange(_SIDES)
    n = (k + 1) % _SIDES
    bottom, top = len(positions) - 2, len(positions) - 1
    last = (len(rings) - 1) * _SIDES
    corners = [np.stack([np.full(_SIDES, bottom), n, k], axis=1).ravel()]
    counts = [np.full(_SIDES, 3)]
    for ring in range(len(rings) - 1):
        a, b = ring * _SIDES, (ring + 1) * _SIDES
        corners.append(np.stack([k + a, n + a, n + b, k + b], axis=1).ravel())
        counts.append(np.full(_SIDES, 4))
    corners.append(np.stack([k + last, n + last, np.full(_SIDES, top)], axis=1).ravel())
    counts.append(np.full(_SIDES, 3))
    return positions, np.concatenate(corners), np.concatenate(counts).astype(np.int64)
