"""Shading normals against closed forms: a torus, a cylinder with its edges, a box."""

import math
import unittest
from dataclasses import replace

import numpy as np

from demo import shapes
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.facet.tessellate import tessellate
from hemp_ladder.core.kernel.shapes import write_shape
from hemp_ladder.core.mend.normals import Normals, shade
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import cross

FLAT = Normals(kind="flat")


def degrees(first: np.ndarray, second: np.ndarray) -> np.ndarray:
    across = np.linalg.norm(np.cross(first, second), axis=1)
    return np.degrees(np.arctan2(across, np.einsum("ij,ij->i", first, second)))


def torus(around: int = 96, along: int = 48) -> Mesh:
    """A torus of radii 10 and 3 as a grid of loose triangles."""
    u, v = np.meshgrid(np.arange(around) * 2 * math.pi / around, np.arange(along) * 2 * math.pi / along, indexing="ij")
    true = np.stack([np.cos(u) * np.cos(v), np.sin(u) * np.cos(v), np.sin(v)], axis=-1).reshape(-1, 3)
    middle = 10 * np.stack([np.cos(u), np.sin(u), np.zeros_like(u)], axis=-1).reshape(-1, 3)
    number = np.arange(around * along).reshape(around, along)
    right, up = np.roll(number, -1, axis=0), np.roll(number, -1, axis=1)
    over = np.roll(right, -1, axis=1)
    quads = np.stack([number, right, over, up], axis=-1).reshape(-1, 4)
    triangles = np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]]).reshape(-1)
    loose = np.arange(len(triangles), dtype=np.int32).reshape(-1, 3)
    nothing = np.tile(np.float32([0, 0, 1]), (len(triangles), 1))
    return Mesh.of((middle + 3 * true)[triangles], nothing, loose, np.array([0, len(loose)]))


class Creases(unittest.TestCase):
    def test_a_torus_is_smooth_without_one_more_triangle(self) -> None:
        mesh = torus()
        made = shade(mesh, Normals(degrees=40))
        self.assertEqual((len(made.positions), len(made.triangles)), (96 * 48, len(mesh.triangles)))
        self.assertEqual(made.figures.effects, {"normals": 0.0})
        around = made.positions / np.linalg.norm(made.positions[:, :2], axis=1, keepdims=True)
        spine = 10 * np.column_stack([around[:, :2], np.zeros(len(around))])
        self.assertLess(degrees(made.normals, (made.positions - spine) / 3).max(), 0.2)

    def test_a_cylinder_keeps_its_rims_and_is_round_between(self) -> None:
        mesh = tessellate(write_shape(shapes.cylinder(10, 20)), 0.05, math.radians(10))
        made = shade(mesh, Normals(degrees=30))
        upright = np.abs(made.normals[:, 2]) > 0.999
        side = np.abs(made.normals[:, 2]) < 1e-3
        self.assertTrue((upright | side).all(), "no normal is between wall and lid")
        radial = made.positions[side] * [0.1, 0.1, 0]
        self.assertLess(degrees(made.normals[side], radial).max(), 0.05)
        rim = np.count_nonzero(np.abs(made.positions[upright][:, 2]) > 0)
        self.assertGreater(rim, 0)
        steps = len(np.unique(np.round(made.positions[:, :2], 6), axis=0))
        self.assertEqual(made.figures.effects["normals"], 2 * steps)

    def test_a_box_is_flat_at_any_crease_below_its_corners(self) -> None:
        mesh = tessellate(write_shape(shapes.box(1, 2, 3)), 0.1, 0.5)
        for settings in (Normals(degrees=89), FLAT):
            made = shade(mesh, settings)
            self.assertEqual(len(made.positions), 24)
            np.testing.assert_allclose(np.abs(made.normals).max(axis=1), 1, atol=1e-6)
        round_ = shade(mesh, Normals(degrees=90))
        self.assertEqual((len(round_.positions), round_.figures.effects["normals"]), (8, 0.0))

    def test_uv_that_differ_keep_vertices_apart_and_normals_in_common(self) -> None:
        mesh = torus(24, 12)
        uv = np.arange(2 * len(mesh.positions), dtype=np.float32).reshape(-1, 2)
        made = shade(replace(mesh, attributes={**mesh.attributes, "uv": uv}), Normals(degrees=60))
        self.assertEqual(len(made.positions), len(mesh.positions))
        plain = shade(mesh, Normals(degrees=60))
        self.assertEqual(
            len(np.unique(np.round(made.normals, 4), axis=0)), len(np.unique(np.round(plain.normals, 4), axis=0))
        )

    def test_no_normal_looks_away_from_its_triangle(self) -> None:
        """A thin blade: over its sharp edge a wide crease would turn normals beyond a right angle."""
        dice = np.random.default_rng(2)
        positions = dice.normal(size=(60, 3))
        triangles = dice.permuted(np.tile(np.arange(60, dtype=np.int32), (40, 1)), axis=1)[:, :3].copy()
        mesh = Mesh.of(positions, np.tile(np.float32([0, 0, 1]), (60, 1)), triangles, np.array([0, 40]))
        made = shade(mesh, Normals(degrees=180))
        flat = cross(*(made.positions[made.triangles[:, k]] - made.positions[made.triangles[:, 0]] for k in (1, 2)))
        self.assertGreater(np.einsum("ij,ikj->ik", flat, made.normals[made.triangles]).min(), 0)

    def test_the_command_lines_words(self) -> None:
        self.assertIsNone(Normals.from_option("source"))
        self.assertEqual(Normals.from_option("flat"), FLAT)
        self.assertAlmostEqual(Normals.from_option("crease=35deg").degrees, 35)  # type: ignore[union-attr]
        for text in ("", "crease", "round", "flat=3deg"):
            with self.assertRaises(SettingsError):
                Normals.from_option(text)


if __name__ == "__main__":
    unittest.main()
