"""The longest edge: against another library's subdivision and plain geometry, on meshes of every kind; and what would never end."""

import math
import unittest

import numpy as np
import trimesh

from hemp_ladder.core.climb import plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.facet.longest import Longest, divided, estimate
from hemp_ladder.core.facet.settings import turning_radius
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.join import Given, join
from tests.core.sort.test_copies import as_mesh
from tests.support import AS1, read_kept


def sides(mesh: Mesh) -> np.ndarray:
    corners = mesh.corners
    return np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2)


class Dividing(unittest.TestCase):
    SHAPES = (
        trimesh.creation.box((3, 2, 0.1)), trimesh.creation.icosphere(1), trimesh.creation.cylinder(0.5, 4, sections=9),
        trimesh.creation.torus(2, 0.4), trimesh.creation.cone(1, 3, sections=5),
    )  # fmt: skip

    def test_nothing_is_longer_and_nothing_moves(self) -> None:
        for shape in self.SHAPES:
            before = as_mesh(shape)
            for edge in (2.0, 0.5, 0.11):
                after = divided(before, edge)
                self.assertLessEqual(sides(after).max(), edge * (1 + 1e-6))
                self.assertAlmostEqual(after.volume(), before.volume(), places=9)
                self.assertAlmostEqual(after.area(), before.area(), places=9)
                other = trimesh.Trimesh(after.positions, after.triangles, process=True)
                self.assertTrue(other.is_watertight and after.watertight)
                self.assertEqual(other.euler_number, shape.euler_number)
                np.testing.assert_allclose(np.linalg.norm(after.normals, axis=1), 1, atol=1e-5)
                # Nothing was divided that was short enough, and it takes no more than another library does.
                _, faces = trimesh.remesh.subdivide_to_size(shape.vertices, shape.faces, edge, max_iter=30)
                self.assertLessEqual(len(after.triangles), len(faces))
                self.assertLessEqual(estimate(before, edge), len(after.triangles))
                self.assertGreater(estimate(before, edge), 0.4 * len(after.triangles))

    def test_faces_keep_their_triangles_and_corners_what_hangs_on_them(self) -> None:
        shape = trimesh.creation.box((1, 1, 1))
        faces = np.arange(0, 13, 2)
        order = np.lexsort(np.round(shape.face_normals).T)
        spots = shape.vertices[shape.faces[order]].reshape(-1, 3)
        normals = np.repeat(shape.face_normals[order], 3, axis=0).astype(np.float32)
        plain = Mesh.of(spots, normals, np.arange(36, dtype=np.int32).reshape(-1, 3), faces)
        mesh = Mesh(
            plain.positions, plain.triangles, {**plain.attributes, "uv": spots[:, :2].astype(np.float32)}, plain.runs
        )
        after = divided(mesh, 0.3)
        self.assertTrue(after.watertight)
        for face in range(6):
            rows = after.faces.labels == face
            np.testing.assert_allclose(
                after.normals[after.triangles[rows]].reshape(-1, 3), normals[face * 6][None].repeat(rows.sum() * 3, 0)
            )
            area = (
                np.linalg.norm(
                    np.cross(*(after.corners[rows][:, k] - after.corners[rows][:, 0] for k in (1, 2))), axis=1
                ).sum()
                / 2
            )
            self.assertAlmostEqual(area, 1)
        np.testing.assert_allclose(after.attributes["uv"], after.positions[:, :2], atol=1e-6)

    def test_what_would_never_end_is_not_begun(self) -> None:
        box = as_mesh(trimesh.creation.box((1000, 1000, 1)))
        with self.assertRaisesRegex(SettingsError, "about [0-9,]{9,} triangles"):
            divided(box, 1e-2)
        self.assertEqual(len(divided(Mesh.nothing(1), 1.0).triangles), 0)


class Chains(unittest.TestCase):
    def test_it_stands_behind_what_mends_and_is_of_the_part(self) -> None:
        model = join([Given("a", "a", read_kept(AS1)[0])])
        first = model.parts[0].ref
        decided = plan(
            model,
            Decisions.model_validate({
                "facet": {"longest": 0.05, "exceptions": [{"by": "parts", "parts": [first], "longest": 0.01}]},
                "mend": {"steps": [{"does": "weld", "tolerance": 1e-5}]},
                "trim": {"steps": [{"does": "reduce", "share": 0.5}], "levels": [{"name": "light", "coarser": 4}]},
            }),
        )  # fmt: skip
        names = [[step.name() for step in chain.operations] for chain in decided.chains if chain]
        self.assertEqual({tuple(item) for item in names}, {("weld", "longest", "reduce")})
        edges = [
            step.edge for chain in decided.chains if chain for step in chain.operations if isinstance(step, Longest)
        ]
        self.assertEqual((edges[0], set(edges[1:])), (10.0, {50.0}))
        light = [
            step.edge
            for chain in decided.levels["light"]
            if chain
            for step in chain.operations
            if isinstance(step, Longest)
        ]
        self.assertEqual(light[0], 20.0)

    def test_which_limit_decides_in_closed_form(self) -> None:
        """Segments of a circle: pi / acos(1 - e / r) for the chord error, 2 pi / a for the angle."""
        chord, degrees = 0.5, 20.0
        edge = turning_radius(chord, degrees)
        for radius, finer in ((edge * 0.9, "angle"), (edge * 1.1, "chord")):
            by_chord, by_angle = math.pi / math.acos(1 - chord / radius), 360 / degrees
            self.assertEqual("chord" if by_chord > by_angle else "angle", finer)


if __name__ == "__main__":
    unittest.main()
