"""Reduction: goals are reached, borders and seams hold, what is measured is what another library measures."""

import unittest
from dataclasses import replace

import numpy as np
import trimesh
from numpy.typing import NDArray
from pydantic import ValidationError
from scipy.spatial import cKDTree
from trimesh.ray.ray_pyembree import RayMeshIntersector

from hemp_ladder.core.chain.came import AsItCame, write_meshed
from hemp_ladder.core.chain.making import Order, make
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.mesh.mesh import Mesh, Runs
from hemp_ladder.core.trim.deviation import deviation
from hemp_ladder.core.trim.lost import lost
from hemp_ladder.core.trim.reduce import Reduce, reduce
from tests.core.mend import meshes
from tests.core.trim import shapes

RING = shapes.torus(160, 80)


def reduced(mesh: Mesh, **goal: object) -> Mesh:
    return reduce(mesh, Reduce.model_validate(goal)).settled()


def other(mesh: Mesh) -> trimesh.Trimesh:
    made = trimesh.Trimesh(mesh.positions, mesh.triangles, process=False)
    made.merge_vertices(merge_norm=True, merge_tex=True)
    return made


def dense(mesh: Mesh, count: int) -> NDArray[np.float64]:
    points, _ = trimesh.sample.sample_surface(other(mesh), count, seed=3)
    return np.asarray(points)


class Goals(unittest.TestCase):
    def test_a_share_and_a_count_are_reached(self) -> None:
        for goal, count in (({"share": 0.25}, 6400), ({"count": 1000}, 1000), ({"share": 0.02}, 512)):
            light = reduced(RING, **goal)
            self.assertLessEqual(len(light.triangles), count)
            self.assertGreater(len(light.triangles), 0.9 * count)
            self.assertEqual(light.figures.effects["reduce"], len(RING.triangles) - len(light.triangles))
            told = shapes.figures(light)
            self.assertEqual((told.open_edges, told.shells), (0, 1))
            self.assertEqual(other(light).euler_number, 0, "a ring stays a ring")

    def test_an_asked_error_is_kept_as_another_library_measures_it(self) -> None:
        counts: list[int] = []
        for error in (0.0005, 0.002, 0.01):
            light = reduced(RING, error=error)
            # Distances to a quarter of a million points of the other surface: no smaller than to the surface itself.
            spacing = np.sqrt(RING.area() / 250_000)
            for one, two in ((RING, light), (light, RING)):
                off = cKDTree(dense(one, 250_000)).query(dense(two, 20_000))[0]
                self.assertLess(off.max(), error + 3 * spacing)
            self.assertLessEqual(max(light.figures.trimmed["there"], light.figures.trimmed["back"]), error)
            counts.append(len(light.triangles))
        # And it is made use of.
        self.assertEqual(counts, sorted(counts, reverse=True))
        self.assertLess(counts[2], 0.1 * counts[0])

    def test_measured_deviation_is_that_of_dense_samples(self) -> None:
        light = reduced(RING, share=0.05)
        told = deviation(RING, light)
        for found, one, two in ((told.there, light, RING), (told.back, RING, light)):
            exact = _to_surface(dense(two, 60_000), one)
            self.assertGreater(found, 0.9 * exact)
            self.assertLess(found, 1.15 * exact)

    def test_known_distances(self) -> None:
        """Two planes a tenth apart; a ball in a ball."""
        plane = shapes.loose(np.array([[[0, 0, 0], [1, 0, 0], [0, 1, 0]]], float))
        above = replace(plane, positions=plane.positions + np.array([0, 0, 0.1]))
        told = deviation(plane, above)
        for value in (told.there, told.back, told.mean):
            self.assertAlmostEqual(value, 0.1, 9)
        self.assertAlmostEqual(told.turned, 0, 4)
        inner, outer = shapes.ball(5), shapes.ball(5)
        outer = replace(outer, positions=outer.positions * 1.2)
        self.assertAlmostEqual(deviation(inner, outer).largest, 0.2, 3)

    def test_area_volume_normals_and_uv_drift_little(self) -> None:
        light = reduced(RING, share=0.1)
        told = light.figures.trimmed
        self.assertAlmostEqual(told["volume_now"] / told["volume"], 1, 2)
        self.assertAlmostEqual(told["area_now"] / told["area"], 1, 2)
        self.assertLess(told["turned"], 1.0)
        self.assertLess(told["shifted"], 0.01)
        # Against the closed form of a torus' normals at the same places.
        x, y = light.positions[:, :2].T
        middle = np.stack([x, y, np.zeros_like(x)], 1) / np.hypot(x, y)[:, None]
        true = light.positions - middle
        true /= np.linalg.norm(true, axis=1)[:, None]
        angles = np.degrees(np.arccos(np.clip((true * light.normals).sum(axis=1), -1, 1)))
        self.assertLess(np.mean(angles), 2.5)
        self.assertEqual(told["joined"], 0)

    def test_outlines_change_as_a_ray_caster_sees_them(self) -> None:
        light = reduced(RING, share=0.01)
        pictures = []
        for mesh in (RING, light):
            caster = RayMeshIntersector(other(mesh))
            steps = (np.arange(400) + 0.5) / 400 * 2.8 - 1.4
            grid = np.stack(np.meshgrid(steps, steps, indexing="ij"), -1).reshape(-1, 2)
            start = np.column_stack([grid, np.full(len(grid), 5.0)])
            pictures.append(caster.intersects_any(start, np.tile([0.0, 0.0, -1.0], (len(start), 1))))
        changed = np.count_nonzero(pictures[0] != pictures[1]) / np.count_nonzero(pictures[0])
        told = light.figures.trimmed["silhouette"]
        self.assertGreater(told, 0.8 * changed, "of seven sides the worst")
        self.assertLess(told, 3 * changed + 0.01)


def _to_surface(points: NDArray[np.float64], mesh: Mesh) -> float:
    """The largest distance of points to a mesh by plain arithmetic: to each of the triangles whose middles are nearest."""
    corners = mesh.corners
    near = cKDTree(corners.mean(axis=1)).query(points, 12)[1]
    best = np.full(len(points), np.inf)
    for k in range(near.shape[1]):
        found = trimesh.triangles.closest_point(corners[near[:, k]], points)
        best = np.minimum(best, np.linalg.norm(found - points, axis=1))
    return float(best.max())


class Holds(unittest.TestCase):
    def test_borders_of_materials_stay_where_they_are(self) -> None:
        """A ball of two materials: the ring between them stays a ring, at the same height."""
        ball = shapes.ball(5)
        upper = (ball.corners[:, :, 2].mean(axis=1) > 0).astype(np.int32)
        order = np.argsort(upper, kind="stable")
        two = replace(ball, triangles=ball.triangles[order], runs={"face": Runs.labelled(upper[order], 2)})
        light = reduced(two, share=0.05)
        counts = np.bincount(light.faces.labels, minlength=2)
        self.assertGreater(counts.min(), 0.3 * counts.sum())
        self.assertEqual(shapes.figures(light).open_edges, 0)
        for half in (0, 1):
            own = light.corners[light.faces.labels == half]
            side = own[:, :, 2].min() if half else -own[:, :, 2].max()
            self.assertGreater(side, -0.06)

    def test_open_edges_stay_in_their_plane_and_can_be_locked(self) -> None:
        ring = shapes.torus(120, 60)
        half = replace(ring, triangles=ring.triangles[ring.corners[:, :, 2].mean(axis=1) > 0])
        half = replace(half, runs={"face": Runs.each(np.array([0, len(half.triangles)]))}).settled()
        light = reduced(half, share=0.1)
        before, after = half.figures.trimmed or light.figures.trimmed, light.figures.trimmed
        self.assertEqual((after["rings"], after["rings_now"]), (2, 2))
        self.assertAlmostEqual(after["border_now"] / before["border"], 1, 2)
        locked = reduced(half, share=0.1, borders=True)
        self.assertAlmostEqual(locked.figures.trimmed["border_now"] / locked.figures.trimmed["border"], 1, 6)

    def test_seams_of_uv_stay_seams(self) -> None:
        light = reduced(RING, share=0.1)
        uv = light.attributes["uv"][light.triangles]
        spread = np.ptp(uv, axis=1).max()
        self.assertLess(spread, 0.5, "no triangle runs back across the whole picture")
        self.assertLess(uv.max(), 1.02)
        self.assertGreater(uv.min(), -0.02)

    def test_soup_is_welded_first_and_said(self) -> None:
        ball = shapes.ball(4)
        soup = shapes.loose(ball.corners)
        light = reduced(soup, share=0.25)
        self.assertLessEqual(len(light.triangles), len(soup.triangles) // 4)
        told = shapes.figures(light)
        self.assertEqual((told.open_edges, told.shells), (0, 1))
        self.assertEqual(light.figures.trimmed["joined"], 3 * len(soup.triangles) - len(np.unique(ball.triangles)))
        # It was shaded flat, and is.
        corners = light.corners
        flat = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        flat /= np.linalg.norm(flat, axis=1)[:, None]
        np.testing.assert_allclose(light.normals[light.triangles[:, 0]], flat, atol=1e-3)

    def test_shape_is_held_where_that_is_asked(self) -> None:
        far = reduced(RING, share=0.002)
        self.assertTrue(lost(far.figures.trimmed, 0.02))
        held = reduced(RING, share=0.002, hold=0.02)
        self.assertEqual(lost(held.figures.trimmed, 0.02), [])
        self.assertLess(len(held.triangles), 0.1 * len(RING.triangles))
        self.assertGreater(len(held.triangles), len(far.triangles))

    def test_what_is_lost_is_named(self) -> None:
        plain = {"shells": 3, "handles": 2, "rings": 1, "volume": 1.0, "silhouette": 0.0}
        kept = {f"{name}_now": plain[name] for name in ("shells", "handles", "rings", "volume")}
        self.assertEqual(lost({**plain, **kept}, 0.05), [])
        for name, worse in (("shells_now", 2), ("handles_now", 1), ("rings_now", 0), ("volume_now", 0.9)):
            self.assertEqual(lost({**plain, **kept, name: worse}, 0.05), [name.removesuffix("_now")])
        self.assertEqual(lost({**plain, **kept, "silhouette": 0.06}, 0.05), ["silhouette"])
        self.assertEqual(lost({**plain, **kept, "handles_now": -1}, 0.05), [], "not known")


class BadInput(unittest.TestCase):
    def test_targets_that_make_no_sense_are_refused_in_a_sentence(self) -> None:
        for wrong in ({"share": 0}, {"count": 0}, {"error": 0}, {"share": 1.5}, {}, {"share": 0.5, "count": 3}):
            with self.assertRaises(ValidationError):
                Reduce.model_validate(wrong)
        for goal in ({"count": 1}, {"error": 50.0}):
            with self.assertRaises(SettingsError) as caught:
                reduced(RING, **goal)
            self.assertTrue(caught.exception.message.endswith("."))
        for more in ({"count": 10**8}, {"share": 1.0}):
            self.assertIs(reduce(RING, Reduce.model_validate(more)), RING)
        nothing = Mesh.nothing(2)
        self.assertIs(reduce(nothing, Reduce(share=0.5)), nothing)

    def test_a_part_that_refuses_stays_as_it_was_and_says_why(self) -> None:
        body = write_meshed(RING.positions, RING.triangles)
        chain = Chain("x", 1, AsItCame(), (Reduce(count=1),))
        made = make([Order(chain, [body])])[0][chain.key]
        self.assertEqual(len(made.triangles), len(RING.triangles))
        self.assertIn("nothing would be left", made.figures.refused["reduce"])

    def test_damaged_meshes_end_in_meshes(self) -> None:
        ball = meshes.ball()
        crossing = meshes.together(ball, meshes.ball(at=(0.5, 0, 0)))
        many = {
            "open": meshes.without(ball, range(0, 300, 7)),
            "over-shared": meshes.also(ball, [[0, 1, 2], [0, 1, 3], [0, 1, 4]]),
            "crossing": crossing,
            "strip": meshes.strip(1),
            "doubled": meshes.also(ball, ball.triangles[:200]),
            "without area": meshes.also(ball, [[0, 0, 1], [2, 2, 2]]),
            "one": meshes.mesh_of([[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 2]]),
        }
        for name, mesh in many.items():
            for goal in ({"share": 0.3}, {"error": 0.01}, {"share": 0.3, "hold": 0.05}):
                with self.subTest(name, **goal):
                    try:
                        light = reduced(mesh.settled(), **goal)
                    except SettingsError as error:
                        self.assertTrue(error.message.endswith("."))
                        continue
                    self.assertGreater(len(light.triangles), 0)
                    self.assertTrue(np.isfinite(light.positions).all())
                    self.assertLessEqual(len(light.triangles), len(mesh.triangles))


if __name__ == "__main__":
    unittest.main()
