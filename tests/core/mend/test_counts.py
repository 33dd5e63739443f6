"""What is counted of meshes, against what was planted and what another library finds."""

import unittest
from dataclasses import replace

import numpy as np
import trimesh

from demo import soup
from hemp_ladder.core.chain.came import read_meshed, write_meshed
from hemp_ladder.core.mesh.crossing import crossing_triangles
from hemp_ladder.core.mesh.measure import measure
from hemp_ladder.core.mesh.nearest import nearest_triangle
from tests.core.mend import meshes

DICE = np.random.default_rng(23)


class Counts(unittest.TestCase):
    def test_what_is_sound_has_nothing_to_count(self) -> None:
        for whole in (meshes.box(), meshes.ball(), meshes.soup(meshes.ball())):
            told = meshes.figures(whole)
            self.assertEqual(
                (told.open_edges, told.over_shared, told.duplicate, told.degenerate, told.crossing, told.holes,
                 told.t_joints, told.inward, told.shells, told.watertight),
                (0, 0, 0, 0, 0, 0, 0, 0, 1, True),
            )  # fmt: skip
        self.assertAlmostEqual(meshes.figures(meshes.box(2, 3, 4)).volume, 24)
        self.assertAlmostEqual(meshes.figures(meshes.box(2, 3, 4)).area, 52)

    def test_volume_area_and_shells_as_another_library_has_them(self) -> None:
        whole = meshes.together(meshes.ball(2), meshes.box(at=(4, 0, 0)), meshes.ball(1, (0, 8, 0)))
        told, others = meshes.figures(whole), meshes.other(whole)
        self.assertAlmostEqual(told.volume, others.volume, places=5)
        self.assertAlmostEqual(told.area, others.area, places=5)
        self.assertEqual(told.shells, others.body_count)
        self.assertEqual(told.watertight, others.is_watertight)

    def test_damage_of_each_kind_by_itself(self) -> None:
        cube = meshes.box()
        self.assertEqual(meshes.figures(meshes.without(cube, [0])).open_edges, 3)
        self.assertEqual(meshes.figures(meshes.without(cube, [0])).holes, 1)
        doubled = meshes.figures(meshes.also(cube, cube.triangles[:2]))
        self.assertEqual((doubled.duplicate, doubled.over_shared), (2, 5))
        back_to_back = meshes.also(cube, cube.triangles[:1, ::-1])
        self.assertEqual(meshes.figures(back_to_back).duplicate, 0, "a leaf seen from both sides is meant")
        needle = meshes.also(cube, [[0, 1, 1]])
        self.assertEqual(meshes.figures(needle).degenerate, 1)
        turned = meshes.together(meshes.box(), meshes.box(at=(3, 0, 0)).flipped())
        self.assertEqual(meshes.figures(turned).inward, 1)
        hollow = meshes.together(meshes.ball(3), meshes.ball(1).flipped())
        self.assertEqual(meshes.figures(hollow).inward, 0, "it may be a hollow")
        against = meshes.mesh_of(cube.positions, np.vstack([cube.triangles[:1, ::-1], cube.triangles[1:]]))
        self.assertEqual(meshes.figures(against).against, 3)
        through = meshes.together(meshes.box(), meshes.box(at=(0.5, 0.3, 0.2)))
        self.assertEqual(meshes.figures(through).crossing, len(crossing_triangles(through)))
        self.assertGreater(len(crossing_triangles(through)), 6)

    def test_boxes_that_touch_along_an_edge_are_watertight_and_over_shared(self) -> None:
        told = meshes.figures(meshes.together(meshes.box(), meshes.box(at=(1, 1, 0))))
        self.assertEqual((told.watertight, told.over_shared), (True, 1))

    def test_a_corner_on_the_middle_of_an_edge_is_a_t_joint(self) -> None:
        spots = [[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0], [0.5, 0, 0], [0, -1, 0], [1, -1, 0]]
        split = meshes.mesh_of(spots, [[0, 1, 2], [0, 2, 3], [5, 4, 0], [5, 6, 4], [6, 1, 4]])
        self.assertEqual(meshes.figures(split).t_joints, 1)

    def test_many_small_ones_together_count_as_each_alone(self) -> None:
        several = [
            meshes.box(), meshes.without(meshes.ball(), [3, 9]), meshes.together(meshes.box(), meshes.box(at=(1, 1, 0))),
            meshes.also(meshes.box(), [[0, 1, 2]]), meshes.soup(meshes.ball()).flipped(),
        ]  # fmt: skip
        several = [mesh.settled() for mesh in several]
        together = [mesh.figures for mesh in measure(several)]
        for mesh, told in zip(several, together, strict=True):
            alone = measure([mesh])[0].figures
            self.assertAlmostEqual(alone.volume, told.volume)
            self.assertAlmostEqual(alone.area, told.area)
            self.assertEqual(replace(alone, volume=0, area=0), replace(told, volume=0, area=0))

    def test_the_shed_as_a_soup_has_what_was_planted(self) -> None:
        sound, planted = soup.whole(), soup.planted(soup.whole())
        before, after = (
            meshes.figures(meshes.mesh_of(c.reshape(-1, 3), np.arange(3 * len(c)))) for c in (sound, planted)
        )
        self.assertEqual(after.duplicate - before.duplicate, soup.DOUBLED)
        self.assertEqual(after.inward - before.inward, soup.TURNED)
        self.assertEqual(after.t_joints, soup.JOINTS)
        # Beside every hole, the slit that a corner on an edge leaves is a ring of open edges too.
        self.assertEqual(after.holes - before.holes, soup.LOST + soup.JOINTS)


class BadNormals(unittest.TestCase):
    def test_normals_that_are_nought_long_or_look_the_wrong_way_are_counted(self) -> None:
        ball = meshes.ball()
        normals = ball.positions.astype(np.float32)
        normals[0], normals[1], normals[2] = 0, normals[1] * 3, -normals[2]
        body = write_meshed(ball.positions, ball.triangles, np.array([0, len(ball.triangles)]), {"normal": normals})
        self.assertEqual(dict(read_meshed(body).figures.bad_normals), {"zero": 1, "long": 1, "against": 1})

    def test_vertices_split_without_reason_and_normals_that_are_missing(self) -> None:
        loose = meshes.soup(meshes.ball())
        radial = loose.positions.astype(np.float32)
        body = write_meshed(loose.positions, loose.triangles, np.array([0, 1280]), {"normal": radial})
        self.assertEqual(dict(read_meshed(body).figures.bad_normals), {"split": 3 * 1280 - 642})
        self.assertEqual(
            dict(read_meshed(write_meshed(loose.positions, loose.triangles)).figures.bad_normals), {"missing": 3840}
        )


class Nearest(unittest.TestCase):
    def test_the_triangle_nearest_to_a_point_as_another_library_has_it(self) -> None:
        ball = meshes.ball()
        others = meshes.other(ball)
        for point in DICE.uniform(-2, 2, (60, 3)):
            number = nearest_triangle(ball, tuple(point.tolist()))
            _, distance, _ = trimesh.proximity.closest_point_naive(others, point[None])
            own = trimesh.triangles.closest_point(ball.corners[[number]], point[None])
            self.assertAlmostEqual(float(np.linalg.norm(own - point)), float(distance[0]), places=9)


if __name__ == "__main__":
    unittest.main()
