"""An allowance against brute force, and where a curve bends."""

import itertools
import unittest

import numpy as np

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.facet.allowance import Curve, knee, spread


def curves(dice: np.random.Generator, parts: int, settings: int) -> list[Curve]:
    """Costs that rise and errors that fall, with a few that do neither."""
    found = []
    for _ in range(parts):
        costs = np.sort(dice.integers(10, 400, settings)).astype(float)
        errors = np.sort(dice.random(settings))[::-1] * dice.uniform(0.2, 3)
        errors[dice.integers(settings)] *= 1.4
        found.append(Curve(costs, errors))
    return found


class Spreading(unittest.TestCase):
    def test_no_other_choice_has_a_smaller_largest_error(self) -> None:
        """All ways to choose, one by one."""
        dice = np.random.default_rng(1)
        for _ in range(60):
            some = curves(dice, int(dice.integers(1, 5)), 5)
            least = sum(float(curve.costs.min()) for curve in some)
            allowed = least + float(dice.integers(0, 600))
            found = spread(some, allowed)
            best = min(
                max(float(curve.errors[k]) for curve, k in zip(some, choice, strict=True))
                for choice in itertools.product(range(5), repeat=len(some))
                if sum(float(curve.costs[k]) for curve, k in zip(some, choice, strict=True)) <= allowed
            )
            self.assertAlmostEqual(found.error, best)
            self.assertLessEqual(found.total, allowed)

    def test_what_is_left_is_spent_where_it_helps(self) -> None:
        steep = Curve(np.array([10.0, 100.0]), np.array([5.0, 1.0]))
        flat = Curve(np.array([10.0, 20.0, 30.0]), np.array([3.0, 2.0, 1.0]))
        found = spread([steep, flat], 50.0)
        self.assertEqual((found.choices, found.total, found.error), ((0, 2), 40.0, 5.0))

    def test_what_is_fixed_counts_and_too_little_is_refused(self) -> None:
        some = [Curve(np.array([10.0, 20.0]), np.array([1.0, 0.5]))]
        self.assertEqual(spread(some, 115.0, fixed=100.0).choices, (0,))
        with self.assertRaises(SettingsError) as told:
            spread(some, 105.0, fixed=100.0)
        self.assertIn("110", str(told.exception))
        self.assertEqual(spread([], 10.0, fixed=3.0).total, 3.0)

    def test_a_setting_that_costs_more_and_is_no_better_is_never_taken(self) -> None:
        odd = Curve(np.array([10.0, 20.0, 15.0]), np.array([1.0, 1.5, 0.9]))
        self.assertEqual(odd.worth.tolist(), [0, 2])
        self.assertEqual(spread([odd], 1000.0).choices, (2,))


class Knee(unittest.TestCase):
    def test_the_corner_of_an_l_is_its_knee(self) -> None:
        self.assertEqual(knee([1, 2, 3, 10, 20, 30], [30, 20, 3, 2, 1.5, 1]), 2)

    def test_a_straight_line_and_a_flat_one_have_none(self) -> None:
        self.assertIsNone(knee([1, 2, 3, 4], [4, 3, 2, 1]))
        self.assertIsNone(knee([5, 5, 5], [3, 2, 1]))
        self.assertIsNone(knee([1, 2], [2, 1]))
