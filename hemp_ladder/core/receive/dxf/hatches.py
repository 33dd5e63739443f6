"""Hatches: their boundaries, joined from edges, as areas by the rule that their style states."""

import math
from typing import Any

from ezdxf.math import Vec3

from hemp_ladder.core.drawn.curves import Subpath, polyline
from hemp_ladder.core.receive.dxf.plane import Flat, plane_of
from hemp_ladder.core.receive.dxf.polylines import bulged
from hemp_ladder.core.receive.dxf.splines import spline


def read_hatch(entity: Any) -> Flat | None:
    paths = [path for boundary in entity.paths.paths for path in _boundary(boundary)]
    if not paths:
        return None
    style = int(entity.dxf.get("hatch_style", 0))
    elevation = float(Vec3(entity.dxf.get("elevation", (0, 0, 0))).z)
    # 0 fills every second area from the outside in, 2 all that any outline encloses.
    rule = "nonzero" if style == 2 else "evenodd"
    if style == 1:
        paths = _outermost(entity) or paths
    return Flat(plane_of(entity, elevation), tuple(paths), fill=True, rule=rule)


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
