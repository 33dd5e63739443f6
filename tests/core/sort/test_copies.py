"""Copies against random rigid motions and mirrors; and what only looks like one."""

import unittest

import numpy as np
import trimesh
from scipy.spatial.transform import Rotation

from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.sort.copies import copies


def as_mesh(shape: trimesh.Trimesh) -> Mesh:
    triangles = np.asarray(shape.faces, np.int32)
    return Mesh.of(np.asarray(shape.vertices, float), np.asarray(shape.vertex_normals, np.float32), triangles,
                   np.array([0, len(triangles)]))  # fmt: skip


def moved(shape: trimesh.Trimesh, dice: np.random.Generator, mirror: bool = False) -> tuple[Mesh, np.ndarray]:
    """A shape after a random motion, with its vertices in another order; and the motion."""
    matrix = np.eye(4)
    matrix[:3, :3] = Rotation.random(random_state=dice).as_matrix() @ np.diag([1, 1, -1 if mirror else 1])
    matrix[:3, 3] = dice.normal(size=3) * 5
    order = dice.permutation(len(shape.vertices))
    spots = np.asarray(shape.vertices)[order] @ matrix[:3, :3].T + matrix[:3, 3]
    rank = np.argsort(order)
    faces = rank[np.asarray(shape.faces)]
    return as_mesh(trimesh.Trimesh(spots, faces[:, ::-1] if mirror else faces, process=False)), matrix


def lump() -> trimesh.Trimesh:
    """Something with no symmetry at all."""
    shape = trimesh.creation.icosphere(2)
    dice = np.random.default_rng(5)
    return trimesh.Trimesh(
        shape.vertices * (1 + 0.2 * dice.random((len(shape.vertices), 1))), shape.faces, process=False
    )


class Copies(unittest.TestCase):
    def test_any_motion_is_found_and_is_that_motion(self) -> None:
        dice = np.random.default_rng(2)
        for mirror in (False, True):
            for _ in range(10):
                other, matrix = moved(lump(), dice, mirror)
                (found,) = copies({0: as_mesh(lump()), 1: other}, 1e-6)
                self.assertEqual((found.part, found.of, found.mirrored), (1, 0, mirror))
                np.testing.assert_allclose(found.matrix, matrix, atol=1e-6)

    def test_shapes_with_many_symmetries(self) -> None:
        dice = np.random.default_rng(3)
        shapes = [
            trimesh.creation.box((1, 2, 3)), trimesh.creation.box((1, 1, 1)), trimesh.creation.cylinder(1, 2, sections=48),
            trimesh.creation.icosphere(2), trimesh.creation.torus(2, 0.5), trimesh.creation.annulus(1, 2, 0.5),
        ]  # fmt: skip
        for shape in shapes:
            for mirror in (False, True):
                whole, other = as_mesh(shape), moved(shape, dice, mirror)[0]
                (found,) = copies({0: whole, 1: other}, 1e-6)
                there = whole.positions @ found.matrix[:3, :3].T + found.matrix[:3, 3]
                far = np.linalg.norm(other.positions[:, None] - there[None], axis=2).min(axis=1)
                self.assertLess(far.max(), 1e-6)
                # A turn is enough, but where the diagonals of the mirrored triangles lie the other way.
                self.assertTrue(mirror or not found.mirrored)

    def test_what_differs_by_more_than_the_tolerance_is_none(self) -> None:
        dice = np.random.default_rng(4)
        other, _ = moved(lump(), dice)
        dented = other.positions.copy()
        dented[7] *= 1.002
        dented_mesh = Mesh.of(dented, other.normals, other.triangles, np.array([0, len(other.triangles)]))
        self.assertEqual(copies({0: as_mesh(lump()), 1: dented_mesh}, 1e-6), [])
        self.assertEqual(len(copies({0: as_mesh(lump()), 1: dented_mesh}, 0.03)), 1)
        scaled = as_mesh(trimesh.Trimesh(lump().vertices * 1.01, lump().faces, process=False))
        self.assertEqual(copies({0: as_mesh(lump()), 1: scaled}, 1e-4), [])
        self.assertEqual(copies({0: as_mesh(lump()), 1: other}, 1e-6, {0: "iron", 1: "glass"}), [])

    def test_the_same_points_with_other_triangles_are_no_copy(self) -> None:
        flat = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0.0]])
        one, two = (
            as_mesh(trimesh.Trimesh(flat, faces, process=False))
            for faces in ([[0, 1, 2], [0, 2, 3]], [[0, 1, 2], [0, 1, 3]])
        )
        self.assertEqual(copies({0: one, 1: two}, 1e-6), [])
