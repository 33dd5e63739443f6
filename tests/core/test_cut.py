"""Meshes cut by a polygon on the plan: volumes, areas and openness in closed form."""

import math
import unittest

import numpy as np
from numpy.typing import NDArray

from demo import shapes
from hemp_ladder.core.choose.prism import cut_mesh
from hemp_ladder.core.facet.tessellate import tessellate
from hemp_ladder.core.kernel.shapes import faces_of, write_shape
from hemp_ladder.core.mesh.mesh import Mesh

SQUARE = ((0.0, 0.0), (50.0, 0.0), (50.0, 50.0), (0.0, 50.0))


def mesh_of(shape: object, chord: float = 0.01) -> Mesh:
    return tessellate(write_shape(shape), chord, math.radians(5))


def cut(mesh: Mesh, polygon: tuple[tuple[float, float], ...], matrix: NDArray[np.float64] | None = None) -> Mesh:
    whole = np.eye(4) if matrix is None else matrix
    return cut_mesh(mesh, tuple(whole.reshape(-1).tolist()), polygon)


def area(mesh: Mesh) -> float:
    a, b, c = (mesh.positions[mesh.triangles[:, i]] for i in range(3))
    return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2)


class Solids(unittest.TestCase):
    def test_a_quarter_of_a_box(self) -> None:
        found = cut(mesh_of(shapes.box(40, 60, 10)), SQUARE)
        self.assertTrue(found.watertight)
        self.assertAlmostEqual(found.volume(), 20 * 30 * 10, places=6)
        np.testing.assert_allclose(
            [found.positions.min(axis=0), found.positions.max(axis=0)], [[0, 0, 0], [20, 30, 10]], atol=1e-9
        )
        # Two sides, top and bottom are the box's own; the walls of the cut are one face more.
        self.assertEqual(found.faces.count, 7)
        self.assertEqual(int(np.diff(found.faces.first)[-1]), 4)

    def test_a_sphere_over_a_concave_polygon(self) -> None:
        """Three quarters of a sphere: an L around the axis."""
        whole = mesh_of(shapes.sphere(10), 0.005)
        corner = ((-20.0, -20.0), (20.0, -20.0), (20.0, 0.0), (0.0, 0.0), (0.0, 20.0), (-20.0, 20.0))
        found = cut(whole, corner)
        self.assertTrue(found.watertight)
        self.assertAlmostEqual(found.volume(), 0.75 * whole.volume(), delta=1e-2)
        self.assertAlmostEqual(found.volume(), 0.75 * 4 / 3 * math.pi * 1000, delta=10)

    def test_normals_stay_the_surfaces_own(self) -> None:
        found = cut(mesh_of(shapes.cylinder(10, 5)), SQUARE)
        first, last = found.faces.first[0], found.faces.first[-2]
        radial = found.positions[:, :2] / np.maximum(np.linalg.norm(found.positions[:, :2], axis=1), 1e-12)[:, None]
        around = np.unique(found.triangles[first:last])
        side = [v for v in around if abs(found.normals[v, 2]) < 1e-6]
        self.assertGreater(len(side), 10)
        np.testing.assert_allclose(found.normals[side, :2], radial[side], atol=1e-5)

    def test_wholly_inside_and_wholly_outside(self) -> None:
        mesh = mesh_of(shapes.box(4, 4, 4, (20, 20, 0)))
        self.assertAlmostEqual(cut(mesh, SQUARE).volume(), 64, places=9)
        away = cut(mesh_of(shapes.box(4, 4, 4, (-20, 20, 0))), SQUARE)
        self.assertEqual(len(away.triangles), 0)

    def test_turned_mirrored_and_far_placements(self) -> None:
        """The box's quarter, whatever way it came to stand there; 400 km out, too."""
        turn, mirror, tilt = np.eye(4), np.diag([-1.0, 1, 1, 1]), np.eye(4)
        turn[:2, :2] = [[0, -1], [1, 0]]
        tilt[:3, :3] = [[1, 0, 0], [0, 0, -1], [0, 1, 0]]
        for matrix, volume in ((turn, 30 * 20 * 10), (mirror, 20 * 30 * 10), (tilt, 20 * 10 * 60)):
            far = matrix.copy()
            far[:3, 3] += [4e5, 2e5, 7]
            if matrix is tilt:
                far[1, 3] += 10
            found = cut(mesh_of(shapes.box(40, 60, 10)), tuple((x + 4e5, y + 2e5) for x, y in SQUARE), far)
            self.assertTrue(found.watertight)
            self.assertAlmostEqual(found.volume(), volume, places=3)


class Sheets(unittest.TestCase):
    def test_an_open_sheet_is_clipped_to_its_area(self) -> None:
        mesh = mesh_of(faces_of(shapes.box(40, 60, 10))[4])
        self.assertFalse(mesh.watertight)
        whole = area(mesh)
        found = cut(mesh, ((-100.0, -100.0), (100.0, -100.0), (100.0, 0.0), (0.0, 0.0), (0.0, 100.0), (-100.0, 100.0)))
        self.assertFalse(found.watertight)
        self.assertAlmostEqual(area(found), 0.75 * whole, places=6)

    def test_a_flattened_placement_gives_nothing(self) -> None:
        self.assertEqual(len(cut(mesh_of(shapes.box(1, 1, 1)), SQUARE, np.diag([1.0, 1, 0, 1])).triangles), 0)


if __name__ == "__main__":
    unittest.main()
