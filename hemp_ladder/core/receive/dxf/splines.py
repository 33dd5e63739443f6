"""Splines, exact: the library's B-spline as a segment of a subpath."""

import math
from typing import Any

import numpy as np
from ezdxf.math import Matrix44, Vec3

from hemp_ladder.core.drawn.curves import Segment, Subpath
from hemp_ladder.core.drawn.flatten import Fineness, flatten
from hemp_ladder.core.receive.dxf.plane import SAME, Flat, frame_of, plane_through


def read_spline(entity: Any) -> Flat | None:
    tool = entity.construction_tool()
    points = np.array([Vec3(p).xyz for p in tool.control_points])
    plane = plane_through(points)
    if plane is None:
        return None
    tool = tool.transform(Matrix44(np.linalg.inv(frame_of(plane)).T.reshape(-1).tolist()))
    return Flat(plane, (spline(tool, bool(entity.closed)),))


def spline(tool: Any, closed: bool) -> Subpath:
    """A subpath from the library's B-spline, in X and Y."""
    points = [(p.x, p.y) for p in map(Vec3, tool.control_points)]
    knots = [float(k) for k in tool.knots()]
    weights = [float(w) for w in tool.weights()] or [1.0] * len(points)
    degree = int(tool.degree)
    flat_points = [v for p in points for v in p]
    segment: Segment = ("S", (float(degree), float(len(points)), *knots, *flat_points, *weights))
    # Where its knots are not doubled at the ends it does not begin at its first control point.
    begin = points[0]
    if knots[0] != knots[degree]:
        # Most drawings have none, and it takes half a second to import.
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
