"""Facing: planted reversals all found, and surfaces that have no outside, or only one side, left as they are."""

import unittest
from dataclasses import replace

import numpy as np
import trimesh

from hemp_ladder.core.facet.tessellate import tessellate
from hemp_ladder.core.mend.facing import Facing, face, turn
from hemp_ladder.core.mend.weld import Weld, weld
from hemp_ladder.core.mesh.mesh import Mesh
from tests.core.mend import meshes
from tests.support import AS1, read_kept

DICE = np.random.default_rng(17)


def turned_some(mesh: Mesh, share: float = 0.5) -> Mesh:
    return turn(mesh, DICE.random(len(mesh.triangles)) < share)


def effect(mesh: Mesh, name: str) -> float:
    return mesh.figures.effects[f"facing.{name}"] if name else mesh.figures.effects["facing"]


class Closed(unittest.TestCase):
    def test_half_the_triangles_turned_come_back_and_another_library_agrees(self) -> None:
        for whole in (meshes.box(2, 3, 4), meshes.ball(), meshes.from_library(trimesh.creation.torus(3, 1))):
            made = face(turned_some(whole), Facing())
            self.assertAlmostEqual(made.volume(), whole.volume(), places=9)
            self.assertTrue(meshes.other(made).is_winding_consistent)
            joined = weld(made, Weld(tolerance=0))
            self.assertEqual(len(joined.positions), len(whole.positions), "no vertex stays doubled")

    def test_normals_go_with_what_is_turned(self) -> None:
        ball = meshes.ball()
        radial = replace(ball, attributes={"normal": ball.positions.astype(np.float32)})
        made = face(turned_some(radial.flipped(), 0.3), Facing())
        self.assertGreater(float(np.einsum("ij,ij->i", made.normals, made.positions).min()), 0.9)

    def test_every_reversal_planted_in_public_meshes_is_found(self) -> None:
        """Solids of a public assembly by another system, each closed: what was turned is what turns back."""
        model, kept = read_kept(AS1)
        for part in model.parts:
            whole = tessellate(kept.shapes[part.key], 1.0, 0.5) if part.key in kept.shapes else None
            if whole is None or not whole.watertight:
                continue
            wrong = DICE.random(len(whole.triangles)) < 0.2
            made = face(turn(whole, wrong), Facing())
            self.assertEqual(effect(made, ""), float(wrong.sum()), part.label)
            self.assertAlmostEqual(made.volume(), whole.volume(), delta=1e-9 * abs(whole.volume()))

    def test_consistent_turns_the_fewest_and_does_not_judge(self) -> None:
        inside_out = meshes.ball().flipped()
        made = face(turned_some(inside_out, 0.1), Facing(kind="consistent"))
        self.assertLess(made.volume(), 0)
        self.assertTrue(meshes.other(made).is_winding_consistent)

    def test_a_ball_in_its_casing_stays_unless_hollows_are_asked_for(self) -> None:
        casing, inner = meshes.ball(3), meshes.ball(1)
        both = meshes.together(casing, inner)
        self.assertAlmostEqual(face(both, Facing()).volume(), casing.volume() + inner.volume(), places=6)
        hollow = face(both, Facing(nested=True))
        self.assertAlmostEqual(hollow.volume(), casing.volume() - inner.volume(), places=6)
        kept = face(meshes.together(casing, inner.flipped()), Facing())
        self.assertAlmostEqual(kept.volume(), casing.volume() - inner.volume(), places=6)
        third = meshes.together(casing, inner, meshes.ball(0.3))
        self.assertEqual(effect(face(third, Facing(nested=True)), "patches"), 1.0, "the one at odd depth only")


class Open(unittest.TestCase):
    def test_hemisphere_tube_and_lidless_box_face_out(self) -> None:
        ball = meshes.ball()
        half = meshes.without(ball, np.flatnonzero(ball.corners[:, :, 2].mean(axis=1) < 0).tolist())
        tube = meshes.from_library(trimesh.creation.cylinder(1, 4))
        tube = meshes.without(tube, np.flatnonzero(np.ptp(tube.corners[:, :, 2], axis=1) == 0).tolist())
        cube = meshes.box()
        lidless = meshes.without(cube, np.flatnonzero((cube.corners[:, :, 2] == 1).all(axis=1)).tolist())
        for name, whole in {"half": half, "tube": tube, "lidless": lidless}.items():
            with self.subTest(name):
                self.assertEqual(effect(face(whole, Facing()), ""), 0.0)
                self.assertEqual(effect(face(turned_some(whole.flipped()), Facing()), "sheets"), 0.0)
                back = face(whole.flipped(), Facing())
                self.assertEqual(effect(back, ""), float(len(whole.triangles)))

    def test_a_sheet_has_no_outside_and_is_left(self) -> None:
        sheet = meshes.mesh_of([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]], [[0, 1, 2], [0, 2, 3]])
        made = face(sheet, Facing())
        self.assertEqual((effect(made, ""), effect(made, "sheets")), (0.0, 1.0))

    def test_strips_and_bottles_of_one_side_are_told_and_left(self) -> None:
        for whole in (meshes.strip(1), meshes.klein()):
            made = face(whole, Facing())
            self.assertEqual((effect(made, "one_sided"), effect(made, "")), (1.0, 0.0))
            np.testing.assert_array_equal(made.triangles, whole.triangles)
        twice = face(meshes.strip(2), Facing())
        self.assertEqual(effect(twice, "one_sided"), 0.0)

    def test_nothing_and_one_triangle(self) -> None:
        self.assertEqual(len(face(Mesh.nothing(1), Facing()).triangles), 0)
        one = meshes.mesh_of([[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 2]])
        self.assertEqual(effect(face(one, Facing()), "sheets"), 1.0)


if __name__ == "__main__":
    unittest.main()
