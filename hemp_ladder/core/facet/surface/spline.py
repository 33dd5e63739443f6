"""Splines of the kernel as splines of SciPy, which answers for thousands of parameters in one call.

Everything is read with its weights (NURBS), as homogeneous control points
(w x, w y, w z, w); the quotient rule brings derivatives back (Piegl and
Tiller, The NURBS Book, 4.2 and 4.5).

SciPy's interpolation takes 0.7 s to import, which those who only want to know
what a file holds should not wait for: it comes in with the first spline.
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


class SplineCurve:
    """A B-spline or Bezier curve, rational or not."""

    def __init__(self, curve: Any) -> None:
        """`curve` is a Geom_BSplineCurve or Geom_BezierCurve."""
        from scipy.interpolate import BSpline

        if hasattr(curve, "KnotSequence"):
            self._period, curve = _opened(curve, "")
            knots = np.array(list(curve.KnotSequence()))
        else:
            self._period, knots = None, _bezier_knots(curve.Degree())
        poles = [curve.Pole(i) for i in range(1, curve.NbPoles() + 1)]
        weights = [curve.Weight(i) for i in range(1, curve.NbPoles() + 1)]
        self._spline = BSpline(knots, _homogeneous(poles, weights), curve.Degree())
        self._slope = self._spline.derivative()

    def points(self, t: Floats) -> Floats:
        """(n, 3) points at t (n,)."""
        whole = self._spline(_wrapped(t, self._period))
        return np.asarray(whole[:, :3] / whole[:, 3:])

    def derived(self, t: Floats) -> tuple[Floats, Floats]:
        """(n, 3) points and (n, 3) first derivatives at t (n,)."""
        t = _wrapped(t, self._period)
        whole, slope = self._spline(t), self._slope(t)
        point = whole[:, :3] / whole[:, 3:]
        return point, (slope[:, :3] - slope[:, 3:] * point) / whole[:, 3:]


class SplineSurface:
    """A B-spline or Bezier surface, rational or not."""

    def __init__(self, surface: Any) -> None:
        """`surface` is a Geom_BSplineSurface or Geom_BezierSurface."""
        from scipy.interpolate import NdBSpline

        if hasattr(surface, "UKnotSequence"):
            self._u_period, surface = _opened(surface, "U")
            self._v_period, surface = _opened(surface, "V")
            knots = (np.array(list(surface.UKnotSequence())), np.array(list(surface.VKnotSequence())))
        else:
            self._u_period = self._v_period = None
            knots = (_bezier_knots(surface.UDegree()), _bezier_knots(surface.VDegree()))
        rows, columns = surface.NbUPoles(), surface.NbVPoles()
        places = [(i, j) for i in range(1, rows + 1) for j in range(1, columns + 1)]
        table, rational = surface.Poles(), surface.IsURational() or surface.IsVRational()
        poles = _homogeneous(
            [table.Value(*p) for p in places], [surface.Weight(*p) if rational else 1.0 for p in places]
        )
        self._spline = NdBSpline(knots, poles.reshape(rows, columns, 4), (surface.UDegree(), surface.VDegree()))

    def points(self, uv: Floats) -> Floats:
        """(n, 3) points at uv (n, 2)."""
        whole = self._spline(self._within(uv))
        return np.asarray(whole[:, :3] / whole[:, 3:])

    def derived(self, uv: Floats) -> tuple[Floats, Floats, Floats]:
        """(n, 3) points and both (n, 3) first derivatives at uv (n, 2)."""
        uv = self._within(uv)
        whole = self._spline(uv)
        point, weight = whole[:, :3] / whole[:, 3:], whole[:, 3:]
        slopes = (self._spline(uv, nu=(1, 0)), self._spline(uv, nu=(0, 1)))
        along_u, along_v = ((slope[:, :3] - slope[:, 3:] * point) / weight for slope in slopes)
        return point, along_u, along_v

    def _within(self, uv: Floats) -> Floats:
        if self._u_period is None and self._v_period is None:
            return uv
        return np.stack([_wrapped(uv[:, 0], self._u_period), _wrapped(uv[:, 1], self._v_period)], axis=1)


def _opened(spline: Any, direction: str) -> tuple[tuple[float, float] | None, Any]:
    """Start and length of the period, None without, and the same spline with clamped knots there."""
    if not getattr(spline, f"Is{direction}Periodic")():
        return None, spline
    spline = spline.Copy()
    knots = list(getattr(spline, f"{direction}Knots")())
    getattr(spline, f"Set{direction}NotPeriodic")()
    return (knots[0], knots[-1] - knots[0]), spline


def _wrapped(t: Floats, period: tuple[float, float] | None) -> Floats:
    return t if period is None else period[0] + (t - period[0]) % period[1]


def _bezier_knots(degree: int) -> Floats:
    return np.repeat([0.0, 1.0], degree + 1)


def _homogeneous(poles: list[Any], weights: list[float]) -> Floats:
    points = np.array([(*pole.Coord(), 1.0) for pole in poles])
    return points * np.array(weights)[:, None]
