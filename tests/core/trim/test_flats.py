"""Merged flats: the least count of triangles there can be, and nothing else changed."""

import unittest

import numpy as np
import trimesh

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.trim.flats import Flats, merge_flats
from tests.core.trim import shapes


def merged(mesh: Mesh, tolerance: float = 1e-6) -> Mesh:
    return merge_flats(mesh, Flats(tolerance=tolerance)).settled()


class Count(unittest.TestCase):
    def assert_lossless(self, before: Mesh, after: Mesh) -> None:
        told, was = shapes.figures(after), shapes.figures(before)
        self.assertEqual((told.open_edges, told.over_shared, told.t_joints, told.degenerate), (0, 0, 0, 0))
        self.assertAlmostEqual(told.volume / was.volume, 1, 6)
        self.assertAlmostEqual(told.area / was.area, 1, 6)
        other = trimesh.Trimesh(after.positions, after.triangles, process=False)
        other.merge_vertices(merge_norm=True, merge_tex=True)
        self.assertTrue(other.is_watertight and other.is_winding_consistent)
        self.assertLess(after.figures.trimmed["there"], 2e-6)
        self.assertLess(after.figures.trimmed["back"], 2e-6)

    def test_a_box_is_twelve_again(self) -> None:
        before = shapes.slab(4)
        self.assertEqual(len(before.triangles), 12 * 4**4)
        after = merged(before)
        self.assertEqual(len(after.triangles), 12)
        self.assertEqual(after.figures.effects["flats"], 12 * 4**4 - 12)
        self.assert_lossless(before, after)

    def test_polygons_with_holes_take_n_plus_2_h_less_2(self) -> None:
        """By Euler's formula no triangulation of a polygon with n corners and h holes has fewer."""
        for sides, holes in ((3, 1), (8, 1), (24, 3)):
            before = shapes.slab(3, sides, holes)
            after = merged(before)
            self.assertEqual(len(after.triangles), shapes.least(sides, holes), (sides, holes))
            self.assert_lossless(before, after)
            self.assertEqual(after.figures.trimmed["handles_now"], holes)

    def test_shading_is_kept_where_walls_are_round(self) -> None:
        """A hole of 36 sides is shaded round: its walls stay, the flats around it do not."""
        before = shapes.slab(2, 36, crease=True)
        after = merged(before)
        self.assert_lossless(before, after)
        flats = 2 * (40 * 4 + 2 - 2)
        self.assertLess(len(after.triangles), len(before.triangles) / 2)
        self.assertGreaterEqual(len(after.triangles), flats)
        np.testing.assert_allclose(np.linalg.norm(after.normals, axis=1), 1, atol=1e-5)
        self.assertLess(after.figures.trimmed["turned"], 0.05)

    def test_a_bend_does_not_creep(self) -> None:
        """A drum of 720 sides bends half a degree a side: no two sides are one flat, its lids are."""
        import manifold3d as m3

        body = m3.Manifold.cylinder(1, 1, 1, 720).to_mesh64()
        spots, triangles = trimesh.remesh.subdivide(
            np.array(body.vert_properties)[:, :3], np.array(body.tri_verts).astype(int)
        )
        after = merged(shapes.loose(spots[triangles]))
        self.assertEqual(len(after.triangles), 2 * 718 + 2 * 720)

    def test_materials_and_uv_end_a_flat(self) -> None:
        plain = shapes.slab(3)
        half = (plain.corners[:, :, 0].mean(axis=1) > 2).astype(np.int32)
        after = merged(shapes.loose(plain.corners, half))
        # Top, bottom and two sides fall into two each; the edge between has a corner at each end.
        self.assertEqual(len(after.triangles), 2 * (2 * 2 + 2 * 2 + 2))
        self.assertEqual(np.bincount(after.faces.labels).tolist(), [10, 10])
        left = after.corners[after.faces.labels == 0]
        self.assertLessEqual(left[:, :, 0].max(), 2 + 1e-6)

    def test_one_map_of_uv_goes_on_and_a_bent_one_does_not(self) -> None:
        straight = merged(shapes.slab(3, uv=True))
        top = straight.corners[:, :, 2].min(axis=1) > 0.49
        self.assertEqual(int(top.sum()), 2)
        np.testing.assert_allclose(straight.attributes["uv"], straight.positions[:, :2] / 4, atol=1e-5)
        bent = shapes.slab(3, uv=True)
        curved = np.column_stack([bent.positions[:, 0] ** 2, bent.positions[:, 1]]).astype(np.float32)
        kept = merged(Mesh(bent.positions, bent.triangles, {**bent.attributes, "uv": curved}, bent.runs))
        self.assertEqual(int((kept.corners[:, :, 2].min(axis=1) > 0.49).sum()), 2 * 4**3)

    def test_open_and_empty_and_absurd(self) -> None:
        lid = shapes.slab(3).corners
        lid = lid[lid[:, :, 2].min(axis=1) > 0.49]
        self.assertEqual(len(merged(shapes.loose(lid)).triangles), 2)
        nothing = Mesh.nothing(1)
        self.assertIs(merge_flats(nothing, Flats()), nothing)
        with self.assertRaises(SettingsError):
            merged(shapes.slab(1), tolerance=1.0)
        ball = shapes.ball()
        self.assertEqual(len(merged(ball).triangles), len(ball.triangles))


if __name__ == "__main__":
    unittest.main()
