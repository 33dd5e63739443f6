"""Flat and convex faces as polygons: what is written is what was there, cut up again by another library."""

import unittest
from collections import Counter

import numpy as np
import trimesh

from hemp_ladder.core.ship.polygons import polygons_of
from hemp_ladder.core.trim.flats import Flats, merge_flats
from tests.core.trim import shapes
from tests.support import FolderCase
from tests.test_cli import CommandCase


class Faces(unittest.TestCase):
    def test_a_box_is_six_and_a_drum_has_two_lids(self) -> None:
        box = merge_flats(shapes.slab(2), Flats())
        found, left = polygons_of(box.positions, box.triangles)
        self.assertEqual((Counter(map(len, found)), len(left)), (Counter({4: 6}), 0))
        drum = trimesh.creation.cylinder(1, 1, sections=24)
        plain = shapes.loose(drum.triangles)
        merged = merge_flats(plain, Flats())
        found, left = polygons_of(merged.positions, merged.triangles)
        self.assertEqual((Counter(map(len, found)), len(left)), (Counter({24: 2, 4: 24}), 0))

    def test_what_is_bent_hollow_or_concave_stays_triangles(self) -> None:
        ball = shapes.ball(2)
        self.assertEqual(len(polygons_of(ball.positions, ball.triangles)[0]), 0)
        holed = merge_flats(shapes.slab(1, 8), Flats())
        found, left = polygons_of(holed.positions, holed.triangles)
        self.assertEqual(set(map(len, found)), {4}, "walls only")
        self.assertGreater(len(left), 2 * 8)
        spots = np.array([(0, 0, 0), (2, 0, 0), (2, 2, 0), (1, 0.5, 0)], float)
        arrow = np.array([(0, 1, 3), (1, 2, 3)], np.int32)
        self.assertEqual(polygons_of(spots, arrow)[0], [])

    def test_corners_that_go_straight_on_are_kept_in_triangles(self) -> None:
        spots = np.array([(0, 0, 0), (1, 0, 0), (2, 0, 0), (2, 1, 0), (0, 1, 0)], float)
        fan = np.array([(0, 1, 4), (1, 3, 4), (1, 2, 3)], np.int32)
        self.assertEqual(len(polygons_of(spots, fan)[1]), 3)


class Written(CommandCase, FolderCase):
    def test_another_library_reads_the_same_body(self) -> None:
        source, out = self.folder / "slab.ply", self.folder / "slab.obj"
        slab = shapes.slab(2, 8)
        trimesh.Trimesh(slab.positions, slab.triangles, process=False).export(source)
        self.run_it("convert", source, "-o", out, "--unit", "m", "--flats", "--polygons")
        lines = Counter(line.count(" ") for line in out.read_text().splitlines() if line.startswith("f "))
        self.assertEqual(lines[4], 4 + 8, "walls outside and in the hole")
        plain = self.folder / "plain.obj"
        self.run_it("convert", source, "-o", plain, "--unit", "m", "--flats")
        one, two = (trimesh.load_mesh(path, process=False) for path in (out, plain))
        self.assertEqual(len(one.faces), len(two.faces))
        self.assertAlmostEqual(one.area, two.area, 5)
        self.assertLess(out.stat().st_size, plain.stat().st_size)
        refused = self.run_it("convert", source, "-o", self.folder / "slab.stl", "--polygons", code=2)
        self.assertIn("triangles only", refused.stderr)


if __name__ == "__main__":
    unittest.main()
