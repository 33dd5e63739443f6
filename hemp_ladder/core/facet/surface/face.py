"""`TrueSurface`: points, outward normals and distances of one face's surface."""

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Face

from hemp_ladder.core.facet.surface.round import round_surface
from hemp_ladder.core.facet.surface.spline import SplineSurface
from hemp_ladder.core.facet.surface.swept import Derived, Extrusion, Floats, Revolution, Surface
from hemp_ladder.core.kernel.shapes import is_mirrored
from hemp_ladder.core.mesh.triangles import cross

_SPLINES = (GeomAbs_SurfaceType.GeomAbs_BSplineSurface, GeomAbs_SurfaceType.GeomAbs_BezierSurface)


class TrueSurface:
    """A face's surface, asked at many places in one call.

    flat   nothing on it can stray
    even   an edge strays most in its middle, exactly, and a triangle at an edge
    """

    def __init__(self, face: TopoDS_Face) -> None:
        surface = BRepAdaptor_Surface(face, False)
        kind = surface.GetType()
        self.flat = kind == GeomAbs_SurfaceType.GeomAbs_Plane
        self.even = kind in (GeomAbs_SurfaceType.GeomAbs_Plane, GeomAbs_SurfaceType.GeomAbs_Cylinder)
        self._round = round_surface(surface)
        self._shape: Surface = self._round or _shape_of(surface)
        reversed_ = face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
        self._sign = -1.0 if reversed_ != is_mirrored(face) else 1.0

    def still(self, uv: Floats) -> NDArray[np.bool_]:
        """Where a step of u or of v moves nothing, (n, 2): u at the pole of a sphere."""
        _, along_u, along_v = self._shape.derived(uv)
        speed = np.stack([np.linalg.norm(along_u, axis=1), np.linalg.norm(along_v, axis=1)], axis=1)
        return np.asarray(speed < 1e-7 * np.maximum(speed.max(axis=1, keepdims=True), 1e-30))

    def at(self, uv: Floats) -> tuple[Floats, Floats]:
        """(n, 3) points and (n, 3) unit normals at uv (n, 2); a zero normal where there is none."""
        points, along_u, along_v = self._shape.derived(uv)
        normals = cross(along_u, along_v) * self._sign
        length = np.linalg.norm(normals, axis=1, keepdims=True)
        return points, np.divide(normals, length, out=np.zeros_like(normals), where=length > 1e-30)

    def distance(self, points: Floats, uv: Floats, enough: float) -> Floats:
        """How far points (n, 3) lie from the surface near uv (n, 2), (n,).

        Without a closed form, the distance to the surface's point at uv is
        too large where uv is not the nearest; whatever seems to exceed
        `enough` is settled by two steps of Gauss and Newton towards the foot
        of the perpendicular.
        """
        if self._round:
            return self._round.distance(points)
        found = np.linalg.norm(points - self._shape.points(uv), axis=1)
        unsure = np.flatnonzero(found > enough)
        if len(unsure):
            here = uv[unsure]
            for _ in range(2):
                foot, along_u, along_v = self._shape.derived(here)
                here = here + _step(points[unsure] - foot, along_u, along_v)
            nearer = np.linalg.norm(points[unsure] - self._shape.points(here), axis=1)
            found[unsure] = np.minimum(found[unsure], nearer)
        return np.asarray(found)


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


def _step(offset: Floats, along_u: Floats, along_v: Floats) -> Floats:
    """The change of (u, v) that best explains an offset in the tangent plane, (n, 2)."""
    uu, uv, vv = (np.einsum("ij,ij->i", a, b) for a, b in ((along_u, along_u), (along_u, along_v), (along_v, along_v)))
    du, dv = np.einsum("ij,ij->i", offset, along_u), np.einsum("ij,ij->i", offset, along_v)
    determinant = uu * vv - uv * uv
    good = determinant > 1e-12 * np.maximum(uu * vv, 1e-300)
    steps = np.stack([vv * du - uv * dv, uu * dv - uv * du], axis=1)
    return np.divide(steps, determinant[:, None], out=np.zeros_like(steps), where=good[:, None])
