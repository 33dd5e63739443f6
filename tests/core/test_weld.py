"""Weld: what becomes one and what stays apart, against counts known beforehand."""

import unittest
from dataclasses import replace

import numpy as np

from demo import shapes
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.facet.tessellate import tessellate
from hemp_ladder.core.kernel.shapes import write_shape
from hemp_ladder.core.mend.weld import Weld, nearest_kept, weld
from hemp_ladder.core.mesh.mesh import Mesh

DICE = np.random.default_rng(3)


def soup(mesh: Mesh, shake: float = 0.0) -> Mesh:
    """Every corner a vertex of its own, each moved a little."""
    corners = mesh.triangles.reshape(-1)
    positions = mesh.positions[corners] + DICE.uniform(-shake, shake, (len(corners), 3))
    triangles = np.arange(len(corners), dtype=np.int32).reshape(-1, 3)
    return replace(mesh, positions=positions, triangles=triangles, attributes={"normal": mesh.normals[corners]})


class Welds(unittest.TestCase):
    def test_loose_corners_of_a_box_become_its_eight_places_and_24_vertices(self) -> None:
        """Eight corners, each seen with three normals; 36 corners of 12 triangles before."""
        box = tessellate(write_shape(shapes.box(2, 3, 4)), 0.1, 0.5)
        made = weld(soup(box, 1e-5), Weld(tolerance=1e-4))
        self.assertEqual((len(made.positions), len(np.unique(made.positions, axis=0))), (24, 8))
        self.assertEqual(made.figures.effects, {"weld": 12.0})
        self.assertTrue(made.watertight)
        self.assertAlmostEqual(made.volume(), 24, places=2)
        self.assertEqual(made.faces.labels.tolist(), box.faces.labels.tolist())

    def test_normals_and_uv_that_differ_keep_vertices_apart_in_one_place(self) -> None:
        square = np.array([[0.0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]])
        positions = np.concatenate([square[[0, 1, 2]], square[[0, 2, 3]]])
        flat = Mesh.of(
            positions,
            np.tile(np.float32([0, 0, 1]), (6, 1)),
            np.arange(6, dtype=np.int32).reshape(2, 3),
            np.array([0, 2]),
        )
        self.assertEqual(len(weld(flat, Weld(tolerance=0)).positions), 4)
        seam = np.float32([[0, 0], [1, 0], [1, 1], [0.5, 0.5], [1, 1], [0, 1]])
        mapped = replace(flat, attributes={**flat.attributes, "uv": seam})
        self.assertEqual(len(weld(mapped, Weld(tolerance=0)).positions), 5, "one corner has two places on the map")

    def test_small_triangles_collapse_and_go(self) -> None:
        positions = np.array([[0.0, 0, 0], [1, 0, 0], [0, 1, 0], [1e-3, 0, 0]])
        triangles = np.array([[0, 1, 2], [0, 3, 2]], np.int32)
        mesh = Mesh.of(positions, np.tile(np.float32([0, 0, 1]), (4, 1)), triangles, np.array([0, 1, 2]))
        made = weld(mesh, Weld(tolerance=0.01))
        self.assertEqual((len(made.triangles), made.faces.count, made.faces.labels.tolist()), (1, 2, [0]))

    def test_a_tolerance_as_large_as_the_part_is_refused(self) -> None:
        box = tessellate(write_shape(shapes.box(2, 3, 4)), 0.1, 0.5)
        with self.assertRaisesRegex(SettingsError, "fall together"):
            weld(box, Weld(tolerance=2.0))
        # A flat sheet has no thickness to be smaller than.
        sheet = replace(box, positions=box.positions * [1, 1, 0])
        self.assertEqual(len(weld(sheet, Weld(tolerance=0.5)).triangles) > 0, True)

    def test_joining_does_not_run_along_a_chain(self) -> None:
        """A line of points, each near the next: components would make one of all of them."""
        line = np.column_stack([np.arange(200) * 0.6, np.zeros(200), np.zeros(200)])
        owner = nearest_kept(line, 1.0)
        moved = np.abs(line[owner] - line)[:, 0]
        self.assertLessEqual(moved.max(), 1.0)
        self.assertGreater(len(np.unique(owner)), 60)
        kept = line[np.unique(owner)][:, 0]
        self.assertGreater(np.diff(kept).min(), 1.0, "no two that are kept lie within the tolerance")

    def test_any_points_by_comparing_all_with_all(self) -> None:
        points = DICE.uniform(0, 1, (300, 3))
        owner = nearest_kept(points, 0.15)
        distance = np.linalg.norm(points[:, None] - points[None], axis=2)
        kept = np.flatnonzero(owner == np.arange(300))
        for index, at in enumerate(owner.tolist()):
            if index != at:
                self.assertAlmostEqual(distance[index, at], distance[index, kept].min())
        near = distance[np.ix_(kept, kept)] + np.eye(len(kept))
        self.assertGreater(near.min(), 0.15)

    def test_where_all_would_fall_together_it_says_so(self) -> None:
        with self.assertRaisesRegex(SettingsError, "collapse"):
            nearest_kept(DICE.uniform(0, 1, (400, 3)), 0.9)


if __name__ == "__main__":
    unittest.main()
