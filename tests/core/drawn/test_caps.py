"""Triangles over flat areas: each is counter-clockwise, together they are the area, and they meet edge to edge."""

import math
import unittest

import numpy as np

from hemp_ladder.core.drawn.area import area_of
from hemp_ladder.core.drawn.caps import _bands, capped

Points = np.ndarray


def polygon(n: int, radius: float, x: float = 0.0, y: float = 0.0, turn: float = 0.0) -> Points:
    angles = turn + 2 * math.pi * np.arange(n) / n
    return np.column_stack([x + radius * np.cos(angles), y + radius * np.sin(angles)])


def box(x: float, y: float, width: float, height: float) -> Points:
    return np.array([[x, y], [x + width, y], [x + width, y + height], [x, y + height]], float)


ELL = np.array([[0, 0], [10, 0], [10, 1], [1, 1], [1, 10], [0, 10]], float)


class Caps(unittest.TestCase):
    def check(self, rings: list[Points]) -> None:
        (triangles,) = capped([rings])
        points = np.concatenate(rings)
        a, b, c = (points[triangles[:, k]] for k in range(3))
        doubled = (b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]
        self.assertGreater(doubled.min(), 0)
        self.assertAlmostEqual(doubled.sum() / 2, area_of(rings), delta=1e-9 * abs(doubled.sum()))
        # The sides of the rings are run along once, every other edge once each way.
        edges = [tuple(edge) for row in triangles.tolist() for edge in zip(row, [*row[1:], row[0]], strict=True)]
        self.assertEqual(len(edges), len(set(edges)))
        border = {edge for edge in edges if edge[::-1] not in set(edges)}
        starts = np.cumsum([0, *map(len, rings)]).tolist()
        sides = {
            (start + k, start + (k + 1) % len(ring))
            for start, ring in zip(starts, rings, strict=False)
            for k in range(len(ring))
        }
        self.assertEqual(border, sides)

    def strip(self, rings: list[Points]) -> bool:
        return _bands([rings])[0] is not None

    def test_bands_are_strips(self) -> None:
        for rings in (
            [polygon(40, 5), polygon(30, 4)[::-1]],
            [polygon(7, 3, turn=1.0), polygon(90, 1)[::-1]],
            # The hole first, far from the origin.
            [polygon(12, 4, 1e6, 1e6)[::-1], polygon(12, 5, 1e6, 1e6, turn=0.2)],
            [box(-1, -1, 22, 10), box(0, 0, 20, 8)[::-1]],
        ):
            self.assertTrue(self.strip(rings))
            self.check(rings)

    def test_what_is_no_strip_is_clipped(self) -> None:
        inner = ELL * 0.5 + [0.2, 0.2]
        for rings in (
            # An L around a bite; a hole far to one side, from whose middle an edge goes backwards.
            [ELL, box(0.2, 0.2, 0.5, 0.5)[::-1]],
            [ELL, (inner * [0.9, 0.9])[::-1] * [0.2, 1] + [0.1, 0.1]],
            [polygon(6, 5), polygon(60, 0.2, 3, 0.5)[::-1]],
        ):
            self.assertFalse(self.strip(rings))
            self.check(rings)

    def test_two_islands_are_no_band(self) -> None:
        rings = [polygon(5, 1), polygon(6, 1, 5)]
        self.assertFalse(self.strip(rings))
        self.check(rings)

    def test_a_mixed_batch_keeps_its_order(self) -> None:
        areas = [
            [box(0, 0, 2, 1)],
            [polygon(9, 2), polygon(5, 1)[::-1]],
            [ELL],
            [box(0, 0, 4, 4), box(1, 1, 2, 2)[::-1]],
        ]
        for rings, triangles in zip(areas, capped(areas), strict=True):
            alone = capped([rings])[0]
            np.testing.assert_array_equal(triangles, alone)
            self.check(rings)
        self.assertEqual(capped([]), [])

    def test_hundreds_of_odd_bands(self) -> None:
        dice = np.random.default_rng(8)
        for _ in range(300):
            n, m = dice.integers(3, 30, 2)
            outer = polygon(int(n), 1, turn=dice.uniform(0, 6)) * dice.uniform(0.6, 1.4, (int(n), 1))
            least = np.abs(np.linalg.norm(outer, axis=1)).min() * math.cos(math.pi / n) * 0.4
            inner = polygon(int(m), least, *dice.uniform(-0.3, 0.3, 2) * least, turn=dice.uniform(0, 6))[::-1]
            self.check([outer, inner])


if __name__ == "__main__":
    unittest.main()
