"""`TrueSurface`: points, outward normals and distances of one face's surface."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Face

from hemp_ladder.core.facet.surface.round import cone_unrolled, round_surface
from hemp_ladder.core.facet.surface.spline import SplineSurface
from hemp_ladder.core.facet.surface.swept import Derived, Extrusion, Floats, Revolution, Surface
from hemp_ladder.core.kernel.shapes import is_mirrored
from hemp_ladder.core.mesh.triangles import cross, lengths

_SPLINES = (GeomAbs_SurfaceType.GeomAbs_BSplineSurface, GeomAbs_SurfaceType.GeomAbs_BezierSurface)


@dataclass(frozen=True)
class Ring:
    """Of a torus whose tube has no way through its middle: the radius of its `tube`, how far it reaches from the axis, and
    what of it there is."""

    tube: float
    reach: float
    u: tuple[float, float]
    v: tuple[float, float]

    @property
    def whole_u(self) -> bool:
        return abs(self.u[1] - self.u[0] - 2 * np.pi) < 1e-9

    @property
    def whole_v(self) -> bool:
        return abs(self.v[1] - self.v[0] - 2 * np.pi) < 1e-9


def unit_normals(along_u: Floats, along_v: Floats, signs: Floats) -> Floats:
    """(n, 3) unit normals from slopes (n, 3), turned by signs (n,); zero where there is none."""
    normals = cross(along_u, along_v) * signs[:, None]
    length = lengths(normals)[:, None]
    return np.divide(normals, length, out=np.zeros_like(normals), where=length > 1e-30)


class TrueSurface:
    """A face's surface, asked at many places in one call.

    flat   nothing on it can stray
    unrolls  it is a cone or an extrusion, which becomes flat without stretching
    turn     how far u goes from one side of a cone's seam to the other, endless where there is no such seam
    even   an edge strays most in its middle, exactly, and a triangle at an edge
    ball   the radius of a sphere, 0 of anything else
    ring   of a torus
    round  its closed form, None where it has none
    sign   -1 where it faces against the cross product of its slopes along u and v
    """

    def __init__(self, face: TopoDS_Face) -> None:
        surface = BRepAdaptor_Surface(face, False)
        kind = surface.GetType()
        self.flat = kind == GeomAbs_SurfaceType.GeomAbs_Plane
        self.even = kind in (GeomAbs_SurfaceType.GeomAbs_Plane, GeomAbs_SurfaceType.GeomAbs_Cylinder)
        self.ball = surface.Sphere().Radius() if kind == GeomAbs_SurfaceType.GeomAbs_Sphere else 0.0
        self.ring = _ring(face) if kind == GeomAbs_SurfaceType.GeomAbs_Torus else None
        self.round = round_surface(surface)
        self._shape: Surface = self.round or _shape_of(surface)
        self._flat: Callable[[Floats], Floats] | None = None
        self.turn = 2 * np.pi
        if kind == GeomAbs_SurfaceType.GeomAbs_Cone:
            self._flat = partial(cone_unrolled, surface.Cone())
        elif isinstance(self._shape, Extrusion):
            self._flat = self._shape.unrolled
            self.turn = np.inf
        reversed_ = face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
        self.sign = -1.0 if reversed_ != is_mirrored(face) else 1.0

    def still(self, uv: Floats) -> NDArray[np.bool_]:
        """Where a step of u or of v moves nothing, (n, 2): u at the pole of a sphere."""
        _, along_u, along_v = self._shape.derived(uv)
        speed = np.stack([lengths(along_u), lengths(along_v)], axis=1)
        return np.asarray(speed < 1e-7 * np.maximum(speed.max(axis=1, keepdims=True), 1e-30))

    def at(self, uv: Floats) -> tuple[Floats, Floats]:
        """(n, 3) points and (n, 3) unit normals at uv (n, 2); a zero normal where there is none."""
        points, along_u, along_v = self._shape.derived(uv)
        return points, unit_normals(along_u, along_v, np.full(len(uv), self.sign))

    def derived(self, uv: Floats) -> Derived:
        """(n, 3) points and both (n, 3) first derivatives at uv (n, 2)."""
        return self._shape.derived(uv)

    def slopes(self, uv: Floats, points: Floats) -> tuple[Floats, Floats]:
        """Those derivatives, where the points are known."""
        return self._shape.slopes(uv, points)

    @property
    def unrolls(self) -> bool:
        return self._flat is not None

    def unrolled(self, uv: Floats) -> Floats:
        """Where points lie once it is flat, (n, 2); not a number at the tip of a cone, where it cannot be told."""
        assert self._flat is not None
        return self._flat(uv)

    def points(self, uv: Floats) -> Floats:
        """(n, 3) points at uv (n, 2)."""
        return self._shape.points(uv)

    def off(self, points: Floats) -> Floats | None:
        """How far points (n, 3) lie from it, (n,), where that has a closed form."""
        return self.round.distance(points) if self.round else None


def _ring(face: TopoDS_Face) -> Ring | None:
    surface = BRepAdaptor_Surface(face, True)
    torus = surface.Torus()
    if torus.MajorRadius() <= torus.MinorRadius():
        return None
    u = surface.FirstUParameter(), surface.LastUParameter()
    v = surface.FirstVParameter(), surface.LastVParameter()
    return Ring(torus.MinorRadius(), torus.MajorRadius() + torus.MinorRadius(), u, v)


def _shape_of(surface: BRepAdaptor_Surface) -> Surface:
    """The quickest way to ask for points and first derivatives."""
    kind = surface.GetType()
    if kind in _SPLINES:
        bezier = kind == GeomAbs_SurfaceType.GeomAbs_BezierSurface
        return SplineSurface(surface.Bezier() if bezier else surface.BSpline())
    if kind == GeomAbs_SurfaceType.GeomAbs_SurfaceOfRevolution:
        return Revolution(surface.BasisCurve(), surface.AxeOfRevolution())
    if kind == GeomAbs_SurfaceType.GeomAbs_SurfaceOfExtrusion:
        return Extrusion(surface.BasisCurve(), surface.Direction())
    return _Asked(surface)


class _Asked(Surface):
    """Any other surface, such as an offset one, asked of the kernel point by point."""

    def __init__(self, surface: BRepAdaptor_Surface) -> None:
        self._surface = surface

    def points(self, uv: Floats) -> Floats:
        return self.derived(uv)[0]

    def derived(self, uv: Floats) -> Derived:
        point, along_u, along_v = gp_Pnt(), gp_Vec(), gp_Vec()
        out = np.empty((len(uv), 9))
        for row, (u, v) in enumerate(uv.tolist()):
            self._surface.D1(u, v, point, along_u, along_v)
            out[row] = (
                point.X(), point.Y(), point.Z(),
                along_u.X(), along_u.Y(), along_u.Z(),
                along_v.X(), along_v.Y(), along_v.Z(),
            )  # fmt: skip
        return out[:, :3], out[:, 3:6], out[:, 6:]
