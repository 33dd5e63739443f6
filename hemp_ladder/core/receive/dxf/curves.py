"""Entities that are drawn in a plane, as exact subpaths in that plane.

An entity's plane is its own: the arbitrary axis algorithm of the DXF
reference gives the axes from its extrusion direction, its elevation the
height. What is in world coordinates and lies level is drawn at its height.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from ezdxf.math import OCS, Matrix44, Vec3
from numpy.typing import NDArray

from hemp_ladder.core.drawn.curves import Segment, Subpath, circle, polyline
from hemp_ladder.core.drawn.shape import Shape, Stroke

#: Heights and ends that differ by less than this share of the numbers themselves are the same.
SAME = 1e-9


#: An extrusion direction and an elevation along it.
Plane = tuple[float, float, float, float]


@lru_cache(maxsize=1024)
def frame_of(plane: Plane) -> NDArray[np.float64]:
    """4 x 4 from the plane to the coordinates around it; not to be changed."""
    ocs = OCS(Vec3(plane[:3]))
    frame = np.eye(4)
    if ocs.transform:
        frame[:3, 0], frame[:3, 1], frame[:3, 2] = ocs.ux.xyz, ocs.uy.xyz, ocs.uz.xyz
    frame[:3, 3] = frame[:3, 2] * plane[3]
    return frame


@dataclass(slots=True)
class Flat:
    """Subpaths in a plane, how high they are by themselves, and what they are."""

    plane: Plane
    paths: tuple[Subpath, ...]
    thickness: float = 0.0
    fill: bool = False
    rule: Any = "nonzero"
    width: float = 0.0

    @property
    def closed(self) -> bool:
        return bool(self.paths) and all(path.closed for path in self.paths)

    def shape(self) -> Shape:
        pen = Stroke(self.width, "miter", "butt", 10.0) if self.width > 0 else None
        return Shape(self.paths, self.rule, pen)


def flat(entity: Any) -> Flat | None:
    """The entity in its plane; None for one that lies in none, or draws no line.

    Raises ValueError or an error of the library for an entity in error.
    """
    reader = _READERS.get(entity.dxftype())
    return reader(entity) if reader else None


def _frame(entity: Any, elevation: float) -> Plane:
    if not entity.dxf.hasattr("extrusion"):
        return 0.0, 0.0, 1.0, float(elevation)
    x, y, z = Vec3(entity.dxf.extrusion).xyz
    return round(x, 12), round(y, 12), round(z, 12), float(elevation)


def _thickness(entity: Any) -> float:
    return float(entity.dxf.get("thickness", 0.0))


def _circle(entity: Any) -> Flat | None:
    centre, radius = Vec3(entity.dxf.center), float(entity.dxf.radius)
    if radius <= 0:
        return None
    path = circle(centre.x, centre.y, radius)
    return Flat(_frame(entity, centre.z), (path,), _thickness(entity))


def _arc(entity: Any) -> Flat | None:
    centre, radius = Vec3(entity.dxf.center), float(entity.dxf.radius)
    if radius <= 0:
        return None
    start = math.radians(entity.dxf.start_angle)
    sweep = math.radians(entity.dxf.end_angle - entity.dxf.start_angle) % (2 * math.pi) or 2 * math.pi
    segment: Segment = ("A", (centre.x, centre.y, radius, 0.0, 0.0, radius, start, sweep))
    begin = centre.x + radius * math.cos(start), centre.y + radius * math.sin(start)
    return Flat(_frame(entity, centre.z), (Subpath(begin, (segment,), sweep >= 2 * math.pi),), _thickness(entity))


def _line(entity: Any) -> Flat | None:
    a, b = Vec3(entity.dxf.start), Vec3(entity.dxf.end)
    if entity.dxf.hasattr("extrusion"):
        ocs = OCS(Vec3(entity.dxf.extrusion))
        a, b = ocs.from_wcs(a), ocs.from_wcs(b)
    if not _level([a.z, b.z], [a.x, a.y, b.x, b.y]) or (a.x, a.y) == (b.x, b.y):
        return None
    return Flat(_frame(entity, a.z), (polyline([(a.x, a.y), (b.x, b.y)], False),), _thickness(entity))


def _level(heights: list[float], others: list[float]) -> bool:
    size = max((abs(v) for v in others), default=0.0)
    return max(heights) - min(heights) <= SAME * max(size, 1e-12)


def _ellipse(entity: Any) -> Flat | None:
    ocs = OCS(Vec3(entity.dxf.get("extrusion", (0, 0, 1))))
    centre, major = ocs.from_wcs(Vec3(entity.dxf.center)), ocs.from_wcs(Vec3(entity.dxf.major_axis))
    ratio = float(entity.dxf.ratio)
    if major.magnitude <= 0 or abs(major.z) > 1e-6 * major.magnitude or ratio == 0:
        return None
    start = float(entity.dxf.get("start_param", 0.0))
    sweep = (float(entity.dxf.get("end_param", 2 * math.pi)) - start) % (2 * math.pi)
    if sweep < 1e-9 or 2 * math.pi - sweep < 1e-9:
        sweep = 2 * math.pi
    u, v = (major.x, major.y), (-major.y * ratio, major.x * ratio)
    c, s = math.cos(start), math.sin(start)
    begin = centre.x + u[0] * c + v[0] * s, centre.y + u[1] * c + v[1] * s
    segment: Segment = ("A", (centre.x, centre.y, *u, *v, start, sweep))
    return Flat(_frame(entity, centre.z), (Subpath(begin, (segment,), sweep >= 2 * math.pi),))


def _spline(entity: Any) -> Flat | None:
    tool = entity.construction_tool()
    points = np.array([Vec3(p).xyz for p in tool.control_points])
    plane = _plane_of(points)
    if plane is None:
        return None
    tool = tool.transform(Matrix44(np.linalg.inv(frame_of(plane)).T.reshape(-1).tolist()))
    return Flat(plane, (spline(tool, bool(entity.closed)),))


def _plane_of(points: NDArray[np.float64]) -> Plane | None:
    """The plane that all points lie in, facing up, or forward where it stands upright; None where there is none."""
    if len(points) < 2:
        return None
    middle = points.mean(axis=0)
    size = float(np.ptp(points, axis=0).max())
    if float(np.ptp(points[:, 2])) <= SAME * max(size, 1e-12):
        return _level_frame(float(points[0, 2]))
    _, spread, axes = np.linalg.svd(points - middle)
    if len(spread) < 3 or spread[2] > 1e-7 * spread[0] or spread[1] <= 1e-7 * spread[0]:
        return None
    normal = axes[2] * (1 if tuple(axes[2][::-1]) > (0.0, 0.0, 0.0) else -1)
    x, y, z = (round(float(value), 12) for value in normal)
    return x, y, z, float(normal @ middle)


def spline(tool: Any, closed: bool) -> Subpath:
    """A subpath from the library's B-spline, in X and Y."""
    points = [(p.x, p.y) for p in map(Vec3, tool.control_points)]
    knots = [float(k) for k in tool.knots()]
    weights = [float(w) for w in tool.weights()] or [1.0] * len(points)
    degree = int(tool.degree)
    flat_points = [v for p in points for v in p]
    segment: Segment = ("S", (float(degree), float(len(points)), *knots, *flat_points, *weights))
    from hemp_ladder.core.drawn.flatten import Fineness, flatten

    # Where its knots are not doubled at the ends it does not begin at its first control point.
    begin = points[0]
    if knots[0] != knots[degree]:
        from scipy.interpolate import BSpline

        curve = BSpline(
            np.array(knots), np.column_stack([np.array(points) * np.array(weights)[:, None], weights]), degree
        )
        value = curve(knots[degree])
        begin = (float(value[0] / value[2]), float(value[1] / value[2]))
    path = Subpath(begin, (segment,), closed)
    if not closed:
        ends = flatten(path, Fineness(math.inf, math.pi))
        size = float(np.ptp(ends, axis=0).max())
        gap = math.dist(ends[0], ends[-1])
        path = Subpath(begin, (segment,), len(points) > 2 and size > 0 and gap <= SAME * size)
    return path


def _level_frame(height: float) -> Plane:
    return 0.0, 0.0, 1.0, float(height)


def bulged(points: list[tuple[float, float, float]], closed: bool) -> Subpath:
    """Straight lines and arcs from (x, y, bulge): the tangent of a quarter of the arc's angle, to the next point."""
    start = points[0][:2]
    segments: list[Segment] = []
    ends = [*points[1:], points[0]] if closed else points[1:]
    line: list[float] = []
    for (x, y, bulge), (tx, ty, _) in zip(points, ends, strict=False):
        if abs(bulge) < 1e-12 or (x, y) == (tx, ty):
            line += (tx, ty)
            continue
        if line:
            segments.append(("L", tuple(line)))
            line = []
        segments.append(_bulge((x, y), (tx, ty), bulge))
    if closed and line and not segments:
        line = line[:-2]
    if line:
        segments.append(("L", tuple(line)))
    return Subpath(start, tuple(segments), closed)


def _bulge(a: tuple[float, float], b: tuple[float, float], bulge: float) -> Segment:
    dx, dy = b[0] - a[0], b[1] - a[1]
    across = (1 - bulge * bulge) / (4 * bulge)
    cx, cy = (a[0] + b[0]) / 2 - dy * across, (a[1] + b[1]) / 2 + dx * across
    radius = math.dist(a, (cx, cy))
    return "A", (cx, cy, radius, 0.0, 0.0, radius, math.atan2(a[1] - cy, a[0] - cx), 4 * math.atan(bulge))


def _lwpolyline(entity: Any) -> Flat | None:
    # x, y, widths where it starts and ends, bulge
    rows = np.asarray(entity.lwpoints.values, dtype=np.float64).reshape(-1, 5).tolist()
    return _wide(entity, rows, bool(entity.closed), float(entity.dxf.get("elevation", 0.0)),
                 float(entity.dxf.get("const_width", 0.0)))  # fmt: skip


def _polyline(entity: Any) -> Flat | None:
    if entity.is_polygon_mesh or entity.is_poly_face_mesh:
        return None
    # Control points of a fitted curve stand beside the curve's own.
    vertices = [v for v in entity.vertices if not v.dxf.get("flags", 0) & 16]
    if entity.is_3d_polyline:
        points = np.array([Vec3(v.dxf.location).xyz for v in vertices])
        plane = _plane_of(points)
        if plane is None:
            return None
        frame = frame_of(plane)
        flat_points = (points - frame[:3, 3]) @ frame[:3, :3]
        return Flat(plane, (bulged([(x, y, 0.0) for x, y, _ in flat_points.tolist()], bool(entity.is_closed)),))
    first = float(entity.dxf.get("default_start_width", 0.0)), float(entity.dxf.get("default_end_width", 0.0))
    rows = [
        (v.dxf.location[0], v.dxf.location[1], float(v.dxf.get("start_width", first[0])),
         float(v.dxf.get("end_width", first[1])), float(v.dxf.get("bulge", 0.0)))
        for v in vertices
    ]  # fmt: skip
    return _wide(entity, rows, bool(entity.is_closed), float(Vec3(entity.dxf.get("elevation", (0, 0, 0))).z), 0.0)


def _wide(entity: Any, rows: list[Any], closed: bool, elevation: float, constant: float) -> Flat | None:
    """A polyline that may have a width: of its own, or from vertex to vertex."""
    rows = [row for i, row in enumerate(rows) if not i or row[:2] != rows[i - 1][:2]]
    if len(rows) < 2:
        return None
    frame, thickness = _frame(entity, elevation), _thickness(entity)
    path = bulged([(x, y, bulge) for x, y, _, _, bulge in rows], closed)
    if not constant and not any(row[2] or row[3] for row in rows):
        return Flat(frame, (path,), thickness)
    widths = [(s or constant, e or constant) for _, _, s, e, _ in (rows if closed else rows[:-1])]
    most = max((max(pair) for pair in widths), default=0.0)
    if most <= 0:
        return Flat(frame, (path,), thickness)
    if all(pair == (most, most) for pair in widths):
        return Flat(frame, (path,), thickness, width=most)
    return Flat(frame, tuple(_tapers(rows, widths, closed)), thickness, fill=True)


def _tapers(rows: list[Any], widths: list[tuple[float, float]], closed: bool) -> list[Subpath]:
    """A quadrilateral for each piece of a line that changes its width; arcs as their chords."""
    found = []
    for i, (begin, end) in enumerate(widths):
        (x, y), (tx, ty) = rows[i][:2], rows[(i + 1) % len(rows)][:2]
        length = math.hypot(tx - x, ty - y)
        if length <= 0 or begin + end <= 0:
            continue
        nx, ny = -(ty - y) / length / 2, (tx - x) / length / 2
        corners = [(x - nx * begin, y - ny * begin), (tx - nx * end, ty - ny * end),
                   (tx + nx * end, ty + ny * end), (x + nx * begin, y + ny * begin)]  # fmt: skip
        found.append(polyline(corners, True))
    return found


def _solid(entity: Any) -> Flat | None:
    """Four corners, the last two the other way round; filled."""
    corners = [Vec3(entity.dxf.get(f"vtx{k}", entity.dxf.vtx2)) for k in (0, 1, 3, 2)]
    points = [(c.x, c.y) for i, c in enumerate(corners) if not i or (c.x, c.y) != (corners[i - 1].x, corners[i - 1].y)]
    if len(set(points)) < 3:
        return None
    path = polyline(points, True)
    return Flat(_frame(entity, corners[0].z), (path,), _thickness(entity), fill=True)


def _hatch(entity: Any) -> Flat | None:
    paths = [path for boundary in entity.paths.paths for path in _boundary(boundary)]
    if not paths:
        return None
    style = int(entity.dxf.get("hatch_style", 0))
    elevation = float(Vec3(entity.dxf.get("elevation", (0, 0, 0))).z)
    # 0 fills every second area from the outside in, 2 all that any outline encloses.
    rule = "nonzero" if style == 2 else "evenodd"
    if style == 1:
        paths = _outermost(entity) or paths
    return Flat(_frame(entity, elevation), tuple(paths), fill=True, rule=rule)


def _outermost(entity: Any) -> list[Subpath]:
    """Outlines that are marked as external or outermost."""
    return [p for boundary in entity.paths.paths if boundary.path_type_flags & 17 for p in _boundary(boundary)]


def _boundary(boundary: Any) -> list[Subpath]:
    if hasattr(boundary, "vertices"):
        points = [(float(v[0]), float(v[1]), float(v[2]) if len(v) > 2 else 0.0) for v in boundary.vertices]
        return [bulged(points, True)] if len(points) > 1 else []
    pieces = [path for path in map(_edge, boundary.edges) if path is not None]
    return _joined(pieces)


def _edge(edge: Any) -> Subpath | None:
    kind = type(edge).__name__
    if kind == "LineEdge":
        return polyline([(edge.start[0], edge.start[1]), (edge.end[0], edge.end[1])], False)
    if kind == "SplineEdge":
        return spline(edge.construction_tool(), False)
    centre = edge.center
    if kind == "ArcEdge":
        major, minor = (edge.radius, 0.0), (0.0, edge.radius)
        start, end = math.radians(edge.start_angle), math.radians(edge.end_angle)
    elif kind == "EllipseEdge":
        major = (edge.major_axis[0], edge.major_axis[1])
        minor = (-major[1] * edge.ratio, major[0] * edge.ratio)
        start, end = float(edge.start_param), float(edge.end_param)
    else:
        return None
    sweep = (end - start) % (2 * math.pi) or 2 * math.pi
    if not edge.ccw:
        start, sweep = start + sweep, -sweep
    c, s = math.cos(start), math.sin(start)
    begin = centre[0] + major[0] * c + minor[0] * s, centre[1] + major[1] * c + minor[1] * s
    return Subpath(begin, (("A", (centre[0], centre[1], *major, *minor, start, sweep)),), False)


def _joined(pieces: list[Subpath]) -> list[Subpath]:
    """Edges of a boundary end to end, each turned where it must be; every loop closed."""
    found: list[Subpath] = []
    while pieces:
        path = pieces.pop(0)
        start, end, segments = path.start, path.end, list(path.segments)
        size = max(abs(v) for v in (*start, *end, 1e-12))
        while pieces and math.dist(start, end) > 1e-6 * size:
            near = min(
                ((math.dist(end, p.start), i, False) for i, p in enumerate(pieces)), default=(math.inf, 0, False)
            )
            far = min(((math.dist(end, p.end), i, True) for i, p in enumerate(pieces)), default=(math.inf, 0, True))
            away, i, turn = min(near, far)
            if away > 1e-4 * size:
                break
            following = pieces.pop(i)
            following = following.reversed() if turn else following
            segments += following.segments
            end = following.end
        found.append(Subpath(start, tuple(segments), True))
    return found


_READERS: dict[str, Callable[[Any], Flat | None]] = {
    "CIRCLE": _circle, "ARC": _arc, "LINE": _line, "ELLIPSE": _ellipse, "SPLINE": _spline,
    "LWPOLYLINE": _lwpolyline, "POLYLINE": _polyline, "SOLID": _solid, "TRACE": _solid, "HATCH": _hatch,
    "MPOLYGON": _hatch,
}  # fmt: skip
