"""Stand-ins: closed, light, and around what they stand for."""

import unittest
from dataclasses import replace

import numpy as np
import trimesh
from pydantic import ValidationError
from scipy.spatial import ConvexHull

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.mesh.mesh import Mesh, Runs
from hemp_ladder.core.trim.stand_in import StandIn, stand_in
from tests.core.trim import shapes


def stood(mesh: Mesh, kind: str, **more: object) -> Mesh:
    return stand_in(mesh, StandIn.model_validate({"kind": kind, **more})).settled()


class Kinds(unittest.TestCase):
    def test_a_turned_slab_gives_its_own_box(self) -> None:
        slab = shapes.slab(2)
        turn = trimesh.transformations.rotation_matrix(0.7, (1, 2, 3))[:3, :3]
        turned = shapes.loose(slab.corners @ turn.T)
        box = stood(turned, "box")
        self.assertEqual(len(box.triangles), 12)
        told = shapes.figures(box)
        self.assertEqual((told.open_edges, told.inside_out), (0, False))
        self.assertAlmostEqual(told.volume, 8.0, 4)
        self.assertLess(box.figures.trimmed["there"], 1e-5)

    def test_no_box_is_smaller_than_another_librarys_and_all_is_inside(self) -> None:
        ring = shapes.torus(60, 30)
        box = stood(ring, "box")
        other = trimesh.bounds.oriented_bounds(trimesh.Trimesh(ring.positions, ring.triangles))[1]
        self.assertLess(box.volume(), 1.02 * np.prod(other))
        self.assertLess(ConvexHull(np.vstack([box.positions, ring.positions])).volume, box.volume() * (1 + 1e-6))

    def test_a_hull_is_convex_and_small(self) -> None:
        ball = shapes.ball(5)
        hull = stood(ball, "hull")
        self.assertLessEqual(len(hull.triangles), 400)
        self.assertEqual(shapes.figures(hull).open_edges, 0)
        self.assertAlmostEqual(hull.volume(), ConvexHull(hull.positions).volume, 6)
        self.assertAlmostEqual(hull.volume() / (4 / 3 * np.pi), 1, 1)
        slab = stood(shapes.slab(2), "hull")
        self.assertAlmostEqual(slab.volume(), 8.0, 4)

    def test_a_shell_is_closed_keeps_its_hole_and_grows_finer(self) -> None:
        ring = shapes.torus(200, 100)
        off, volume = [], 2 * np.pi**2 * 1.0 * 0.3**2
        for cells in (16, 32, 64):
            shell = stood(ring, "shell", cells=cells)
            told = shapes.figures(shell)
            self.assertEqual((told.open_edges, told.shells), (0, 1))
            self.assertLess(abs(told.volume / volume - 1), 0.05)
            off.append(shell.figures.trimmed["there"])
        self.assertEqual(off, sorted(off, reverse=True))
        self.assertLess(off[-1], 0.01)

    def test_faces_come_from_the_nearest(self) -> None:
        ball = shapes.ball(5)
        upper = (ball.corners[:, :, 2].mean(axis=1) > 0).astype(np.int32)
        order = np.argsort(upper, kind="stable")
        two = replace(ball, triangles=ball.triangles[order], runs={"face": Runs.labelled(upper[order], 2)})
        shell = stood(two, "shell", cells=24)
        up = shell.corners[:, :, 2].mean(axis=1) > 0.1
        self.assertTrue((shell.faces.labels[up] == 1).all())
        self.assertEqual(set(shell.faces.labels.tolist()), {0, 1})

    def test_open_surfaces_have_shells_too(self) -> None:
        ball = shapes.ball(4)
        bowl = replace(ball, triangles=ball.triangles[ball.corners[:, :, 2].mean(axis=1) < 0])
        bowl = replace(bowl, runs={"face": Runs.each(np.array([0, len(bowl.triangles)]))})
        shell = stood(bowl, "shell", cells=16)
        self.assertGreater(len(shell.triangles), 50)
        self.assertLess(shell.figures.trimmed["there"], 0.2)


class BadInput(unittest.TestCase):
    def test_what_has_no_bulk_and_what_is_lighter_already_stays(self) -> None:
        flat = shapes.loose(np.array([[[0, 0, 0], [1, 0, 0], [0, 1, 0]]] * 20, float))
        for kind in ("box", "hull"):
            with self.assertRaises(SettingsError):
                stood(flat, kind)
        with self.assertRaises(SettingsError) as caught:
            stood(shapes.slab(0), "shell")
        self.assertIn("the part has 12", caught.exception.message)
        nothing = Mesh.nothing(1)
        self.assertIs(stand_in(nothing, StandIn()), nothing)

    def test_kinds_are_checked(self) -> None:
        for wrong in ({"kind": "cat"}, {"cells": 1}, {"cells": 10_000}):
            with self.assertRaises(ValidationError):
                StandIn.model_validate(wrong)


if __name__ == "__main__":
    unittest.main()
