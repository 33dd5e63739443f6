"""Entities that are drawn in a plane, as exact subpaths in that plane: the simple ones, and who reads the others.

What is in world coordinates and lies level is drawn at its height.
"""

import math
from collections.abc import Callable
from typing import Any

from ezdxf.math import OCS, Vec3

from hemp_ladder.core.drawn.curves import Segment, Subpath, circle, polyline
from hemp_ladder.core.receive.dxf.hatches import read_hatch
from hemp_ladder.core.receive.dxf.plane import Flat, Plane, extrusion_of, level, plane_of, thickness_of
from hemp_ladder.core.receive.dxf.polylines import read_lwpolyline, read_polyline
from hemp_ladder.core.receive.dxf.splines import read_spline


def flat(entity: Any) -> Flat | None:
    """The entity in its plane; None for one that lies in none, or draws no line.

    Raises ValueError or an error of the library for an entity in error.
    """
    reader = _READERS.get(entity.dxftype())
    return reader(entity) if reader else None


def _circle(entity: Any) -> Flat | None:
    centre = Vec3(entity.dxf.center)
    return circle_at(centre.x, centre.y, float(entity.dxf.radius), plane_of(entity, centre.z), thickness_of(entity))


def circle_at(x: float, y: float, radius: float, plane: Plane, thickness: float) -> Flat | None:
    return Flat(plane, (circle(x, y, radius),), thickness) if radius > 0 else None


def _arc(entity: Any) -> Flat | None:
    centre, angles = Vec3(entity.dxf.center), (entity.dxf.start_angle, entity.dxf.end_angle)
    plane, thickness = plane_of(entity, centre.z), thickness_of(entity)
    return arc_at(centre.x, centre.y, float(entity.dxf.radius), *angles, plane, thickness)


def arc_at(
    x: float, y: float, radius: float, start_angle: float, end_angle: float, plane: Plane, thickness: float
) -> Flat | None:
    """Anticlockwise from one angle to the other, in degrees."""
    if radius <= 0:
        return None
    start = math.radians(start_angle)
    sweep = math.radians(end_angle - start_angle) % (2 * math.pi) or 2 * math.pi
    segment: Segment = ("A", (x, y, radius, 0.0, 0.0, radius, start, sweep))
    begin = x + radius * math.cos(start), y + radius * math.sin(start)
    return Flat(plane, (Subpath(begin, (segment,), sweep >= 2 * math.pi),), thickness)


def _line(entity: Any) -> Flat | None:
    a, b = Vec3(entity.dxf.start), Vec3(entity.dxf.end)
    if entity.dxf.hasattr("extrusion"):
        ocs = OCS(extrusion_of(entity))
        a, b = ocs.from_wcs(a), ocs.from_wcs(b)
    return line_between(a.xyz, b.xyz, plane_of(entity, a.z), thickness_of(entity))


def line_between(
    start: tuple[float, float, float], end: tuple[float, float, float], plane: Plane, thickness: float
) -> Flat | None:
    """In the plane at the height of its start."""
    (ax, ay, az), (bx, by, bz) = start, end
    if not level([az, bz], [ax, ay, bx, by]) or (ax, ay) == (bx, by):
        return None
    return Flat(plane, (polyline([(ax, ay), (bx, by)], False),), thickness)


def _ellipse(entity: Any) -> Flat | None:
    ocs = OCS(extrusion_of(entity))
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
    return Flat(plane_of(entity, centre.z), (Subpath(begin, (segment,), sweep >= 2 * math.pi),))


def _solid(entity: Any) -> Flat | None:
    """Four corners, the last two the other way round; filled."""
    corners = [Vec3(entity.dxf.get(f"vtx{k}", entity.dxf.vtx2)) for k in (0, 1, 3, 2)]
    points = [(c.x, c.y) for i, c in enumerate(corners) if not i or (c.x, c.y) != (corners[i - 1].x, corners[i - 1].y)]
    if len(set(points)) < 3:
        return None
    path = polyline(points, True)
    return Flat(plane_of(entity, corners[0].z), (path,), thickness_of(entity), fill=True)


_READERS: dict[str, Callable[[Any], Flat | None]] = {
    "CIRCLE": _circle, "ARC": _arc, "LINE": _line, "ELLIPSE": _ellipse, "SPLINE": read_spline,
    "LWPOLYLINE": read_lwpolyline, "POLYLINE": read_polyline, "SOLID": _solid, "TRACE": _solid, "HATCH": read_hatch,
    "MPOLYGON": read_hatch,
}  # fmt: skip
