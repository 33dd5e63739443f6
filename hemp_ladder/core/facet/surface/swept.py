"""Curves and the surfaces that one curve makes: by turning about an axis, or by moving along a line.

Parameters are the kernel's: u turns and v runs along the profile of a
surface of revolution; u runs along the curve and v along the direction of an
extrusion. `tests.core.test_surface` holds all of them against the kernel.
"""

from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray
from OCP.Adaptor3d import Adaptor3d_Curve
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Vec

from hemp_ladder.core.facet.surface.spline import SplineCurve
from hemp_ladder.core.mesh.triangles import cross, lengths

Floats = NDArray[np.float64]
Derived = tuple[Floats, Floats, Floats]


def triple(of: Any) -> Floats:
    """A kernel point, vector or direction as (3,)."""
    return np.array([of.X(), of.Y(), of.Z()])


class Curve(Protocol):
    """A curve in space."""

    def points(self, t: Floats) -> Floats:
        """(n, 3) points at t (n,)."""

    def derived(self, t: Floats) -> tuple[Floats, Floats]:
        """(n, 3) points and (n, 3) first derivatives at t (n,)."""


class Surface(Protocol):
    """A surface by its parameters."""

    def points(self, uv: Floats) -> Floats:
        """(n, 3) points at uv (n, 2)."""

    def derived(self, uv: Floats) -> Derived:
        """(n, 3) points and both (n, 3) first derivatives at uv (n, 2)."""

    def slopes(self, uv: Floats, points: Floats) -> tuple[Floats, Floats]:
        """Both (n, 3) first derivatives at uv (n, 2), where the points there (n, 3) are known."""
        return self.derived(uv)[1:]


class _Line:
    def __init__(self, start: Floats, direction: Floats) -> None:
        self._start, self._direction = start, direction

    def points(self, t: Floats) -> Floats:
        return self._start + t[:, None] * self._direction

    def derived(self, t: Floats) -> tuple[Floats, Floats]:
        return self.points(t), np.tile(self._direction, (len(t), 1))


class _Ellipse:
    """Centre and the two half axes as vectors; a circle has them equally long."""

    def __init__(self, centre: Floats, major: Floats, minor: Floats) -> None:
        self._centre, self._major, self._minor = centre, major, minor

    def points(self, t: Floats) -> Floats:
        return self.derived(t)[0]

    def derived(self, t: Floats) -> tuple[Floats, Floats]:
        c, s = np.cos(t)[:, None], np.sin(t)[:, None]
        return self._centre + c * self._major + s * self._minor, c * self._minor - s * self._major


class _AskedCurve:
    """Any other curve, asked of the kernel point by point."""

    def __init__(self, curve: Adaptor3d_Curve) -> None:
        self._curve = curve

    def points(self, t: Floats) -> Floats:
        return self.derived(t)[0]

    def derived(self, t: Floats) -> tuple[Floats, Floats]:
        point, slope = gp_Pnt(), gp_Vec()
        out = np.empty((len(t), 6))
        for row, value in enumerate(t.tolist()):
            self._curve.D1(value, point, slope)
            out[row] = (point.X(), point.Y(), point.Z(), slope.X(), slope.Y(), slope.Z())
        return out[:, :3], out[:, 3:]


def curve_of(curve: Adaptor3d_Curve) -> Curve:
    """The quickest way to ask a kernel curve at many parameters."""
    kind = curve.GetType()
    if kind == GeomAbs_CurveType.GeomAbs_Line:
        line = curve.Line()
        return _Line(triple(line.Location()), triple(line.Direction()))
    if kind == GeomAbs_CurveType.GeomAbs_Circle:
        circle = curve.Circle()
        x, y = circle.XAxis().Direction(), circle.YAxis().Direction()
        return _Ellipse(triple(circle.Location()), triple(x) * circle.Radius(), triple(y) * circle.Radius())
    if kind == GeomAbs_CurveType.GeomAbs_BSplineCurve:
        return SplineCurve(curve.BSpline())
    if kind == GeomAbs_CurveType.GeomAbs_BezierCurve:
        return SplineCurve(curve.Bezier())
    return _AskedCurve(curve)


class Revolution(Surface):
    """A profile turned about an axis, by Rodrigues' formula."""

    def __init__(self, profile: Adaptor3d_Curve, axis: gp_Ax1) -> None:
        self._curve, self._origin, self._axis = curve_of(profile), triple(axis.Location()), triple(axis.Direction())

    def points(self, uv: Floats) -> Floats:
        return self._origin + self._turned(self._curve.points(uv[:, 1]) - self._origin, uv[:, :1])

    def derived(self, uv: Floats) -> Derived:
        point, slope = self._curve.derived(uv[:, 1])
        arm = self._turned(point - self._origin, uv[:, :1])
        return self._origin + arm, cross(self._axis, arm), self._turned(slope, uv[:, :1])

    def _turned(self, vectors: Floats, angles: Floats) -> Floats:
        along = (vectors @ self._axis)[:, None] * self._axis
        return along + np.cos(angles) * (vectors - along) + np.sin(angles) * cross(self._axis, vectors)


class Extrusion(Surface):
    """A curve moved along a direction."""

    def __init__(self, outline: Adaptor3d_Curve, direction: gp_Dir) -> None:
        self._curve, self._along = curve_of(outline), triple(direction)

    def points(self, uv: Floats) -> Floats:
        return self._curve.points(uv[:, 0]) + uv[:, 1:] * self._along

    def derived(self, uv: Floats) -> Derived:
        point, slope = self._curve.derived(uv[:, 0])
        return point + uv[:, 1:] * self._along, slope, np.tile(self._along, (len(uv), 1))

    def unrolled(self, uv: Floats) -> Floats:
        """Where points at uv (n, 2) lie once it is flat, (n, 2): how far around its section, by chords between them, and how
        far along its direction. What lies around is as far apart as all of it is long, for what is even there then goes
        along it, where nothing strays."""
        u, at = np.unique(uv[:, 0], return_inverse=True)
        outline = self._curve.points(u)
        along = outline @ self._along
        section = outline - along[:, None] * self._along
        steps = lengths(np.diff(section, axis=0))
        there = along[at] + uv[:, 1]
        stretch = np.ptp(there) / max(float(np.median(steps)), 1e-300) if len(steps) else 1.0
        around = np.concatenate([[0.0], np.cumsum(steps)]) * max(stretch, 1.0)
        return np.stack([around[at], there], axis=1)
