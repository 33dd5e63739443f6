"""Curves to points: against closed forms, dense sampling, and other people's splines."""

import math
import random
import unittest

import numpy as np
from ezdxf.math import BSpline
from scipy.spatial import cKDTree

from hemp_ladder.core.drawn.curves import Subpath, arc, bounds, circle, polyline
from hemp_ladder.core.drawn.flatten import Fineness, flatten, flatten_measured
from hemp_ladder.core.receive.dxf.polylines import bulged
from hemp_ladder.core.receive.dxf.splines import spline

WIDE = math.pi / 2
BEZIER = Subpath((0.0, 0.0), (("C", (0.0, 40.0, 60.0, -20.0, 80.0, 30.0)), ("Q", (90.0, 50.0, 120.0, 0.0))), False)


def strays(path: Subpath, points: np.ndarray) -> float:
    """The largest distance of the true curve, sampled densely, from the polygon's sides."""
    dense = flatten(path, Fineness(math.inf, WIDE, 4000))
    start, along = points[:-1], np.diff(points, axis=0)
    away = dense[:, None] - start[None]
    share = np.clip((away * along).sum(2) / np.maximum((along * along).sum(1), 1e-300), 0, 1)
    return float(np.linalg.norm(away - share[..., None] * along, axis=2).min(1).max())


class Circles(unittest.TestCase):
    def test_as_many_segments_as_the_sagitta_asks_for(self) -> None:
        # A chord over the angle s of radius r strays by r (1 - cos(s/2)), so n = pi / arccos(1 - e/r).
        for radius, error in ((1.0, 0.1), (10.0, 0.01), (0.35, 0.0005), (3000.0, 0.5)):
            points, off = flatten_measured(circle(0, 0, radius), Fineness(error, WIDE))
            self.assertEqual(len(points), math.ceil(math.pi / math.acos(1 - error / radius) - 1e-9))
            self.assertLessEqual(off, error)
            self.assertAlmostEqual(off, radius * (1 - math.cos(math.pi / len(points))), delta=1e-9 * radius)

    def test_the_angle_is_kept_where_the_error_would_allow_more(self) -> None:
        self.assertEqual(len(flatten(circle(0, 0, 1.0), Fineness(1.0, math.radians(20)))), 18)

    def test_segments_replace_both(self) -> None:
        self.assertEqual(len(flatten(circle(0, 0, 1.0), Fineness(1e-9, 1e-3, 24))), 24)
        self.assertEqual(
            len(flatten(Subpath((1.0, 0.0), (arc(0, 0, 1, 0, 1.0),), False), Fineness(1e-9, 1e-3, 24))), 25
        )

    def test_a_bulge_is_the_tangent_of_a_quarter_of_its_angle(self) -> None:
        # DXF reference, LWPOLYLINE, group code 42: 1 is a half circle, to the left of the chord's direction negative.
        for bulge in (1.0, -1.0, 0.5, -0.3, 0.05, 3.0):
            path = bulged([(0, 0, bulge), (10, 0, 0.0)], False)
            points = flatten(path, Fineness(1e-5, 0.02))
            angle = 4 * math.atan(bulge)
            radius = abs(10 / 2 / math.sin(angle / 2))
            length = np.linalg.norm(np.diff(points, axis=0), axis=1).sum()
            self.assertAlmostEqual(float(length), radius * abs(angle), delta=1e-3)
            segment = radius**2 / 2 * (abs(angle) - math.sin(abs(angle)))
            x, y = points.T
            area = float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2
            self.assertAlmostEqual(abs(area), segment, delta=1e-3 * max(segment, 1))
            self.assertEqual(area > 0, bulge > 0)
            np.testing.assert_allclose(points[-1], (10, 0), atol=1e-9)


class OtherCurves(unittest.TestCase):
    def test_the_chord_error_is_kept_everywhere(self) -> None:
        ellipse = Subpath((30.0, 0.0), (("A", (0, 0, 30, 0, 0, 4, 0.0, 5.0)),), False)
        for path in (BEZIER, ellipse):
            for error in (1.0, 0.1, 0.01):
                points, off = flatten_measured(path, Fineness(error, WIDE))
                self.assertLessEqual(off, error * 1.0001)
                self.assertLessEqual(strays(path, points), error * 1.001)

    def test_the_angle_is_kept(self) -> None:
        steps = np.diff(
            flatten(Subpath(BEZIER.start, BEZIER.segments[:1], False), Fineness(math.inf, math.radians(5))), axis=0
        )
        turns = np.abs(np.diff(np.unwrap(np.arctan2(steps[:, 1], steps[:, 0]))))
        self.assertLessEqual(float(turns.max()), math.radians(5) * 1.0001)

    def test_splines_agree_with_another_library(self) -> None:
        dice = random.Random(3)
        for weighted in (False, True):
            control = [(dice.uniform(0, 100), dice.uniform(0, 100)) for _ in range(9)]
            weights = [dice.uniform(0.5, 3) for _ in control] if weighted else None
            tool = BSpline(control, order=4, weights=weights)
            points = flatten(spline(tool, False), Fineness(0.01, math.radians(5)))
            theirs = np.array([(p.x, p.y) for p in tool.approximate(30_000)])
            away, _ = cKDTree(theirs).query(points)
            self.assertLess(float(away.max()), 0.03)  # half a step of theirs
            np.testing.assert_allclose(points[[0, -1]], theirs[[0, -1]], atol=1e-9)

    def test_a_curve_of_absurd_size_gets_no_absurd_number_of_points(self) -> None:
        self.assertLess(len(flatten(circle(0, 0, 1e12), Fineness(1e-9, 1e-6))), 100_000)


class Moves(unittest.TestCase):
    def test_a_map_of_the_curve_is_the_curve_of_mapped_points(self) -> None:
        turn = (1.2, -0.4, 3.0, 0.7, 0.9, -2.0)
        tool = BSpline([(0, 0), (5, 9), (9, -3), (14, 4), (20, 0)], order=4, weights=[1, 2, 1, 3, 1])
        for path in (BEZIER, circle(3, 4, 5, 2), spline(tool, False), polyline([(0, 0), (1, 2), (5, 1)], True)):
            fine = Fineness(math.inf, WIDE, 40)
            there = flatten(path, fine) @ [[turn[0], turn[3]], [turn[1], turn[4]]] + [turn[2], turn[5]]
            np.testing.assert_allclose(flatten(path.moved(turn), fine), there, atol=1e-9)

    def test_run_backwards_it_is_the_same_curve(self) -> None:
        tool = BSpline([(0, 0), (5, 9), (9, -3), (14, 4), (20, 0)], order=4, weights=[1, 2, 1, 3, 1])
        for path in (BEZIER, Subpath((5.0, 0.0), (arc(0, 0, 5, 0, 2),), False), spline(tool, False)):
            fine = Fineness(math.inf, WIDE, 16)
            np.testing.assert_allclose(flatten(path.reversed(), fine), flatten(path, fine)[::-1], atol=1e-9)

    def test_bounds_hold_an_arc_and_no_more(self) -> None:
        quarter = Subpath((1.0, 0.0), (arc(0, 0, 1, 0, math.pi / 2),), False)
        np.testing.assert_allclose(bounds([quarter]), [[0, 0], [1, 1]], atol=1e-12)
        leaning = circle(0, 0, 3, 1).moved((math.cos(0.5), -math.sin(0.5), 0, math.sin(0.5), math.cos(0.5), 0))
        half = math.hypot(3 * math.cos(0.5), math.sin(0.5))
        self.assertAlmostEqual(bounds([leaning])[1, 0], half, places=9)

    def test_bounds_of_many_arcs_are_those_of_each(self) -> None:
        dice = random.Random(11)
        arcs = []
        for _ in range(200):
            cx, cy, start, sweep = (dice.uniform(-7, 7) for _ in range(4))
            stretched = tuple(dice.uniform(-2, 2) for _ in range(4))
            begin = [
                c + u * math.cos(start) + v * math.sin(start)
                for c, u, v in zip((cx, cy), stretched[:2], stretched[2:], strict=True)
            ]
            arcs.append(Subpath((begin[0], begin[1]), (("A", (cx, cy, *stretched, start, sweep)),), False))
        each = np.array([bounds([one]) for one in arcs])
        np.testing.assert_allclose(bounds(arcs), [each[:, 0].min(axis=0), each[:, 1].max(axis=0)], atol=1e-12)
        # And each is the box of points along it.
        for one, box in zip(arcs, each, strict=True):
            points = flatten(one, Fineness(1e-7, WIDE))
            np.testing.assert_allclose([points.min(axis=0), points.max(axis=0)], box, atol=1e-6)

    def test_a_shift_is_the_map_that_shifts(self) -> None:
        tool = spline(BSpline([(0, 0), (1, 4), (5, 4), (6, 0), (8, 3)]), False)
        for path in (
            BEZIER,
            circle(1, 2, 3),
            polyline([(0, 0), (1, 2)], False),
            polyline([(0, 0), (3, 0), (1, 2)], True),
            tool,
        ):
            fine = Fineness(1e-3, WIDE)
            moved = flatten(path.moved((1.0, 0.0, 3.0, 0.0, 1.0, -2.0)), fine)
            np.testing.assert_allclose(moved, flatten(path, fine) + np.array([3.0, -2.0]), atol=1e-9)


if __name__ == "__main__":
    unittest.main()
