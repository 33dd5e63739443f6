"""Small rounding: of exact bodies and of meshes, against closed forms."""

import math
import unittest

import numpy as np
from scipy.spatial import ConvexHull

from demo import shapes
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.facet.step import Facet
from hemp_ladder.core.facet.tessellate import tessellate, tessellate_all
from hemp_ladder.core.kernel.rounding import rounded
from hemp_ladder.core.kernel.shapes import write_shape
from hemp_ladder.core.mend import _with
from hemp_ladder.core.mend.normals import Normals
from hemp_ladder.core.mend.rounding.rounding import Round
from hemp_ladder.core.mend.weld import Weld
from tests.core.mend import meshes
from tests.support import DEMO, read_kept

SIDES = (2.0, 3.0, 4.0)


def rounded_box(a: float, b: float, c: float, r: float) -> float:
    """Volume of a box with all edges rounded: the inner box, slabs, quarters of cylinders, and a ball (Steiner's formula)."""
    a, b, c = a - 2 * r, b - 2 * r, c - 2 * r
    return a * b * c + 2 * r * (a * b + b * c + c * a) + math.pi * r**2 * (a + b + c) + 4 / 3 * math.pi * r**3


class Exact(unittest.TestCase):
    def test_a_box_has_the_volume_of_its_closed_form(self) -> None:
        (mesh,) = tessellate_all([(write_shape(shapes.box(*SIDES)), 1e-4, 0.1)], [0.1])
        self.assertEqual(dict(mesh.figures.effects), {"round": 12.0, "round.sharp": 0.0})
        self.assertTrue(mesh.watertight)
        self.assertAlmostEqual(mesh.volume(), rounded_box(*SIDES, 0.1), delta=2e-4 * 24)

    def test_faces_keep_their_numbers_and_fillets_count_as_a_neighbour(self) -> None:
        (mesh,) = tessellate_all([(write_shape(shapes.box(*SIDES)), 0.01, 0.3)], [0.1])
        plain = tessellate(write_shape(shapes.box(*SIDES)), 0.01, 0.3)
        self.assertEqual(mesh.faces.count, 6)
        for number in range(6):
            own, was = mesh.corners[mesh.faces.labels == number], plain.corners[plain.faces.labels == number]
            axis = int(np.ptp(was.reshape(-1, 3), axis=0).argmin())
            flat = own[np.ptp(own[:, :, axis], axis=1) < 1e-6]
            self.assertAlmostEqual(float(np.median(flat[:, :, axis])), float(was[0, 0, axis]), places=5)

    def test_flats_stay_flat_to_the_edge(self) -> None:
        (mesh,) = tessellate_all([(write_shape(shapes.box(*SIDES)), 0.002, 0.3)], [0.1])
        across = np.cross(mesh.corners[:, 1] - mesh.corners[:, 0], mesh.corners[:, 2] - mesh.corners[:, 0])
        across /= np.linalg.norm(across, axis=1)[:, None]
        flat = np.abs(across).max(axis=1) > 1 - 1e-9
        lean = np.einsum("ij,ikj->ik", across[flat], mesh.normals[mesh.triangles[flat]]).min()
        self.assertLess(math.degrees(math.acos(min(1.0, float(lean)))), 0.1)

    def test_a_radius_larger_than_the_body_leaves_edges_sharp_and_says_how_many(self) -> None:
        made = rounded(shapes.box(*SIDES), 3.0)
        self.assertEqual(made.rounded + made.sharp, 12)
        self.assertGreater(made.sharp, 0)

    def test_edges_that_bend_inward_are_not_rounded(self) -> None:
        """An L of two boxes has one such edge among its 18."""
        corner = shapes.extrude([(0, 0, 0), (2, 0, 0), (2, 1, 0), (1, 1, 0), (1, 2, 0), (0, 2, 0)], (0, 0, 1))
        made = rounded(corner, 0.05)
        self.assertEqual((made.rounded, made.sharp), (17, 0))

    def test_a_ball_has_no_edge_and_a_cylinder_two(self) -> None:
        self.assertEqual(rounded(shapes.sphere(1), 0.1).rounded, 0)
        made = rounded(shapes.cylinder(1, 2), 0.1)
        self.assertEqual((made.rounded, made.sharp), (2, 0))

    def test_solids_of_the_lantern_come_out_closed_and_a_little_smaller(self) -> None:
        model, kept = read_kept(DEMO)
        size = {part.key: part.size for part in model.parts}
        bodies = [(key, data) for key, data in kept.shapes.items() if key in size][:8]
        plain = tessellate_all([(data, 1e-3 * size[key], 0.4) for key, data in bodies])
        soft = tessellate_all(
            [(data, 1e-3 * size[key], 0.4) for key, data in bodies], [1e-3 * size[key] for key, _ in bodies]
        )
        done = sharp = 0.0
        for before, after in zip(plain, soft, strict=True):
            done += after.figures.effects.get("round", 0)
            sharp += after.figures.effects.get("round.sharp", 0)
            self.assertEqual(before.faces.count, after.faces.count)
            if before.watertight:
                self.assertTrue(after.watertight)
                self.assertLess(abs(after.volume() / before.volume() - 1), 0.05)
        self.assertGreater(done, 3 * sharp)


class Meshes(unittest.TestCase):
    def test_a_box_is_the_hull_of_its_drawn_back_corners(self) -> None:
        width = 0.1
        made = Round(width=width).apply(tessellate(write_shape(shapes.box(*SIDES)), 0.1, 0.5))
        half = np.array(SIDES) / 2
        corners = [
            np.where(np.arange(3) == axis, half, half - width) * (2 * np.array(signs) - 1)
            for signs in np.ndindex(2, 2, 2) for axis in range(3)
        ]  # fmt: skip
        self.assertAlmostEqual(made.volume(), ConvexHull(np.array(corners)).volume, places=9)
        self.assertEqual((made.figures.effects["round"], made.figures.effects["round.sharp"]), (12.0, 0.0))
        self.assertTrue(meshes.other(made).is_watertight)
        self.assertEqual(len(made.triangles), 12 + 24 + 8)

    def test_strips_shade_from_face_to_face_and_flats_stay_flat(self) -> None:
        made = Round(width=0.1).apply(tessellate(write_shape(shapes.box(*SIDES)), 0.1, 0.5))
        self.assertTrue((np.abs(np.abs(made.normals).max(axis=1) - 1) < 1e-6).all(), "every corner has a face's normal")

    def test_the_rim_of_a_cylinder_is_rounded_all_around(self) -> None:
        made = Round(width=0.05).apply(tessellate(write_shape(shapes.cylinder(1, 2)), 0.005, 0.1))
        self.assertEqual(made.figures.effects["round.sharp"], 0.0)
        self.assertTrue(meshes.other(made).is_watertight)
        # Pappus: a triangle of sides w at the rim, its middle at w / 3 inside, all around, twice.
        cut = 2 * (0.05**2 / 2) * 2 * math.pi * (1 - 0.05 / 3)
        self.assertAlmostEqual(made.volume(), 2 * math.pi - cut, delta=0.02)

    def test_inner_corners_stay_and_a_width_larger_than_an_edge_leaves_it_sharp(self) -> None:
        outline = [(0, 0, 0), (2, 0, 0), (2, 1, 0), (1, 1, 0), (1, 2, 0), (0, 2, 0)]
        corner = tessellate(write_shape(shapes.extrude(outline, (0, 0, 1))), 0.1, 0.5)
        made = Round(width=0.05).apply(corner)
        self.assertEqual((made.figures.effects["round"], made.figures.effects["round.sharp"]), (17.0, 0.0))
        self.assertTrue(meshes.other(made).is_watertight)
        wide = Round(width=0.6).apply(corner)
        self.assertGreater(wide.figures.effects["round.sharp"], 0)
        self.assertTrue(meshes.other(wide).is_watertight)
        self.assertLessEqual(wide.volume(), corner.volume() + 1e-9)

    def test_what_has_no_sharp_edge_stays(self) -> None:
        ball = meshes.ball()
        np.testing.assert_array_equal(Round(width=0.1).apply(ball).positions, ball.positions)


class Chains(unittest.TestCase):
    def test_an_exact_body_is_rounded_before_it_is_meshed_unless_it_is_cut_first(self) -> None:
        chain = Chain("part", 6, Facet(chord=0.1, angle=0.5))
        made = _with(chain, [Round(width=0.2), Normals()])
        self.assertEqual(
            (made.first, [step.does for step in made.operations]),
            (Facet(chord=0.1, angle=0.5, rounding=0.2), ["normals"]),
        )
        welded = _with(chain, [Weld(), Round(width=0.2)])
        self.assertEqual([step.does for step in welded.operations], ["weld"])
        self.assertEqual(welded.first, Facet(chord=0.1, angle=0.5, rounding=0.2))


if __name__ == "__main__":
    unittest.main()
