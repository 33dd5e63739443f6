"""The angle kept as it is asked, tori in regular cells, and which limit is the one in force."""

import math
import unittest

import numpy as np
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepGProp import BRepGProp
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.TopoDS import TopoDS_Shape

from hemp_ladder.core.facet.settings import turning_radius
from hemp_ladder.core.facet.tessellate import tessellate
from hemp_ladder.core.kernel.shapes import write_shape
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.ship.quads import quads_of


def made(shape: TopoDS_Shape, chord: float, degrees: float) -> Mesh:
    return tessellate(write_shape(shape), chord, math.radians(degrees))


def bend() -> TopoDS_Shape:
    """A quarter of a ring with a straight pipe at one end."""
    ring = BRepPrimAPI_MakeTorus(20.0, 5.0, math.pi / 2).Shape()
    pipe = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(20, 0, 0), gp_Dir(0, -1, 0)), 5.0, 30.0).Shape()
    return BRepAlgoAPI_Fuse(ring, pipe).Shape()


class Angles(unittest.TestCase):
    def test_a_circle_has_as_many_segments_as_the_angle_asks(self) -> None:
        """A turn divided into n segments turns by 360 / n at each: the fewest are the turn by the angle, rounded up."""
        for degrees in (10, 20, 24, 30):
            drum = made(BRepPrimAPI_MakeCylinder(10.0, 5.0).Shape(), 100, degrees)
            rim = drum.positions[np.isclose(drum.positions[:, 2], 0)]
            self.assertEqual(len(np.unique(rim.round(6), axis=0)), math.ceil(360 / degrees))

    def test_a_ball_turns_by_no_more_across_its_sides(self) -> None:
        for degrees in (10, 20, 30):
            ball = made(BRepPrimAPI_MakeSphere(10.0).Shape(), 100, degrees)
            sagitta = 10 * (1 - math.cos(math.radians(degrees) / 2))
            self.assertLessEqual(ball.figures.deviation, sagitta * 1.001)
            self.assertTrue(ball.watertight)

    def test_the_limit_in_force_changes_at_the_turning_radius(self) -> None:
        """r (1 - cos(a / 2)) is the chord error (sagitta)."""
        radius = turning_radius(0.5, 20)
        for times, share in ((0.9, 1.0), (1.1, 0.0)):
            drum = made(BRepPrimAPI_MakeCylinder(times * radius, 5.0).Shape(), 0.5, 20)
            self.assertEqual(drum.figures.faceted["by_angle"], share)


class Regular(unittest.TestCase):
    def test_rings_and_bends_are_cells_within_the_chord_error(self) -> None:
        for name, shape, least in (
            ("ring", BRepPrimAPI_MakeTorus(20.0, 5.0).Shape(), 1.0),
            ("thin ring", BRepPrimAPI_MakeTorus(50.0, 1.0).Shape(), 1.0),
            ("bend", BRepPrimAPI_MakeTorus(20.0, 5.0, math.pi / 2).Shape(), 1.0),
            ("bend and pipe", bend(), 0.99),
        ):
            for chord in (0.1, 0.01):
                with self.subTest(name, chord=chord):
                    mesh = made(shape, chord, 20)
                    self.assertTrue(mesh.watertight and not mesh.inside_out)
                    self.assertLessEqual(mesh.figures.deviation, chord)
                    walls = mesh.triangles[~flat(mesh)]
                    quads, _ = quads_of(mesh.positions, walls)
                    self.assertGreaterEqual(2 * len(quads) / len(walls), least)

    def test_what_is_cut_out_of_a_ring_stays_cut_out(self) -> None:
        """A rod through the tube of a ring, straight across it and along its seam: what is left is closed, and has the
        volume that the kernel integrates."""
        for ring, at, way in (
            (BRepPrimAPI_MakeTorus(20.0, 5.0).Shape(), (0, 20, -10), (0, 0, 1)),
            (BRepPrimAPI_MakeTorus(20.0, 5.0).Shape(), (10, 0, 0), (1, 0, 0)),
            (BRepPrimAPI_MakeTorus(20.0, 5.0, math.pi / 2).Shape(), (14, 14, -10), (0, 0, 1)),
        ):
            rod = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(*at), gp_Dir(*way)), 2.0, 30.0).Shape()
            left = BRepAlgoAPI_Cut(ring, rod).Shape()
            exact = GProp_GProps()
            BRepGProp.VolumeProperties_s(left, exact, 1e-6)
            mesh = made(left, 0.01, 10)
            self.assertTrue(mesh.watertight)
            self.assertAlmostEqual(mesh.volume() / exact.Mass(), 1, delta=3e-3)

    def test_it_costs_no_more_than_what_is_irregular(self) -> None:
        """Error shared by both ways: 2 pi / (2 arccos(1 - e / 2 r)) cells around the tube, and so along it."""
        mesh = made(BRepPrimAPI_MakeTorus(20.0, 5.0).Shape(), 0.01, 20)
        around, along = (math.pi / math.acos(1 - 0.005 / radius) for radius in (5, 25))
        self.assertLess(len(mesh.triangles), 2 * around * along * 1.1)


def flat(mesh: Mesh) -> np.ndarray:
    """Triangles that are lit as they lie, (m,)."""
    across = np.cross(mesh.corners[:, 1] - mesh.corners[:, 0], mesh.corners[:, 2] - mesh.corners[:, 0])
    across /= np.linalg.norm(across, axis=1)[:, None]
    lit = mesh.normals[mesh.triangles].astype(float)
    return np.asarray((np.einsum("kci,ki->kc", lit, across) > 1 - 1e-9).all(axis=1))
