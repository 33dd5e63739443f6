"""Goals as one types them, shares that bring parts there, and lengths in a lookout's picture."""

import math
import unittest

import numpy as np

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.trim.goal import Goal, Weighed, parse_bytes, parse_goal, share_for
from hemp_ladder.core.trim.pixels import Seen, pixels_per_metre


class Typed(unittest.TestCase):
    def test_every_kind(self) -> None:
        for text, by, value in (
            ("25%", "share", 0.25), ("12.5 %", "share", 0.125), ("50000", "count", 50_000), ("50,000", "count", 50_000),
            ("2MB", "bytes", 2e6), ("1.5 MiB", "bytes", 1.5 * 2**20), ("error=0.5mm", "error", 5e-4),
            ("error=1/32in", "error", 0.0254 / 32),
        ):  # fmt: skip
            found = parse_goal(text)
            self.assertEqual(found.by, by)
            self.assertAlmostEqual(found.value, value, 12)
        self.assertEqual(parse_bytes("3 XB"), None)

    def test_what_makes_no_sense_is_a_sentence(self) -> None:
        for text in ("0", "0%", "0MB", "101%", "error=0mm", "half", "1.5", "", "-3", "error=", "25%%"):
            with self.assertRaises(SettingsError, msg=text) as caught:
                parse_goal(text)
            self.assertTrue(caught.exception.message.endswith("."), text)


class Shares(unittest.TestCase):
    def test_counts_and_sizes(self) -> None:
        now = Weighed(200_000, 5e6, 1e6)
        self.assertEqual(share_for(Goal("share", 0.3), now), 0.3)
        self.assertEqual(share_for(Goal("count", 50_000), now), 0.25)
        self.assertEqual(share_for(Goal("bytes", 2e6), now), 0.25)

    def test_more_than_there_is_and_less_than_can_be(self) -> None:
        now = Weighed(200_000, 5e6, 1e6)
        for goal, said in (
            (Goal("count", 200_000), "200,000"),
            (Goal("bytes", 6e6), "5.0 MB"),
            (Goal("bytes", 5e5), "1.0 MB"),
        ):
            with self.assertRaises(SettingsError) as caught:
                share_for(goal, now)
            self.assertIn(said, caught.exception.message)


class Pixels(unittest.TestCase):
    def test_as_a_pinhole_camera_sees_it(self) -> None:
        """At a depth d a picture is 2 d tan(a / 2) tall."""
        seen = Seen((0, -10, 0), (0, 1, 0), math.radians(40), 2.0, 0.0)
        middles = np.array([(0, 0, 0), (0, 90, 3), (0, -30, 0)], float)
        found = pixels_per_metre(seen, 2000, middles, np.zeros(3))
        wide = 2 * 10 * math.tan(math.radians(20)) * 2
        np.testing.assert_allclose(found, [2000 / wide, 200 / wide, 0])
        near = pixels_per_metre(seen, 2000, middles[:1], np.array([5.0]))
        self.assertAlmostEqual(near[0], 2 * found[0], 9)

    def test_parallel_lines_see_all_alike(self) -> None:
        seen = Seen((0, -10, 0), (0, 1, 0), 0.0, 1.5, 4.0)
        np.testing.assert_allclose(pixels_per_metre(seen, 1200, np.zeros((2, 3)), np.array([0.0, 9.0])), 200.0)


if __name__ == "__main__":
    unittest.main()
