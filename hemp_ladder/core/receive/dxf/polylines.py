"""Polylines: straight lines and arcs by their bulges, with a width or without."""

import math
from typing import Any

import numpy as np
from ezdxf.math import Vec3

from hemp_ladder.core.drawn.curves import Segment, Subpath, polyline
from hemp_ladder.core.receive.dxf.plane import Flat, Plane, frame_of, plane_of, plane_through, thickness_of


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


def read_lwpolyline(entity: Any) -> Flat | None:
    # x, y, widths where it starts and ends, bulge
    dxf = entity.dxf
    rows = np.asarray(entity.lwpoints.values, dtype=np.float64).reshape(-1, 5).tolist()
    elevation, constant = (
        float(getattr(dxf, name)) if dxf.hasattr(name) else 0.0 for name in ("elevation", "const_width")
    )
    return wide(rows, bool(entity.closed), plane_of(entity, elevation), thickness_of(entity), constant)


def read_polyline(entity: Any) -> Flat | None:
    if entity.is_polygon_mesh or entity.is_poly_face_mesh:
        return None
    # Control points of a fitted curve stand beside the curve's own.
    vertices = [v for v in entity.vertices if not v.dxf.get("flags", 0) & 16]
    if entity.is_3d_polyline:
        points = np.array([Vec3(v.dxf.location).xyz for v in vertices])
        plane = plane_through(points)
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
    plane = plane_of(entity, float(Vec3(entity.dxf.get("elevation", (0, 0, 0))).z))
    return wide(rows, bool(entity.is_closed), plane, thickness_of(entity), 0.0)


def wide(rows: list[Any], closed: bool, plane: Plane, thickness: float, constant: float) -> Flat | None:
    """A polyline that may have a width: of its own, or from vertex to vertex.

    rows  x, y, widths where it starts and ends, bulge
    """
    rows = [row for i, row in enumerate(rows) if not i or row[:2] != rows[i - 1][:2]]
    if len(rows) < 2:
        return None
    path = bulged([(x, y, bulge) for x, y, _, _, bulge in rows], closed)
    if not constant and not any(row[2] or row[3] for row in rows):
        return Flat(plane, (path,), thickness)
    widths = [(s or constant, e or constant) for _, _, s, e, _ in (rows if closed else rows[:-1])]
    most = max((max(pair) for pair in widths), default=0.0)
    if most <= 0:
        return Flat(plane, (path,), thickness)
    if all(pair == (most, most) for pair in widths):
        return Flat(plane, (path,), thickness, width=most)
    return Flat(plane, tuple(_tapers(rows, widths, closed)), thickness, fill=True)


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
