"""What facets must not trip over: cones, poles, seams, tips, settings far too fine or too coarse."""

import math
import unittest

import numpy as np
import trimesh
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakePrism,
    BRepPrimAPI_MakeRevol,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)  # fmt: skip
from OCP.collections import HArray1_gp_Pnt
from OCP.GeomAPI import GeomAPI_Interpolate
from OCP.gp import gp_Ax1, gp_Ax2, gp_Dir, gp_Pnt, gp_Vec
from OCP.TopoDS import TopoDS_Edge, TopoDS_Shape, TopoDS_Wire

from demo import shapes
from hemp_ladder.core.chain.making import Order, make
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.facet.step import Facet
from hemp_ladder.core.facet.tessellate import tessellate
from hemp_ladder.core.kernel.shapes import faces_of, write_shape
from hemp_ladder.core.mesh.measure import measure
from hemp_ladder.core.mesh.mesh import Mesh

WIDE = math.radians(60)


def made(shape: TopoDS_Shape, chord: float, angle: float = WIDE) -> Mesh:
    return measure([tessellate(write_shape(shape), chord, angle)])[0]


class Cones(unittest.TestCase):
    def test_a_cone_is_a_strip_between_its_rims(self) -> None:
        """n and m segments of the rims: n + m triangles between them, n - 2 and m - 2 on the ends (Euler)."""
        for low, high in ((10.0, 3.0), (10.0, 9.0), (20.0, 5.0)):
            for chord in (0.5, 0.1, 0.01):
                mesh = made(BRepPrimAPI_MakeCone(low, high, 30.0).Shape(), chord)
                rims = [self.segments(mesh, z) for z in (0.0, 30.0)]
                self.assertAlmostEqual(len(mesh.triangles), sum(2 * n - 2 for n in rims), delta=4)
                needed = [math.pi / math.acos(1 - chord / r) for r in (low, high)]
                for found, least in zip(rims, needed, strict=True):
                    self.assertGreaterEqual(found, math.floor(least))
                self.assertTrue(mesh.watertight)
                self.assertLessEqual(mesh.figures.deviation, chord)

    def segments(self, mesh: Mesh, height: float) -> int:
        at = np.unique(mesh.same[np.abs(mesh.positions[:, 2] - height) < 1e-9])
        return len(at)

    def test_a_tip_is_a_fan_lit_along_its_rulings(self) -> None:
        mesh = made(BRepPrimAPI_MakeCone(10.0, 0.0, 30.0).Shape(), 0.1)
        rim = self.segments(mesh, 0.0)
        self.assertEqual(len(mesh.triangles), 2 * rim - 2)
        self.assertTrue(mesh.watertight)
        tips = np.flatnonzero(mesh.positions[:, 2] > 30 - 1e-9)
        self.assertEqual(len(tips), rim, "one for each triangle")
        # Off a cone of slope 1 in 3 normals rise by 1 in 3.
        np.testing.assert_allclose(mesh.normals[tips, 2], 1 / math.sqrt(10), atol=1e-5)
        self.assertEqual(len(np.unique(np.round(mesh.normals[tips], 4), axis=0)), rim)

    def test_cones_with_holes_halves_and_hollows_stay_closed(self) -> None:
        cone = BRepPrimAPI_MakeCone(10.0, 4.0, 20.0).Shape()
        drill = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(-20, 0, 8), gp_Dir(1, 0, 0)), 2.0, 40.0).Shape()
        half = BRepPrimAPI_MakeBox(gp_Pnt(-20, 0, -1), 40.0, 40.0, 40.0).Shape()
        inner = BRepPrimAPI_MakeCone(8.0, 2.0, 20.0).Shape()
        for tool in (drill, half, inner):
            body = BRepAlgoAPI_Cut(cone, tool).Shape()
            for chord in (1.0, 0.1, 0.02):
                mesh = made(body, chord)
                self.assertTrue(mesh.watertight)
                self.assertLessEqual(mesh.figures.deviation, chord * 1.02)
                self.assertEqual(mesh.figures.degenerate, 0)


class Extrusions(unittest.TestCase):
    """Straight along their direction: a strip between rims of n segments is 2 n triangles, whatever the curve."""

    def spline(self, points: np.ndarray, closed: bool) -> TopoDS_Edge:
        array = HArray1_gp_Pnt(1, len(points))
        for number, point in enumerate(points.tolist(), 1):
            array.SetValue(number, gp_Pnt(*point))
        curve = GeomAPI_Interpolate(array, closed, 1e-6)
        curve.Perform()
        return BRepBuilderAPI_MakeEdge(curve.Curve()).Edge()

    def ring(self, deep: float) -> TopoDS_Wire:
        turn = np.linspace(0, 2 * math.pi, 48, endpoint=False)
        far = 50 * (1 + deep * np.cos(4 * turn))
        points = np.column_stack([far * np.cos(turn), far * np.sin(turn), np.zeros(48)])
        return BRepBuilderAPI_MakeWire(self.spline(points, True)).Wire()

    def test_a_sheet_keeps_the_chord_error_too(self) -> None:
        """Its open edges become more the finer they are: that is no fault."""
        high = np.linspace(0, 100, 5)
        profile = self.spline(np.column_stack([30 + 10 * np.sin(high / 15), 0 * high, high]), False)
        for sheet in (
            BRepPrimAPI_MakePrism(profile, gp_Vec(0, 80, 0)).Shape(),
            BRepPrimAPI_MakeRevol(profile, gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), math.pi / 2).Shape(),
        ):
            mesh = made(sheet, 0.02, math.radians(20))
            self.assertLessEqual(mesh.figures.deviation, 0.02 * 1.02)
            self.assertFalse(mesh.watertight)

    def test_an_extruded_spline_is_a_strip_straight_and_oblique(self) -> None:
        for way in ((0, 0, 60), (25, 10, 60)):
            body = BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(self.ring(0.2)).Face(), gp_Vec(*way)).Shape()
            for chord in (0.5, 0.1, 0.02):
                mesh = made(body, chord)
                rims = [len(np.unique(mesh.same[np.abs(mesh.positions[:, 2] - z) < 1e-6])) for z in (0, 60)]
                self.assertAlmostEqual(len(mesh.triangles), sum(2 * n - 2 for n in rims), delta=4)
                self.assertTrue(mesh.watertight)
                self.assertLessEqual(mesh.figures.deviation, chord)
                # Half the square of the radius over a turn, in closed form, as far as chords go.
                exact = math.pi * 50**2 * (1 + 0.2**2 / 2) * 60
                self.assertAlmostEqual(mesh.figures.volume / exact, 1, delta=chord / 50 + 1e-5)

    def test_corners_on_its_straight_ends_are_kept_for_who_shares_them(self) -> None:
        """A block stands against the end of a bulging wall: where it ends, there is a corner on the wall's ruling."""
        along = np.linspace(0, 100, 9)
        bulge = self.spline(np.column_stack([along, 25 * np.sin(along * math.pi / 100), 0 * along]), False)
        floor = BRepBuilderAPI_MakeEdge(gp_Pnt(100, 0, 0), gp_Pnt(0, 0, 0)).Edge()
        plate = BRepBuilderAPI_MakeFace(BRepBuilderAPI_MakeWire(bulge, floor).Wire()).Face()
        wall = BRepPrimAPI_MakePrism(plate, gp_Vec(0, 0, 60)).Shape()
        block = BRepPrimAPI_MakeBox(gp_Pnt(0, -10, 20), 30.0, 10.0, 20.0).Shape()
        mesh = made(BRepAlgoAPI_Fuse(wall, block).Shape(), 0.5)
        self.assertTrue(mesh.watertight)
        self.assertEqual(mesh.figures.t_joints, 0)

    def test_extrusions_with_holes_and_halves_stay_closed(self) -> None:
        body = BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(self.ring(0.2)).Face(), gp_Vec(0, 0, 60)).Shape()
        drill = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(-90, 0, 30), gp_Dir(1, 0, 0)), 8.0, 180.0).Shape()
        half = BRepPrimAPI_MakeBox(gp_Pnt(-100, 5, -1), 200.0, 100.0, 40.0).Shape()
        for tool in (drill, half):
            cut = BRepAlgoAPI_Cut(body, tool).Shape()
            for chord in (1.0, 0.1):
                mesh = made(cut, chord)
                self.assertTrue(mesh.watertight)
                self.assertLessEqual(mesh.figures.deviation, chord * 1.02)
                self.assertEqual(mesh.figures.degenerate, 0)


class Hard(unittest.TestCase):
    def test_flat_faces_never_gain(self) -> None:
        """A box is 12 at any density."""
        for chord, angle in ((10.0, 1.5), (0.1, 0.3), (1e-6, 0.02)):
            self.assertEqual(len(made(BRepPrimAPI_MakeBox(1.0, 2.0, 3.0).Shape(), chord, angle).triangles), 12)

    def test_a_chord_error_larger_than_the_part_gives_a_body_all_the_same(self) -> None:
        for shape in (
            BRepPrimAPI_MakeSphere(1.0).Shape(), BRepPrimAPI_MakeTorus(3.0, 1.0).Shape(),
            BRepPrimAPI_MakeCone(1.0, 0.0, 2.0).Shape(), BRepPrimAPI_MakeCylinder(1.0, 2.0).Shape(),
            shapes.pipe(shapes.spline([(0, 0, 0), (4, 0, -1), (6, 0, 3), (3, 0, 6)]), (0, 0, 0), (1, 0, 0), 0.5),
        ):  # fmt: skip
            mesh = made(shape, 1000.0, math.pi / 2)
            self.assertTrue(mesh.watertight)
            self.assertGreater(mesh.figures.volume, 0)
            self.assertEqual(mesh.figures.degenerate, 0)

    def test_closed_bodies_have_their_genus_at_every_setting(self) -> None:
        """Euler: V - E + F is 2 for a ball, 0 for a ring."""
        for shape, euler in ((BRepPrimAPI_MakeSphere(10.0).Shape(), 2), (BRepPrimAPI_MakeTorus(20.0, 5.0).Shape(), 0)):
            for chord in (2.0, 0.2, 0.02):
                mesh = made(shape, chord)
                body = trimesh.Trimesh(mesh.positions, mesh.triangles, process=False)
                body.merge_vertices(merge_norm=True, merge_tex=True)
                self.assertTrue(body.is_watertight)
                self.assertEqual(body.euler_number, euler)

    def test_what_would_never_end_is_refused_with_the_estimate(self) -> None:
        with self.assertRaises(SettingsError) as told:
            tessellate(write_shape(BRepPrimAPI_MakeSphere(1e7).Shape()), 1e-3, 1.0)
        self.assertIn("thousand million triangles", str(told.exception))
        # Of several parts only that one fails: the rest is made when they are tried alone.
        small = BRepPrimAPI_MakeSphere(1.0).Shape()
        chain = Chain("one", len(faces_of(small)), Facet(chord=0.1, angle=1.0))
        (found,) = make([Order(chain, [write_shape(small)])])
        self.assertGreater(len(found[chain.key].triangles), 8)

    def test_slivers_are_counted(self) -> None:
        """A drum 100 high of 44 sides: tan is 2 pi 10 / 44 / 100, under five degrees; as high as wide it has none."""
        tall = made(BRepPrimAPI_MakeCylinder(10.0, 100.0).Shape(), 0.03)
        walls = np.count_nonzero(np.ptp(tall.positions[tall.triangles][:, :, 2], axis=1) > 1)
        self.assertGreaterEqual(tall.figures.slender, walls)
        square = trimesh.creation.box()
        plain = Mesh.of(
            np.asarray(square.vertices), np.zeros((8, 3), np.float32), np.asarray(square.faces, np.int32), np.array([0, 12])
        )  # fmt: skip
        self.assertEqual(measure([plain])[0].figures.slender, 0)

    def test_bodies_that_cross_themselves_and_close_on_themselves_are_made(self) -> None:
        lying = shapes.pipe(
            shapes.spline([(0, 0, 0), (10, 0, 0), (10, 10, 0), (0, 10, 0), (0, 1, 0)]), (0, 0, 0), (1, 0, 0), 3
        )  # fmt: skip
        spindle = BRepPrimAPI_MakeTorus(2.0, 5.0).Shape()
        for shape in (lying, spindle):
            mesh = made(shape, 0.2)
            self.assertGreater(len(mesh.triangles), 50)
            self.assertEqual(mesh.figures.failed, ())
            self.assertEqual(mesh.figures.degenerate, 0)
