"""Repair by kind, against closed forms, Euler's characteristic and what another library calls watertight."""

import math
import unittest
from itertools import pairwise

import numpy as np
import trimesh

from hemp_ladder.core.chain.came import AsItCame, write_meshed
from hemp_ladder.core.chain.making import Order, make
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.mend.repair.holes import fill
from hemp_ladder.core.mend.repair.repair import KINDS, Repair, repair
from hemp_ladder.core.mend.weld import Weld
from hemp_ladder.core.mesh.mesh import Mesh
from tests.core.mend import meshes

DICE = np.random.default_rng(29)


def put_right(mesh: Mesh, *kinds: str, **more: object) -> Mesh:
    return repair(mesh.settled(), Repair.model_validate({"kinds": kinds or KINDS, **more}))


class Kinds(unittest.TestCase):
    def assert_sound(self, mesh: Mesh, euler: int = 2) -> None:
        """Watertight by our own counts and by another library's, and of the genus it should have."""
        told, others = meshes.figures(mesh), meshes.other(mesh)
        self.assertEqual(
            (told.open_edges, told.over_shared, told.duplicate, told.degenerate, told.t_joints, told.crossing),
            (0, 0, 0, 0, 0, 0),
        )
        self.assertTrue(others.is_watertight and others.is_winding_consistent)
        self.assertEqual(others.euler_number, euler)

    def test_what_is_sound_is_left_alone(self) -> None:
        for whole in (meshes.box(), meshes.ball()):
            made = put_right(whole)
            np.testing.assert_array_equal(made.triangles, whole.triangles)
            self.assertEqual(made.figures.effects["repair"], 0.0)

    def test_doubles_and_triangles_without_area_go(self) -> None:
        ball = meshes.ball()
        made = put_right(meshes.also(ball, [*ball.triangles[:5].tolist(), [0, 1, 1]]), "duplicate", "degenerate")
        self.assertEqual((len(made.triangles), made.figures.effects["repair"]), (len(ball.triangles), 6.0))
        self.assert_sound(made)

    def test_a_leaf_seen_from_both_sides_keeps_both(self) -> None:
        leaf = meshes.mesh_of([[0, 0, 0], [1, 0, 0], [1, 1, 0]], [[0, 1, 2], [2, 1, 0]])
        self.assertEqual(len(put_right(leaf, "duplicate").triangles), 2)

    def test_a_needle_that_bridged_an_edge_leaves_no_gap(self) -> None:
        """A cube with a corner on one edge of one side only; the gap is closed by a triangle without an area."""
        cube = meshes.box()
        a, b, c = cube.triangles[0].tolist()
        spots = np.vstack([cube.positions, (cube.positions[a] + cube.positions[b]) / 2])
        new = len(cube.positions)
        triangles = [[a, new, c], [new, b, c], [a, b, new], *cube.triangles[1:].tolist()]
        made = put_right(meshes.mesh_of(spots, triangles), "degenerate")
        self.assert_sound(made)
        self.assertAlmostEqual(made.volume(), 1.0)

    def test_edges_run_through_corners_that_lie_on_them(self) -> None:
        cube = meshes.box()
        a, b, c = cube.triangles[0].tolist()
        shares = np.sort(DICE.uniform(0.1, 0.9, 5))
        spots = np.vstack(
            [cube.positions, *[cube.positions[a] + s * (cube.positions[b] - cube.positions[a]) for s in shares]]
        )
        ring = [a, *range(len(cube.positions), len(spots)), b]
        fan = [[p, q, c] for p, q in pairwise(ring)]
        broken = meshes.mesh_of(spots, [*fan, *cube.triangles[1:].tolist()])
        self.assertEqual(meshes.figures(broken).t_joints, 5)
        made = put_right(broken, "t-joints")
        self.assert_sound(made)
        self.assertEqual((made.figures.effects["repair.t-joints"], len(made.triangles)), (5.0, 12 + 5 + 5))
        self.assertAlmostEqual(made.area(), 6.0)

    def test_seams_within_reach_are_joined_and_others_stay(self) -> None:
        ball = meshes.ball()
        upper = ball.corners[:, :, 2].mean(axis=1) > 0
        halves = [meshes.without(ball, np.flatnonzero(side).tolist()) for side in (upper, ~upper)]
        apart = meshes.together(
            halves[0], meshes.mesh_of(halves[1].positions + np.array([0, 0, 1e-3]), halves[1].triangles)
        )
        self.assertGreater(meshes.figures(apart).open_edges, 50)
        self.assert_sound(put_right(apart, "open", reach=2e-3))
        self.assertEqual(meshes.figures(put_right(apart, "open", reach=1e-4)).holes, 2)

    def test_fins_and_walls_inside_go_and_what_touches_comes_apart(self) -> None:
        cube = meshes.box()
        spots = np.vstack([cube.positions, [2, 2, 2]])
        finned = meshes.mesh_of(spots, [*cube.triangles.tolist(), [*cube.triangles[0, :2].tolist(), 8]])
        self.assert_sound(put_right(finned, "over-shared"))
        touching = put_right(meshes.together(meshes.box(), meshes.box(at=(1, 1, 0))), "over-shared")
        told = meshes.figures(touching)
        self.assertEqual((told.over_shared, told.shells, told.watertight), (0, 2, True))
        self.assertAlmostEqual(told.volume, 2.0, places=4)

    def test_however_many_fins_there_are(self) -> None:
        """One on every third of a ball's edges that lie on different triangles."""
        ball = meshes.ball()
        rows = range(0, 1280, 16)
        tips = 1.3 * ball.corners[list(rows), :2].mean(axis=1)
        fins = [[*ball.triangles[row, :2].tolist(), len(ball.positions) + k] for k, row in enumerate(rows)]
        finned = meshes.mesh_of(np.vstack([ball.positions, tips]), [*ball.triangles.tolist(), *fins])
        self.assertEqual(meshes.figures(finned).over_shared, 80)
        made = put_right(finned, "over-shared")
        self.assert_sound(made)
        self.assertEqual(len(made.triangles), 1280)

    def test_joints_alone_reach_no_farther_than_rounding(self) -> None:
        """A part of 13 mm, whose detail of a tenth of a millimetre a seam's reach would swallow."""
        spots = np.array([[0, 0, 0], [13, 0, 0], [13, 13, 0], [0, 13, 0], [6, 0.05, 0], [0, -9, 0], [13, -9, 0]], float)
        split = meshes.mesh_of(spots, [[0, 1, 2], [0, 2, 3], [5, 4, 0], [5, 6, 4], [6, 1, 4]])
        self.assertEqual(put_right(split, "t-joints", reach=0.1).figures.effects["repair"], 0.0)
        self.assertGreater(put_right(split, "t-joints", "open", reach=0.1).figures.effects["repair"], 0.0)

    def test_a_wall_between_two_rooms_goes(self) -> None:
        """Two boxes side by side with one wall for both: three triangles meet at each of its four edges."""
        left, right = meshes.box(), meshes.box(at=(1, 0, 0))
        both = meshes.together(left, right)
        wall = (both.corners[:, :, 0] == 1).all(axis=1)
        one = meshes.without(both, np.flatnonzero(wall)[2:].tolist())
        made = put_right(one, "over-shared")
        self.assert_sound(made)
        self.assertAlmostEqual(made.volume(), 2.0)

    def test_boxes_through_each_other_are_one_body_of_the_volume_of_both(self) -> None:
        two = meshes.together(meshes.box(), meshes.box(at=(0.5, 0.3, 0.2)))
        made = put_right(two, "crossing")
        self.assert_sound(made)
        self.assertAlmostEqual(made.volume(), 2 - 0.5 * 0.7 * 0.8, places=6)
        turned = put_right(meshes.together(meshes.box(), meshes.box(at=(0.5, 0.3, 0.2)).flipped()), "crossing")
        self.assertAlmostEqual(turned.volume(), 2 - 0.5 * 0.7 * 0.8, places=6)


class Holes(unittest.TestCase):
    def test_flat_ones_are_closed_in_their_plane(self) -> None:
        cube = meshes.box(2, 3, 4)
        top = np.flatnonzero((cube.corners[:, :, 2] == 4).all(axis=1)).tolist()
        made = put_right(meshes.without(cube, top), "holes")
        self.assertAlmostEqual(made.volume(), 24)
        self.assertTrue(meshes.other(made).is_watertight)

    def test_a_torus_with_bites_has_its_genus_again(self) -> None:
        torus = meshes.from_library(trimesh.creation.torus(3, 1))
        self.assertEqual(meshes.other(torus).euler_number, 0)
        bitten = meshes.without(torus, [5, 400, 401, 900])
        made = put_right(bitten, "holes")
        self.assertTrue(meshes.other(made).is_watertight)
        self.assertEqual(meshes.other(made).euler_number, 0)
        self.assertEqual(made.figures.effects["repair.holes"], 3.0)

    def test_a_ring_that_is_not_flat_has_the_least_area(self) -> None:
        """The skew square: its two fillings by two triangles differ, and all others are those two."""
        ring = np.array([[0, 0, 0], [1, 0, 0.3], [1.6, 1, 0], [0, 1, 0.3]], float)
        areas = []
        for triangles in ([[0, 1, 2], [0, 2, 3]], [[0, 1, 3], [1, 2, 3]]):
            corners = ring[np.array(triangles)]
            areas.append(
                np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum()
            )
        found = fill(ring)
        assert found is not None
        corners = ring[found]
        area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum()
        self.assertAlmostEqual(area, min(areas))

    def test_the_outer_edge_of_a_sheet_is_no_hole_but_those_inside_it_are(self) -> None:
        x, y = np.meshgrid(np.arange(6.0), np.arange(6.0), indexing="ij")
        spots = np.stack([x, y, np.zeros_like(x)], axis=-1).reshape(-1, 3)
        quads = [(i * 6 + j, (i + 1) * 6 + j, (i + 1) * 6 + j + 1, i * 6 + j + 1) for i in range(5) for j in range(5)]
        triangles = [t for a, b, c, d in quads for t in ((a, b, c), (a, c, d))]
        sheet = meshes.mesh_of(spots, triangles)
        middle = np.flatnonzero((np.abs(sheet.corners - [2.5, 2.5, 0]) <= 0.5).all(axis=(1, 2))).tolist()
        self.assertEqual(len(middle), 2)
        made = put_right(meshes.without(sheet, middle), "holes")
        self.assertEqual((made.figures.effects["repair.holes"], meshes.figures(made).holes), (1.0, 1))
        self.assertAlmostEqual(made.area(), 25.0)


class Force(unittest.TestCase):
    def test_an_open_ball_is_closed_and_its_volume_is_near_the_ball_s(self) -> None:
        ball = meshes.ball()
        open_ = meshes.without(ball, np.flatnonzero(ball.corners[:, :, 2].mean(axis=1) > 0.85).tolist())
        made = put_right(open_, *("holes",)[:0], "duplicate", watertight=True, cells=48)
        self.assertTrue(meshes.other(made).is_watertight)
        cap = math.pi * 0.15**2 * (3 - 0.15) / 3
        self.assertAlmostEqual(made.volume(), 4 / 3 * math.pi - cap, delta=0.05 * 4 / 3 * math.pi)
        self.assertEqual(made.figures.effects["repair.forced"], 1.0)

    def test_what_is_closed_is_not_made_anew(self) -> None:
        self.assertNotIn("repair.forced", put_right(meshes.ball(), watertight=True).figures.effects)

    def test_what_encloses_nothing_is_refused_in_a_sentence(self) -> None:
        sheet = meshes.mesh_of([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]], [[0, 1, 2], [0, 2, 3]])
        doubled = meshes.also(sheet, sheet.triangles)
        made = put_right(doubled, watertight=True, cells=32)
        self.assertIn("enclosed", made.figures.refused["repair"])
        self.assertEqual(len(made.triangles), 2, "what was put right by kind stays so")


class BadInput(unittest.TestCase):
    def test_whatever_comes_ends_in_a_mesh_or_in_a_sentence(self) -> None:
        """Empty, one triangle, one place, a fan around an edge, strips and bottles of one side, slivers, shells in shells."""
        fan = meshes.mesh_of(
            [[0, 0, 0], [0, 0, 1], *[[math.cos(a), math.sin(a), 0.5] for a in np.linspace(0, 6, 9)]],
            [[0, 1, 2 + k] for k in range(9)],
        )
        slivers = meshes.mesh_of([[0, 0, 0], [1, 0, 0], [0.5, 1e-9, 0], [0.5, 1, 0]], [[0, 1, 2], [0, 2, 3], [2, 1, 3]])
        nested = meshes.together(meshes.ball(3), meshes.ball(2), meshes.ball(1))
        crowd = meshes.mesh_of(np.zeros((30_000, 3)), np.arange(30_000))
        dust = meshes.mesh_of(DICE.normal(0, 1e-9, (30_000, 3)), np.arange(30_000))
        one = meshes.mesh_of([[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 2]])
        given = [fan, slivers, nested, crowd, dust, one, meshes.strip(1), meshes.klein(), Mesh.nothing(1)]
        for number, mesh in enumerate(given):
            for more in ({}, {"watertight": True, "cells": 16}):
                with self.subTest(number=number, **more):
                    try:
                        made = put_right(mesh, **more)
                    except SettingsError as refused:
                        self.assertTrue(refused.message.endswith("."))
                    else:
                        self.assertTrue(np.isfinite(made.positions).all())
                        meshes.figures(made)

    def test_the_mesh_before_stays_where_an_operation_makes_no_sense_of_it(self) -> None:
        cube = meshes.box()
        chain = Chain("cube", 1, AsItCame(), (Weld(tolerance=5.0), Repair()))
        (found,) = make([Order(chain, [write_meshed(cube.positions, cube.triangles)])])
        made = found[chain.key]
        self.assertEqual(len(made.triangles), 12)
        self.assertIn("fall together", made.figures.refused["weld"])
        self.assertIn("repair", made.figures.effects)

    def test_the_order_in_which_kinds_are_told_makes_no_other_key(self) -> None:
        keys = {Repair.model_validate({"kinds": kinds}).as_key for kinds in (["holes", "open"], ["open", "holes"])}
        self.assertEqual(len(keys), 1)

    def test_options_name_kinds(self) -> None:
        self.assertEqual(set(Repair.from_option("holes, t-joints").kinds), {"holes", "t-joints"})
        self.assertEqual(Repair.from_option("all").kinds, KINDS)
        self.assertTrue(Repair.from_option("watertight").watertight)
        self.assertEqual(Repair.from_option("holes,watertight").kinds, ("holes",))
        with self.assertRaisesRegex(SettingsError, "moths"):
            Repair.from_option("holes,moths")


if __name__ == "__main__":
    unittest.main()
