"""Flat and convex faces as polygons: what is written is what was there, cut up again by another library."""

import unittest
from collections import Counter

import numpy as np
import trimesh

from demo import shapes as demo
from hemp_ladder.core.facet.tessellate import tessellate
from hemp_ladder.core.kernel.shapes import write_shape
from hemp_ladder.core.ship.polygons import polygons_of
from hemp_ladder.core.ship.quads import quads_of
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

    def test_what_is_hollow_or_concave_becomes_a_few_convex_pieces(self) -> None:
        """A plate of so many corners with a hole is in no more than four times the fewest convex pieces, and these are at
        least half of its concave corners (Chazelle and Dobkin, 1985)."""
        for corners in (8, 24):
            holed = merge_flats(shapes.slab(1, corners), Flats())
            found, left = polygons_of(holed.positions, holed.triangles)
            normals = trimesh.Trimesh(holed.positions, holed.triangles, process=False).face_normals
            top = np.abs(normals[:, 2]) > 0.9
            flat = [ring for ring in found if np.ptp(holed.positions[ring][:, 2]) < 1e-9]
            loose = int((np.ptp(holed.positions[left][:, :, 2], axis=1) < 1e-9).sum())
            pieces = len(flat) + loose
            self.assertLessEqual(corners // 2, pieces / 2)
            self.assertLess(pieces, top.sum(), corners)
            fans = [(ring[0], ring[k], ring[k + 1]) for ring in found for k in range(1, len(ring) - 1)]
            cut = trimesh.Trimesh(holed.positions, np.concatenate([left, np.array(fans)]), process=False)
            self.assertEqual(len(cut.faces), len(holed.triangles))
            self.assertAlmostEqual(cut.area, holed.area(), places=9)
            self.assertAlmostEqual(float(cut.volume), holed.volume(), places=9)

    def test_what_is_bent_or_an_arrow_stays_triangles(self) -> None:
        ball = shapes.ball(2)
        self.assertEqual(len(polygons_of(ball.positions, ball.triangles)[0]), 0)
        spots = np.array([(0, 0, 0), (2, 0, 0), (2, 2, 0), (1, 0.5, 0)], float)
        arrow = np.array([(0, 1, 3), (1, 2, 3)], np.int32)
        self.assertEqual(polygons_of(spots, arrow)[0], [])

    def test_corners_that_go_straight_on_are_kept_in_triangles(self) -> None:
        spots = np.array([(0, 0, 0), (1, 0, 0), (2, 0, 0), (2, 1, 0), (0, 1, 0)], float)
        fan = np.array([(0, 1, 4), (1, 3, 4), (1, 2, 3)], np.int32)
        rings, left = polygons_of(spots, fan)
        self.assertEqual((rings, left.tolist()), ([[1, 2, 3, 4]], [[0, 1, 4]]))


class Quads(unittest.TestCase):
    def check(self, positions: np.ndarray, triangles: np.ndarray) -> float:
        """The share of triangles that found a mate; every one is in one face, cut up from its first corner."""
        quads, left = quads_of(positions, triangles)
        cut = np.concatenate([left, quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]])

        def told(some: np.ndarray) -> Counter[tuple[int, ...]]:
            first = some.argmin(axis=1)
            rows = np.arange(len(some))
            return Counter(map(tuple, np.stack([some[rows, (first + k) % 3] for k in range(3)], 1).tolist()))

        self.assertEqual(told(cut), told(triangles))
        return 2 * len(quads) / len(triangles)

    def test_strips_over_round_bodies_are_all_quads(self) -> None:
        """Torus and drum 100 of 100: two triangles of a cell are flatter and squarer than with any neighbour."""
        ring = shapes.torus(48, 24)
        self.assertEqual(self.check(ring.positions, ring.triangles), 1.0)
        for body in (demo.torus(20.0, 5.0), demo.cylinder(10.0, 30.0)):
            mesh = tessellate(write_shape(body), 0.1, 0.3)
            walls = mesh.triangles[np.ptp(mesh.positions[mesh.triangles][:, :, 2], axis=1) > 1e-9]
            self.assertGreater(self.check(mesh.positions, walls), 0.97)

    def test_what_makes_no_good_quad_stays_triangles(self) -> None:
        spots = np.array([(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 1)], float)
        self.assertEqual(self.check(spots, np.array([(0, 1, 2), (0, 2, 3)], np.int32)), 0.0, "bent too much")
        spots = np.array([(0, 0, 0), (10, 0, 0), (0.1, 0.1, 0), (0, 10, 0)], float)
        self.assertEqual(self.check(spots, np.array([(0, 1, 2), (0, 2, 3)], np.int32)), 0.0, "not convex")
        self.assertEqual(len(quads_of(spots, np.zeros((0, 3), np.int32))[0]), 0)

    def test_a_loose_triangle_finds_a_mate_along_a_path(self) -> None:
        """Four in a row, the middle two the best pair: alone they would leave both ends loose."""
        spots = np.array([(0, 0, 0), (1, 0, 0), (0.4, 1, 0), (1.4, 1, 0), (2.4, 0.1, 0), (-0.6, 0.9, 0)], float)
        row = np.array([(0, 2, 5), (0, 1, 2), (1, 3, 2), (1, 4, 3)], np.int32)
        self.assertEqual(self.check(spots, row), 1.0)


class Written(CommandCase, FolderCase):
    def test_another_library_reads_the_same_body(self) -> None:
        source, out = self.folder / "slab.ply", self.folder / "slab.obj"
        slab = shapes.slab(2, 8)
        trimesh.Trimesh(slab.positions, slab.triangles, process=False).export(source)
        self.run_it("convert", source, "-o", out, "--unit", "m", "--flats", "--polygons")
        lines = Counter(line.count(" ") for line in out.read_text().splitlines() if line.startswith("f "))
        self.assertGreaterEqual(lines[4], 4 + 8, "walls outside and in the hole, and pieces of both flats")
        self.assertLess(sum(lines.values()), len(slab.triangles) / 4)
        plain = self.folder / "plain.obj"
        self.run_it("convert", source, "-o", plain, "--unit", "m", "--flats")
        one, two = (trimesh.load_mesh(path, process=False) for path in (out, plain))
        self.assertEqual(len(one.faces), len(two.faces))
        self.assertAlmostEqual(one.area, two.area, 5)
        self.assertLess(out.stat().st_size, plain.stat().st_size)
        for form, kind in (("obj", "quads"), ("ply", "quads"), ("ply", "both"), ("ply", "flats")):
            path = self.folder / f"{kind}.{form}"
            self.run_it("convert", source, "-o", path, "--unit", "m", "--polygons", kind, "--to-up", "z")
            again = trimesh.load_mesh(path, process=False)
            self.assertEqual(len(again.faces), len(slab.triangles))
            self.assertAlmostEqual(again.area, two.area, 5)
        refused = self.run_it("convert", source, "-o", self.folder / "slab.stl", "--polygons", code=2)
        self.assertIn("triangles only", refused.stderr)


if __name__ == "__main__":
    unittest.main()
