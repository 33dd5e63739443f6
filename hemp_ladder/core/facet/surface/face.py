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
from hemp_ladder.core.mesh.triangles import cross, dot, lengths

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


class TrueSurface:
    """A face's surface, asked at many places in one call.

    flat   nothing on it can stray
    unrolls  it is a cone or an extrusion, which becomes flat without stretching
    turn     how far u goes from one side of a cone's seam to the other, endless where there is no such seam
    even   an edge strays most in its middle, exactly, and a triangle at an edge
    ball   the radius of a sphere, 0 of anything else
    ring   of a torus
    """

    def __init__(self, face: TopoDS_Face) -> None:
        surface = BRepAdaptor_Surface(face, False)
        kind = surface.GetType()
        self.flat = kind == GeomAbs_SurfaceType.GeomAbs_Plane
        self.even = kind in (GeomAbs_SurfaceType.GeomAbs_Plane, GeomAbs_SurfaceType.GeomAbs_Cylinder)
        self.ball = surface.Sphere().Radius() if kind == GeomAbs_SurfaceType.GeomAbs_Sphere else 0.0
        self.ring = _ring(face) if kind == GeomAbs_SurfaceType.GeomAbs_Torus else None
        self._round = round_surface(surface)
        self._shape: Surface = self._round or _shape_of(surface)
        self._flat: Callable[[Floats], Floats] | None = None
        self.turn = 2 * np.pi
        if kind == GeomAbs_SurfaceType.GeomAbs_Cone:
            self._flat = partial(cone_unrolled, surface.Cone())
        elif isinstance(self._shape, Extrusion):
            self._flat = self._shape.unrolled
            self.turn = np.inf
        reversed_ = face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
        self._sign = -1.0 if reversed_ != is_mirrored(face) else 1.0

    def still(self, uv: Floats) -> NDArray[np.bool_]:
        """Where a step of u or of v moves nothing, (n, 2): u at the pole of a sphere."""
        _, along_u, along_v = self._shape.derived(uv)
        speed = np.stack([lengths(along_u), lengths(along_v)], axis=1)
        return np.asarray(speed < 1e-7 * np.maximum(speed.max(axis=1, keepdims=True), 1e-30))

    def at(self, uv: Floats) -> tuple[Floats, Floats]:
        """(n, 3) points and (n, 3) unit normals at uv (n, 2); a zero normal where there is none."""
        points, along_u, along_v = self._shape.derived(uv)
        normals = cross(along_u, along_v) * self._sign
        length = lengths(normals)[:, None]
        return points, np.divide(normals, length, out=np.zeros_like(normals), where=length > 1e-30)

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

    def bound(self, corners: Floats) -> Floats | None:
        """How far triangles between points of it, (m, 3, 3), can lie from it at the most, (m,), NaN where that is not known;
        None where nothing in closed form says so."""
        if self.flat:
            return np.zeros(len(corners))
        return self._round.bound(corners) if self._round else None

    def distance(self, points: Floats, uv: Floats, enough: float) -> Floats:
        """How far points (n, 3) lie from the surface near uv (n, 2), (n,).

        Without a closed form, the distance to the surface's point at uv is
        too large where uv is not the nearest; whatever seems to exceed
        `enough` is settled by two steps of Gauss and Newton towards the foot
        of the perpendicular, the second with the slopes of the first (the
        simplified method: what it finds is a point of the surface all the
        same, so the distance is never too small).
        """
        if self._round:
            return self._round.distance(points)
        found = lengths(points - self._shape.points(uv))
        unsure = np.flatnonzero(found > enough)
        if len(unsure):
            there, here = points[unsure], uv[unsure]
            foot, along_u, along_v = self._shape.derived(here)
            step = _Step(along_u, along_v)
            for _ in range(2):
                here = here + step(there - foot)
                foot = self._shape.points(here)
                found[unsure] = np.minimum(found[unsure], lengths(there - foot))
                going = found[unsure] > enough
                unsure, step = unsure[going], step.only(going)
                there, here, foot = there[going], here[going], foot[going]
        return np.asarray(found)


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


class _Asked:
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


class _Step:
    """The change of (u, v) that best explains an offset in the tangent plane of slopes (n, 3) along u and v."""

    def __init__(self, along_u: Floats, along_v: Floats) -> None:
        uu, uv, vv = dot(along_u, along_u), dot(along_u, along_v), dot(along_v, along_v)
        determinant = uu * vv - uv * uv
        good = determinant > 1e-12 * np.maximum(uu * vv, 1e-300)
        share = np.divide(1.0, determinant, out=np.zeros_like(determinant), where=good)[:, None]
        self._dual_u = (along_u * vv[:, None] - along_v * uv[:, None]) * share
        self._dual_v = (along_v * uu[:, None] - along_u * uv[:, None]) * share

    def __call__(self, offset: Floats) -> Floats:
        """(n, 2) for an offset (n, 3)."""
        return np.stack([dot(offset, self._dual_u), dot(offset, self._dual_v)], axis=1)

    def only(self, rows: NDArray[np.bool_]) -> "_Step":
        """For some of the places."""
        some = _Step.__new__(_Step)
        some._dual_u, some._dual_v = self._dual_u[rows], self._dual_v[rows]
        return some
