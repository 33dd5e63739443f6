"""The size of a whole model, asked of few placements, against every placement asked."""

import unittest
from unittest.mock import patch

import numpy as np
from OCP.gp import gp_Trsf
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Shape
from scipy.spatial.transform import Rotation

from demo import shapes
from hemp_ladder.core.kernel import extents
from hemp_ladder.core.kernel.extents import exact_box, overall_box, quick_box


def _parts() -> list[TopoDS_Shape]:
    """A tube along a spline, whose control points lie outside of it, a ring and a drum."""
    bend = shapes.pipe(shapes.spline([(0, 0, 0), (9, 4, 0), (2, 9, 3), (7, 7, 12)]), (0, 0, 0), (1, 0.6, 0), 0.8)
    return [bend, shapes.torus(5.0, 1.0), shapes.cylinder(2.0, 7.0, (1, 0, 0))]


def _places(count: int, apart: float) -> np.ndarray:
    """(n, 4, 4) turned anyhow, every fourth square to the axes."""
    dice = np.random.default_rng(3)
    world = np.tile(np.eye(4), (count, 1, 1))
    world[:, :3, :3] = Rotation.random(count, rng=dice).as_matrix()
    world[::4, :3, :3] = Rotation.from_euler("z", 90, degrees=True).as_matrix()
    world[:, :3, 3] = dice.uniform(-apart, apart, (count, 3))
    return world


def _everything(made: list[TopoDS_Shape], parts: np.ndarray, world: np.ndarray) -> np.ndarray:
    boxes = []
    for part, matrix in zip(parts, world, strict=True):
        move = gp_Trsf()
        move.SetValues(*matrix[:3].reshape(-1).tolist())
        boxes.append(exact_box(made[part].Moved(TopLoc_Location(move))))
    found = np.array(boxes)
    return np.array([found[:, 0].min(axis=0), found[:, 1].max(axis=0)])


class Whole(unittest.TestCase):
    def setUp(self) -> None:
        self.made = _parts()
        self.boxes = [quick_box(shape) for shape in self.made]

    def test_of_few_placements_it_is_exact(self) -> None:
        parts, world = np.arange(6) % 3, _places(6, 30)
        found = overall_box(self.boxes, parts, world, self.made)
        np.testing.assert_allclose(found, _everything(self.made, parts, world), atol=1e-5)

    def test_of_many_few_are_asked_and_it_is_near(self) -> None:
        parts, world = np.arange(150) % 3, _places(150, 20)
        with patch.object(extents, "exact_box", wraps=exact_box) as asked:
            found = overall_box(self.boxes, parts, world, self.made)
        true = _everything(self.made, parts, world)
        np.testing.assert_allclose(found, true, atol=1e-3 * np.ptp(true, axis=0).max())
        self.assertLess(asked.call_count, 10)
        self.assertGreater(asked.call_count, 3)

    def test_what_cannot_be_asked_keeps_its_bounds(self) -> None:
        parts, world = np.zeros(4, dtype=np.int64), _places(4, 9)
        with patch.object(extents, "_MOST_ASKED", 0):
            found = overall_box(self.boxes, parts, world, self.made)
        true = _everything(self.made, parts, world)
        self.assertTrue((found[0] <= true[0] + 1e-6).all() and (found[1] >= true[1] - 1e-6).all())
        corners = np.array([[self.boxes[0][k >> a & 1, a] for a in range(3)] for k in range(8)])
        placed = corners @ world[:, :3, :3].transpose(0, 2, 1) + world[:, None, :3, 3]
        loose = np.array([placed.min(axis=(0, 1)), placed.max(axis=(0, 1))])
        self.assertTrue((found[0] > loose[0] + 1e-3).any())
        self.assertTrue((found[1] < loose[1] - 1e-3).any())
