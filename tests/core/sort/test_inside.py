"""What stands wholly inside another, against a ray caster that shares no code with ours."""

import unittest

import numpy as np
import trimesh
from scipy.spatial.transform import Rotation

from hemp_ladder.core.sort.inside import hidden_inside
from tests.core.sort.test_copies import as_mesh


def at(*point: float, size: float = 1.0) -> np.ndarray:
    matrix = np.diag([size, size, size, 1.0])
    matrix[:3, 3] = point
    return matrix


class Inside(unittest.TestCase):
    def setUp(self) -> None:
        self.box = trimesh.creation.box((2, 2, 2))
        self.ball = trimesh.creation.icosphere(2, 0.5)
        self.ring = trimesh.creation.torus(1.0, 0.3)
        self.meshes = {0: as_mesh(self.box), 1: as_mesh(self.ball), 2: as_mesh(self.ring)}

    def hidden(self, parts: list[int], places: list[np.ndarray], hides: list[bool] | None = None) -> list[bool]:
        found = hidden_inside(self.meshes, np.array(parts), np.array(places), np.array(hides or [True] * len(parts)))
        self.assertTrue(found.whole)
        return found.mask.tolist()

    def test_a_ball_in_a_box_beside_it_and_through_its_side(self) -> None:
        places = [at(0, 0, 0), at(0.2, 0.1, 0), at(5, 0, 0), at(0.8, 0, 0)]
        self.assertEqual(self.hidden([0, 1, 1, 1], places), [False, True, False, False])

    def test_what_touches_the_side_from_within_can_be_seen_there(self) -> None:
        self.assertEqual(self.hidden([0, 0], [at(0, 0, 0), at(0.5, 0, 0, size=0.5)]), [False, False])

    def test_through_glass_everything_is_seen(self) -> None:
        self.assertEqual(self.hidden([0, 1], [at(0, 0, 0), at(0, 0, 0)], [False, True]), [False, False])

    def test_in_the_hole_of_a_ring_is_not_inside_it(self) -> None:
        self.assertEqual(self.hidden([2, 1], [at(0, 0, 0), at(0, 0, 0, size=0.5)]), [False, False])
        self.assertEqual(self.hidden([2, 1], [at(0, 0, 0), at(1, 0, 0, size=0.5)]), [False, True])

    def test_a_hollow_hides_what_lies_in_it(self) -> None:
        hollow = trimesh.creation.box((1.6, 1.6, 1.6))
        hollow.invert()
        self.meshes[0] = as_mesh(trimesh.util.concatenate([self.box, hollow]))
        self.assertEqual(self.hidden([0, 1], [at(0, 0, 0), at(0, 0, 0)]), [False, True])

    def test_an_open_shell_hides_nothing(self) -> None:
        opened = trimesh.Trimesh(self.box.vertices, self.box.faces[:-1], process=False)
        self.meshes[0] = as_mesh(opened)
        self.assertEqual(self.hidden([0, 1], [at(0, 0, 0), at(0, 0, 0)]), [False, False])

    def test_mirrored_and_inside_out_solids_hide_as_well(self) -> None:
        self.meshes[0] = as_mesh(trimesh.Trimesh(self.box.vertices, self.box.faces[:, ::-1], process=False))
        self.assertEqual(self.hidden([0, 1], [np.diag([-1.0, 1, 1, 1]), at(0, 0, 0)]), [False, True])

    def test_many_at_random_against_a_ray_caster(self) -> None:
        dice = np.random.default_rng(11)
        parts, places, shapes = [], [], []
        kinds = [self.box, self.ball, self.ring]
        for _ in range(60):
            kind = int(dice.integers(3))
            matrix = np.eye(4)
            matrix[:3, :3] = Rotation.random(random_state=dice).as_matrix() * dice.choice([0.1, 0.3, 1.5])
            matrix[:3, 3] = dice.uniform(-2, 2, 3)
            parts.append(kind)
            places.append(matrix)
            shapes.append(kinds[kind].copy().apply_transform(matrix))
        wanted = []
        for one in range(60):
            spots = np.concatenate([shapes[one].vertices, shapes[one].triangles_center])
            wanted.append(any(other != one and bool(shapes[other].contains(spots).all()) for other in range(60)))
        self.assertGreater(sum(wanted), 5)
        self.assertEqual(self.hidden(parts, places), wanted)


if __name__ == "__main__":
    unittest.main()
