"""Cylinder, cone, sphere and torus: a profile in closed form about an axis, and the distance to it."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Cone

from hemp_ladder.core.facet.surface.bounds import on_cone, on_cylinder, on_sphere, on_torus
from hemp_ladder.core.facet.surface.swept import Derived, Floats, Surface, triple

#: From v (n,) to radius, height and the change of both along v.
Profile = Callable[[Floats], tuple[Floats, Floats, Floats, Floats]]


@dataclass(frozen=True)
class Round(Surface):
    """A surface about an axis whose profile and distance have closed forms.

    axes (3, 3) holds X, Y and the axis as rows; the kernel's parameters:
    u turns from X to Y, v runs along the profile.
    """

    origin: Floats
    axes: Floats
    profile: Profile
    off: Callable[[Floats, Floats], Floats]
    #: What bounds how far triangles (m, 3, 3) in its frame can lie from it, asked with sizes that may be arrays (m,).
    most: Callable[..., Floats]
    sizes: tuple[float, ...]

    def points(self, uv: Floats) -> Floats:
        """(n, 3) points at uv (n, 2)."""
        return self.derived(uv)[0]

    def derived(self, uv: Floats) -> Derived:
        """(n, 3) points and both (n, 3) first derivatives at uv (n, 2)."""
        x, y, axis = self.axes
        radius, height, widening, rise = (part[:, None] for part in self.profile(uv[:, 1]))
        outward = np.cos(uv[:, :1]) * x + np.sin(uv[:, :1]) * y
        sideways = np.cos(uv[:, :1]) * y - np.sin(uv[:, :1]) * x
        point = self.origin + radius * outward + height * axis
        return point, radius * sideways, widening * outward + rise * axis

    def distance(self, points: Floats) -> NDArray[np.float64]:
        """How far points (n, 3) lie from the surface, (n,)."""
        local = (points - self.origin) @ self.axes.T
        return np.abs(self.off(np.hypot(local[:, 0], local[:, 1]), local[:, 2]))


def bounds(surfaces: Sequence[Round], of: NDArray[np.integer], corners: Floats) -> Floats:
    """How far triangles (m, 3, 3) between points of surfaces, each of the one whose number is in `of` (m,), can lie from them
    at the most, (m,); NaN where that is not known. All of a kind at once: most have a few triangles."""
    origins, axes = np.array([item.origin for item in surfaces]), np.array([item.axes for item in surfaces])
    local = (corners - origins[of][:, None]) @ axes[of].transpose(0, 2, 1)
    found = np.empty(len(corners))
    for kind in {item.most for item in surfaces}:
        mine = np.array([item.most is kind for item in surfaces])
        sizes = np.array([item.sizes for item in surfaces if item.most is kind])
        rows = np.flatnonzero(mine[of])
        found[rows] = kind(local[rows], *sizes[(np.cumsum(mine) - 1)[of[rows]]].T)
    return found


def round_surface(surface: BRepAdaptor_Surface) -> Round | None:
    """The surface in closed form, None when it is of another kind."""
    kind = surface.GetType()
    if kind == GeomAbs_SurfaceType.GeomAbs_Cylinder:
        r = surface.Cylinder().Radius()
        return _placed(
            surface.Cylinder(), lambda v: (np.full_like(v, r), v, np.zeros_like(v), np.ones_like(v)), lambda d, h: d - r,
            on_cylinder, (r,),
        )  # fmt: skip
    if kind == GeomAbs_SurfaceType.GeomAbs_Cone:
        cone = surface.Cone()
        r, s, c = cone.RefRadius(), np.sin(cone.SemiAngle()), np.cos(cone.SemiAngle())
        return _placed(
            cone,
            lambda v: (r + v * s, v * c, np.full_like(v, s), np.full_like(v, c)),
            lambda d, h: (d - r) * c - h * s,
            on_cone,
            (r, cone.SemiAngle()),
        )
    if kind == GeomAbs_SurfaceType.GeomAbs_Sphere:
        r = surface.Sphere().Radius()
        return _placed(
            surface.Sphere(),
            lambda v: (r * np.cos(v), r * np.sin(v), -r * np.sin(v), r * np.cos(v)),
            lambda d, h: np.hypot(d, h) - r,
            on_sphere,
            (r,),
        )
    if kind == GeomAbs_SurfaceType.GeomAbs_Torus:
        ring, r = surface.Torus().MajorRadius(), surface.Torus().MinorRadius()
        return _placed(
            surface.Torus(),
            lambda v: (ring + r * np.cos(v), r * np.sin(v), -r * np.sin(v), r * np.cos(v)),
            lambda d, h: np.hypot(d - ring, h) - r,
            on_torus,
            (ring, r),
        )
    return None


def _placed(
    shape: Any,
    profile: Profile,
    off: Callable[[Floats, Floats], Floats],
    most: Callable[..., Floats],
    sizes: tuple[float, ...],
) -> Round:
    """`shape` is one of the kernel's elementary surfaces; its frame may be left-handed."""
    frame = shape.Position()
    axes = np.stack([triple(frame.XDirection()), triple(frame.YDirection()), triple(frame.Direction())])
    return Round(triple(frame.Location()), axes, profile, off, most, sizes)


def cone_unrolled(cone: gp_Cone, uv: Floats) -> Floats:
    """Where points of a cone at uv (n, 2) lie once it is flat, (n, 2); not a number at its tip."""
    slope = np.sin(cone.SemiAngle())
    away = np.abs(cone.RefRadius() / slope + uv[:, 1])
    away[away < 1e-6 * max(away.max(initial=0.0), 1e-300)] = np.nan
    turn = uv[:, 0] * abs(slope)
    return np.stack([away * np.cos(turn), away * np.sin(turn)], axis=1)
