"""What lookouts show of parts, against pictures taken by a ray caster."""

import math
import unittest

import numpy as np
from embreex import rtcore_scene
from embreex.mesh_construction import TriangleMesh
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeSphere
from scipy import ndimage

from hemp_ladder.core.facet.looking import sight
from hemp_ladder.core.facet.sight import Sight, on_the_way
from hemp_ladder.core.facet.tessellate import tessellate
from hemp_ladder.core.fit.lookouts import View
from hemp_ladder.core.kernel.shapes import write_shape
from hemp_ladder.core.mesh.mesh import Mesh

WIDTH, TALL = 960, math.radians(40)


def ball(radius: float, chord: float) -> Mesh:
    return tessellate(write_shape(BRepPrimAPI_MakeSphere(radius).Shape()), chord, math.radians(60))


def box(*sides: float) -> Mesh:
    return tessellate(write_shape(BRepPrimAPI_MakeBox(*sides).Shape()), 0.1, 0.5)


def at(x: float, y: float, z: float) -> np.ndarray:
    place = np.eye(4)
    place[:3, 3] = x, y, z
    return place


def looking(eye: tuple[float, float, float] = (0, 0, 0), tall: float = TALL, reach: float = 0) -> View:
    """Along +Y, in a picture of 16 to 9."""
    return View("view", eye, (0, 1, 0), (0, 0, 1), tall, 16 / 9, reach)


def see(things: list[tuple[Mesh, np.ndarray]], views: list[View], hides: list[bool] | None = None) -> Sight:
    count = len(things)
    return sight(
        {n: mesh for n, (mesh, _) in enumerate(things)}, np.arange(count), np.array([place for _, place in things]),
        np.array(hides or [True] * count), count, views, WIDTH,
    )  # fmt: skip


def picture(mesh: Mesh, place: np.ndarray) -> np.ndarray:
    """What a mesh covers of the picture, (540, 960), one ray in the middle of each pixel."""
    half, tall = math.tan(TALL / 2), WIDTH * 9 // 16
    x, z = np.meshgrid((np.arange(WIDTH) + 0.5) / WIDTH * 2 - 1, 1 - (np.arange(tall) + 0.5) / tall * 2)
    way = np.stack([x * half * 16 / 9, np.ones_like(x), z * half], axis=-1).reshape(-1, 3)
    scene = rtcore_scene.EmbreeScene()
    corners = mesh.corners.reshape(-1, 3) @ place[:3, :3].T + place[:3, 3]
    TriangleMesh(scene, corners.reshape(-1, 3, 3).astype(np.float32))
    hit = scene.run(np.zeros_like(way, np.float32), way.astype(np.float32), query="INTERSECT")
    return np.asarray(hit).reshape(tall, WIDTH) >= 0


class Seen(unittest.TestCase):
    def test_how_wide_a_metre_is_at_the_nearest_point(self) -> None:
        """Closed form: the width over what is seen at that depth."""
        found = see([(ball(0.5, 0.01), at(0, 5, 0))], [looking()])
        self.assertAlmostEqual(
            found.pixels[0], WIDTH / (2 * math.tan(TALL / 2) * 16 / 9 * 4.5), delta=0.01 * found.pixels[0]
        )
        flat = see([(ball(0.5, 0.01), at(0, 5, 0))], [looking(tall=0, reach=3.0)])
        self.assertAlmostEqual(flat.pixels[0], WIDTH / (3 * 16 / 9))

    def test_what_is_hidden_behind_or_outside_is_not_seen(self) -> None:
        small = ball(0.2, 0.01)
        things = [
            (box(4, 0.1, 4), at(-2, 6, -2)), (small, at(0, 8, 0)), (small, at(0, -5, 0)), (small, at(1, 5, 0)),
            (small, at(9, 5, 0)),
        ]  # fmt: skip
        found = see(things, [looking()])
        self.assertEqual((found.pixels > 0).tolist(), [True, False, False, True, False])
        through = see(things, [looking()], [False, True, True, True, True])
        self.assertEqual((through.pixels > 0).tolist(), [True, True, False, True, False])

    def test_a_small_thing_and_a_wide_floor_are_both_found(self) -> None:
        """Neither a corner nor the middle of the floor is in the picture; the ball is smaller than the grid of rays."""
        things = [(box(400, 400, 0.1), at(-190, -170, -1)), (ball(0.004, 0.001), at(0.3, 20, 0.4))]
        found = see(things, [looking()])
        self.assertTrue((found.pixels > 0).all())

    def test_a_round_outline_is_told_from_flat_faces(self) -> None:
        found = see([(ball(0.5, 0.01), at(-1, 6, 0)), (box(1, 1, 1), at(0.5, 6, 0))], [looking()])
        self.assertEqual(found.outline.tolist(), [True, False])

    def test_no_pixel_farther_than_asked_from_the_outline_changes(self) -> None:
        """A ball as coarse as half a pixel allows against a very fine one: what differs lies within a pixel of the outline, and
        is no more than half a pixel all along it."""
        place = at(0.3, 5, 0.2)
        fine = ball(0.8, 1e-4)
        wide = see([(fine, place)], [looking()]).pixels[0]
        coarse = ball(0.8, 0.5 / wide)
        self.assertLess(len(coarse.triangles), len(fine.triangles) / 5)
        true, found = picture(fine, place), picture(coarse, place)
        differ = true != found
        self.assertTrue(differ.any())
        rim = true & ~ndimage.binary_erosion(true) | ~true & ndimage.binary_dilation(true)
        self.assertFalse((differ & ~rim).any())
        length = np.count_nonzero(true & ~ndimage.binary_erosion(true))
        self.assertLessEqual(np.count_nonzero(differ), 0.5 * length)

    def test_the_strictest_of_a_way_wins(self) -> None:
        """Both ends look from afar; half the way passes by."""
        thing = [(ball(0.5, 0.01), at(0, 0, 0))]
        views = [looking((-20, -6, 0)), looking((20, -6, 0))]
        self.assertEqual(see(thing, views).pixels[0], 0)
        along = on_the_way(views)
        self.assertGreater(len(along), len(views))
        nearest = WIDTH / (2 * math.tan(TALL / 2) * 16 / 9 * 5.5)
        self.assertAlmostEqual(see(thing, along).pixels[0], nearest, delta=0.05 * nearest)
