"""Splines of the kernel as splines of SciPy, which answers for thousands of parameters in one call.

What has weights (NURBS) is read as homogeneous control points (w x, w y,
w z, w); the quotient rule brings derivatives back (Piegl and Tiller, The
NURBS Book, 4.2 and 4.5).

SciPy's interpolation takes 0.7 s to import, which those who only want to know
what a file holds should not wait for: it comes in with the first spline.

Control points and knots one by one through the binding (8 us each) take as
long as refining the face does. They are read out of the kernel's binary form
instead, where they stand behind a few numbers that the binding is asked for.
"""

import io
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BinTools import BinTools_CurveSet, BinTools_SurfaceSet
from OCP.Geom import Geom_BezierCurve, Geom_BezierSurface, Geom_BSplineCurve, Geom_BSplineSurface

Floats = NDArray[np.float64]


#: How many bytes of the kernel's binary form stand before the control points: kind, flags, degrees, counts of points and knots.
_AHEAD = {
    Geom_BSplineCurve: 1 + 2 + 2 + 2 * 4,
    Geom_BezierCurve: 1 + 1 + 2,
    Geom_BSplineSurface: 1 + 4 + 2 * 2 + 4 * 4,
    Geom_BezierSurface: 1 + 2 + 2 * 2,
}


_KNOT = np.dtype([("at", "<f8"), ("times", "<i4")])


class SplineCurve:
    """A B-spline or Bezier curve, rational or not."""

    def __init__(self, curve: Any) -> None:
        """`curve` is a Geom_BSplineCurve or Geom_BezierCurve."""
        from scipy.interpolate import BSpline

        self._period, curve = _opened(curve, "")
        degree = curve.Degree()
        poles, (knots,) = _read(BinTools_CurveSet(), curve, curve.NbPoles(), curve.IsRational(), (degree,))
        self._spline = BSpline(knots, poles, degree)

    @cached_property
    def _derivative(self) -> Any:
        return self._spline.derivative()

    def points(self, t: Floats) -> Floats:
        """(n, 3) points at t (n,)."""
        return _divided(self._spline(_wrapped(t, self._period)))

    def derived(self, t: Floats) -> tuple[Floats, Floats]:
        """(n, 3) points and (n, 3) first derivatives at t (n,)."""
        t = _wrapped(t, self._period)
        whole = self._spline(t)
        point = _divided(whole)
        return point, _slope(self._derivative(t), whole, point)


class SplineSurface:
    """A B-spline or Bezier surface, rational or not."""

    def __init__(self, surface: Any) -> None:
        """`surface` is a Geom_BSplineSurface or Geom_BezierSurface."""
        from scipy.interpolate import NdBSpline

        self._u_period, surface = _opened(surface, "U")
        self._v_period, surface = _opened(surface, "V")
        rows, columns = surface.NbUPoles(), surface.NbVPoles()
        degrees = surface.UDegree(), surface.VDegree()
        rational = surface.IsURational() or surface.IsVRational()
        poles, knots = _read(BinTools_SurfaceSet(), surface, rows * columns, rational, degrees)
        self._rational = rational
        self._spline = NdBSpline(knots, poles.reshape(rows, columns, -1), degrees)

    def points(self, uv: Floats) -> Floats:
        """(n, 3) points at uv (n, 2)."""
        return _divided(self._spline(self._within(uv)))

    def derived(self, uv: Floats) -> tuple[Floats, Floats, Floats]:
        """(n, 3) points and both (n, 3) first derivatives at uv (n, 2)."""
        uv = self._within(uv)
        whole = self._spline(uv)
        point = _divided(whole)
        return point, *self._slopes(uv, whole, point)

    def slopes(self, uv: Floats, points: Floats) -> tuple[Floats, Floats]:
        """Both (n, 3) first derivatives at uv (n, 2), where the points there are known."""
        uv = self._within(uv)
        return self._slopes(uv, self._spline(uv) if self._rational else points, points)

    def _slopes(self, uv: Floats, whole: Floats, points: Floats) -> tuple[Floats, Floats]:
        along_u, along_v = (_slope(self._spline(uv, nu=nu), whole, points) for nu in ((1, 0), (0, 1)))
        return along_u, along_v

    def _within(self, uv: Floats) -> Floats:
        if self._u_period is None and self._v_period is None:
            return uv
        uv = uv.copy()
        for column, period in enumerate((self._u_period, self._v_period)):
            if period is not None:
                uv[:, column] = _wrapped(uv[:, column], period)
        return uv


def _opened(spline: Any, direction: str) -> tuple[tuple[float, float] | None, Any]:
    """Start and length of the period, None without, and the same spline with clamped knots there."""
    if not getattr(spline, f"Is{direction}Periodic")():
        return None, spline
    spline = spline.Copy()
    first, last = (getattr(spline, f"{direction}Knot")(at) for at in (1, getattr(spline, f"Nb{direction}Knots")()))
    getattr(spline, f"Set{direction}NotPeriodic")()
    return (first, last - first), spline


def _wrapped(t: Floats, period: tuple[float, float] | None) -> Floats:
    return t if period is None else period[0] + (t - period[0]) % period[1]


def _divided(whole: Floats) -> Floats:
    """(n, 3) points from homogeneous ones (n, 4); without weights (n, 3) they are points."""
    return whole if whole.shape[1] == 3 else np.asarray(whole[:, :3] / whole[:, 3:])


def _slope(slope: Floats, whole: Floats, point: Floats) -> Floats:
    """(n, 3) derivatives of points from those of what stands for them."""
    return slope if whole.shape[1] == 3 else np.asarray((slope[:, :3] - slope[:, 3:] * point) / whole[:, 3:])


def _read(
    writer: Any, spline: Any, count: int, rational: bool, degrees: tuple[int, ...]
) -> tuple[Floats, tuple[Floats, ...]]:
    """Control points row by row, (count, 3), or (count, 4) with weights, and the knots each way, every one as often as it
    counts.

    The kernel writes a line, some bytes, the points as float64, and where there are knots, each as float64 with its
    multiplicity as int32. Layout read off the bytes of kernel 8.0.
    """
    writer.Add(spline)
    stream = io.BytesIO()
    writer.Write(stream)
    data = stream.getvalue()
    numbers = 4 if rational else 3
    at = data.index(b"\n") + 1 + _AHEAD[type(spline)]
    # Copied, for what lies anywhere in those bytes is not aligned.
    points = np.frombuffer(data, "<f8", count * numbers, at).reshape(count, numbers).copy()
    if rational:
        points[:, :3] *= points[:, 3:]
    if isinstance(spline, Geom_BezierCurve | Geom_BezierSurface):
        return points, tuple(np.repeat([0.0, 1.0], degree + 1) for degree in degrees)
    at += 8 * count * numbers
    knots = []
    for direction in ("U", "V") if len(degrees) == 2 else ("",):
        read = np.frombuffer(data, _KNOT, getattr(spline, f"Nb{direction}Knots")(), at)
        knots.append(np.repeat(read["at"], read["times"]))
        at += read.nbytes
    return points, tuple(knots)
