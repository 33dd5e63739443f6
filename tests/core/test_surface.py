"""Our vectorised surfaces against the kernel's own evaluation, kind by kind."""

import math
import unittest
from typing import Any

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.collections import Array1_double, Array1_gp_Pnt, Array1_int, Array2_double, Array2_gp_Pnt
from OCP.Geom import (
    Geom_BezierCurve,
    Geom_BezierSurface,
    Geom_BSplineCurve,
    Geom_ConicalSurface,
    Geom_CylindricalSurface,
    Geom_Ellipse,
    Geom_OffsetSurface,
    Geom_Plane,
    Geom_SphericalSurface,
    Geom_Surface,
    Geom_SurfaceOfLinearExtrusion,
    Geom_SurfaceOfRevolution,
    Geom_ToroidalSurface,
)
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Ax1, gp_Ax2, gp_Ax3, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS

from demo import shapes
from hemp_ladder.core.facet.surface import TrueSurface
from hemp_ladder.core.facet.surface.many import distances, points_and_normals, points_on
from hemp_ladder.core.facet.surface.spline import SplineCurve
from hemp_ladder.core.kernel.shapes import faces_of

FRAME = gp_Ax3(gp_Pnt(3, -7, 11), gp_Dir(1, 2, 3), gp_Dir(3, 0, -1))
AXIS = gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(0.2, 0.3, 1))


def _bezier() -> Geom_BezierSurface:
    """A rational patch of degrees 2 and 3."""
    poles, weights = Array2_gp_Pnt(1, 3, 1, 4), Array2_double(1, 3, 1, 4)
    for i in range(1, 4):
        for j in range(1, 5):
            poles.SetValue(i, j, gp_Pnt(i * 4, j * 3, math.sin(i + 2 * j)))
            weights.SetValue(i, j, 1 + 0.3 * ((i + j) % 3))
    return Geom_BezierSurface(poles, weights)


def _ellipse() -> Geom_Ellipse:
    return Geom_Ellipse(gp_Ax2(gp_Pnt(9, 0, 0), gp_Dir(0, 1, 0)), 3, 2)


def _wave() -> Geom_BSplineCurve:
    from OCP.BRep import BRep_Tool

    points = [(5 + math.sin(i), 0.3 * i, 2.0 * i) for i in range(6)]
    return BRep_Tool.Curve_s(shapes.spline(points), 0, 1)


SURFACES: dict[str, tuple[Geom_Surface, tuple[float, float, float, float]]] = {
    "cylinder": (Geom_CylindricalSurface(FRAME, 4), (0, 6, -5, 5)),
    "cone": (Geom_ConicalSurface(FRAME, 0.4, 4), (0, 6, -5, 5)),
    "sphere": (Geom_SphericalSurface(FRAME, 4), (0, 6, -1.5, 1.5)),
    "torus": (Geom_ToroidalSurface(FRAME, 9, 2), (0, 6, 0, 6)),
    "rational patch": (_bezier(), (0, 1, 0, 1)),
    "revolved spline": (Geom_SurfaceOfRevolution(_wave(), AXIS), (0, 6, 0.1, 0.9)),
    "revolved ellipse": (Geom_SurfaceOfRevolution(_ellipse(), AXIS), (0, 6, 0, 6)),
    "extruded ellipse": (Geom_SurfaceOfLinearExtrusion(_ellipse(), gp_Dir(0.2, 1, 0.4)), (0, 6, -3, 3)),
    "offset patch": (Geom_OffsetSurface(_bezier(), 0.7), (0, 1, 0, 1)),
}


def face_of(surface: Geom_Surface, bounds: tuple[float, float, float, float]) -> Any:
    return BRepBuilderAPI_MakeFace(surface, *bounds, 1e-7).Face()


def asked(face: Any, uv: np.ndarray) -> np.ndarray:
    """The kernel's point and derivatives, one place at a time: (n, 9)."""
    surface = BRepAdaptor_Surface(face, False)
    point, along_u, along_v = gp_Pnt(), gp_Vec(), gp_Vec()
    rows = []
    for u, v in uv:
        surface.D1(u, v, point, along_u, along_v)
        rows.append([getattr(of, axis)() for of in (point, along_u, along_v) for axis in "XYZ"])
    return np.array(rows)


def moved(face: Any, mirror: bool = False) -> Any:
    """The face somewhere else, turned, and mirrored if wanted."""
    move, size = gp_Trsf(), gp_Trsf()
    move.SetRotation(gp_Ax1(gp_Pnt(1, 0, 0), gp_Dir(1, 1, 0)), 0.7)
    if mirror:
        size.SetMirror(gp_Ax2(gp_Pnt(0, 3, 0), gp_Dir(0, 1, 1)))
    return TopoDS.Face(face.Moved(TopLoc_Location(move.Multiplied(size)), False))


def _rational_curves() -> dict[str, Geom_BSplineCurve | Geom_BezierCurve]:
    """With weights, which only few files have: a Bezier curve, and a spline that closes on itself."""
    poles, weights = Array1_gp_Pnt(1, 5), Array1_double(1, 5)
    for i in range(1, 6):
        poles.SetValue(i, gp_Pnt(math.cos(i), 2 * math.sin(1.7 * i), 0.4 * i))
        weights.SetValue(i, 1 + 0.4 * (i % 3))
    knots, times = Array1_double(1, 6), Array1_int(1, 6)
    for i in range(1, 7):
        knots.SetValue(i, 0.2 * (i - 1))
        times.SetValue(i, 1)
    closed = Geom_BSplineCurve(poles, weights, knots, times, 3, True)
    return {"bezier": Geom_BezierCurve(poles, weights), "closed": closed}


class AgainstTheKernel(unittest.TestCase):
    def setUp(self) -> None:
        self.dice = np.random.default_rng(5)

    def places(self, bounds: tuple[float, float, float, float]) -> np.ndarray:
        return self.dice.uniform(bounds[0::2], bounds[1::2], (50, 2))

    def check(self, face: Any, uv: np.ndarray, reversed_: bool = False) -> None:
        meant = asked(face, uv)
        true = TrueSurface(face)
        points, normals = true.at(uv)
        np.testing.assert_allclose(points, meant[:, :3], atol=1e-9)
        across = np.cross(meant[:, 3:6], meant[:, 6:])
        across *= (-1 if reversed_ else 1) / np.linalg.norm(across, axis=1, keepdims=True)
        np.testing.assert_allclose(normals, across, atol=1e-9)

    def test_points_and_normals(self) -> None:
        for name, (surface, bounds) in SURFACES.items():
            with self.subTest(name):
                self.check(face_of(surface, bounds), self.places(bounds))

    def test_placed_and_reversed_faces(self) -> None:
        for name, (surface, bounds) in SURFACES.items():
            with self.subTest(name):
                face = moved(face_of(surface, bounds))
                self.check(face, self.places(bounds))
                self.check(TopoDS.Face(face.Reversed()), self.places(bounds), reversed_=True)

    def test_a_mirrored_face_still_faces_outward(self) -> None:
        """A mirror turns u x v over; the outside stays outside."""
        for name, (surface, bounds) in SURFACES.items():
            with self.subTest(name):
                self.check(moved(face_of(surface, bounds), mirror=True), self.places(bounds), reversed_=True)

    def test_a_periodic_spline_beyond_its_first_turn(self) -> None:
        """A pipe along a spline is periodic around; faces may use any turn of it."""
        pipe = shapes.pipe(shapes.spline([(0, 0, 0), (9, 4, 1), (15, 2, 8)]), (0, 0, 0), (1, 0.4, 0), 2)
        found = [
            f
            for f in faces_of(pipe)
            if BRepAdaptor_Surface(f, False).GetType() == GeomAbs_SurfaceType.GeomAbs_BSplineSurface
        ]
        self.assertEqual(len(found), 1)
        surface = BRepAdaptor_Surface(found[0], False)
        self.assertTrue(surface.IsUPeriodic() or surface.IsVPeriodic())
        bounds = (
            surface.FirstUParameter(),
            surface.LastUParameter(),
            surface.FirstVParameter(),
            surface.LastVParameter(),
        )
        uv = self.places(bounds)
        self.check(found[0], uv, reversed_=found[0].Orientation().name.endswith("REVERSED"))
        beyond = uv + ([surface.UPeriod(), 0] if surface.IsUPeriodic() else [0, surface.VPeriod()])
        np.testing.assert_allclose(TrueSurface(found[0]).at(beyond)[0], TrueSurface(found[0]).at(uv)[0], atol=1e-9)

    def test_rational_curves(self) -> None:
        for name, curve in _rational_curves().items():
            with self.subTest(name):
                t = self.dice.uniform(0, 1, 40)
                point, slope, meant = gp_Pnt(), gp_Vec(), []
                for value in t:
                    curve.D1(value, point, slope)
                    meant.append([getattr(of, axis)() for of in (point, slope) for axis in "XYZ"])
                spline = SplineCurve(curve)
                found = np.concatenate(spline.derived(t), axis=1)
                np.testing.assert_allclose(found, meant, atol=1e-9)
                np.testing.assert_array_equal(spline.points(t), found[:, :3])

    def test_distance(self) -> None:
        """A point put off along the normal lies as far off as it was put, wherever the search begins."""
        for name, (surface, bounds) in SURFACES.items():
            with self.subTest(name):
                true = TrueSurface(face_of(surface, bounds))
                uv = self.places(bounds)
                points, normals = true.at(uv)
                near = uv + self.dice.uniform(-0.01, 0.01, uv.shape)
                found = distances([true], np.zeros(len(near), int), points + 0.05 * normals, near, np.zeros(len(near)))
                np.testing.assert_allclose(found, 0.05, rtol=1e-3)
                # From farther away one step does not do.
                far = uv + self.dice.choice([-0.03, 0.03], uv.shape)
                found = distances([true], np.zeros(len(far), int), points + 0.05 * normals, far, np.zeros(len(far)))
                np.testing.assert_allclose(found, 0.05, rtol=4e-2)

    def test_many_faces_at_once_are_as_each_by_itself(self) -> None:
        """In whatever order their places come, with some that are near enough, and with none."""
        known = [TrueSurface(face_of(surface, bounds)) for surface, bounds in SURFACES.values()]
        uv = np.concatenate([self.places(bounds) for _, bounds in SURFACES.values()])
        face = np.repeat(np.arange(len(known)), 50)
        mixed = self.dice.permutation(len(face))
        uv, face = uv[mixed], face[mixed]
        points, normals = points_and_normals(known, face, uv)
        np.testing.assert_array_equal(points_on(known, face, uv), points)
        off = points + self.dice.uniform(0, 0.1, (len(uv), 1)) * normals
        near, enough = uv + self.dice.uniform(-0.02, 0.02, uv.shape), self.dice.uniform(0, 0.15, len(uv))
        found = distances(known, face, off, near, enough)
        np.testing.assert_array_equal(distances(known, face, off, near, enough, points_on(known, face, near)), found)
        for number, true in enumerate(known):
            rows = np.flatnonzero(face == number)
            for told, alone in zip((points, normals), true.at(uv[rows]), strict=True):
                np.testing.assert_allclose(told[rows], alone, atol=1e-12)
            alone = distances([true], np.zeros(len(rows), int), off[rows], near[rows], enough[rows])
            np.testing.assert_allclose(found[rows], alone, atol=1e-12)
        none = np.zeros(0, int)
        self.assertEqual(distances(known, none, np.zeros((0, 3)), np.zeros((0, 2)), np.zeros(0)).shape, (0,))
        self.assertEqual(points_on(known, none, np.zeros((0, 2))).shape, (0, 3))

    def test_flat_and_even(self) -> None:
        self.assertTrue(TrueSurface(face_of(Geom_Plane(FRAME), (0, 1, 0, 1))).flat)
        kinds = {
            name: TrueSurface(face_of(*SURFACES[name])) for name in ("cylinder", "cone", "extruded ellipse", "sphere")
        }
        self.assertEqual([kind.even for kind in kinds.values()], [True, False, False, False])
        self.assertFalse(any(kind.flat for kind in kinds.values()))

    def test_where_u_means_nothing(self) -> None:
        true = TrueSurface(face_of(Geom_SphericalSurface(FRAME, 4), (0, 6, -math.pi / 2, math.pi / 2)))
        np.testing.assert_array_equal(
            true.still(np.array([[1, math.pi / 2], [1, 0.3]])), [[True, False], [False, False]]
        )
