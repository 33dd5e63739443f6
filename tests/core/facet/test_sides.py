"""Short sides joined, long thin triangles cut across: forms stay, what is closed stays closed, and what is said is measured."""

import math
import unittest
from dataclasses import replace

import numpy as np
import trimesh
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from scipy.spatial import cKDTree

from hemp_ladder.core.climb import plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.facet.even import evened
from hemp_ladder.core.facet.gauge import gauged
from hemp_ladder.core.facet.shortest import thinned
from hemp_ladder.core.facet.tessellate import tessellate
from hemp_ladder.core.kernel.shapes import write_shape
from hemp_ladder.core.mesh.figures import Figures, effects_in_all
from hemp_ladder.core.mesh.measure import measure
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.tree import Tree
from hemp_ladder.core.model.join import Given, join
from tests.core.sort.test_copies import as_mesh
from tests.support import AS1, DEMO, read_kept

BODIES = {
    "drum": BRepPrimAPI_MakeCylinder(10.0, 50.0), "ball": BRepPrimAPI_MakeSphere(10.0),
    "ring": BRepPrimAPI_MakeTorus(20.0, 5.0), "cone": BRepPrimAPI_MakeCone(10.0, 3.0, 60.0),
}  # fmt: skip


def made(name: str, chord: float, degrees: float = 20) -> Mesh:
    return tessellate(write_shape(BODIES[name].Shape()), chord, math.radians(degrees)).settled()


def sides(mesh: Mesh) -> np.ndarray:
    return np.linalg.norm(mesh.corners - np.roll(mesh.corners, -1, axis=1), axis=2)


def whole_normals(mesh: Mesh) -> np.ndarray:
    across = np.cross(mesh.corners[:, 1] - mesh.corners[:, 0], mesh.corners[:, 2] - mesh.corners[:, 0])
    return np.asarray(across / np.linalg.norm(across, axis=1, keepdims=True))


def other(mesh: Mesh) -> trimesh.Trimesh:
    return trimesh.Trimesh(mesh.positions, mesh.triangles, process=True, merge_norm=True, merge_tex=True)


class Short(unittest.TestCase):
    def test_few_short_sides_are_left_and_bodies_stay_closed(self) -> None:
        for name in BODIES:
            before = made(name, 0.01)
            after = thinned(before, 2.5)
            few = (sides(before) < 2.5).sum(), (sides(after) < 2.5).sum()
            self.assertLess(few[1], 0.2 * few[0], name)
            self.assertLessEqual(sides(after).max(), max(5.25, 1.3 * sides(before).max()) * 1.001, name)
            whole = other(after)
            self.assertTrue(whole.is_watertight and whole.is_winding_consistent, name)
            self.assertEqual(whole.euler_number, 0 if name == "ring" else 2, name)
            self.assertEqual(len(before.triangles) - len(after.triangles), after.figures.effects["shortest"])

    def test_what_is_said_to_be_off_is_what_another_library_finds(self) -> None:
        for name in BODIES:
            before = made(name, 0.01)
            after = thinned(before, 2.5)
            told = after.figures.effects["shortest.off"]
            near, dense = (trimesh.sample.sample_surface(other(mesh), 200_000, seed=3)[0] for mesh in (before, after))
            there = cKDTree(dense).query(near[:20_000])[0].max()
            between = math.sqrt(after.area() / 200_000) * 3
            self.assertLessEqual(there, told + between, name)
            self.assertGreaterEqual(there, told * 0.8, name)
            self.assertAlmostEqual(gauged(after.figures)["off"], before.figures.deviation + told, places=9)

    def test_corners_and_the_lines_between_faces_stay(self) -> None:
        box = tessellate(write_shape(BRepPrimAPI_MakeBox(1.0, 2.0, 3.0).Shape()), 0.1, 0.3).settled()
        self.assertEqual(len(thinned(box, 10).triangles), 12)
        drum = thinned(made("drum", 0.01), 3.0)
        on_rim = np.isclose(np.hypot(*drum.positions.T[:2]), 10, atol=1e-5)
        self.assertTrue(on_rim.all(), "every corner is one that was there")
        for height in (0, 50):
            self.assertGreaterEqual(
                len(np.unique(drum.positions[np.isclose(drum.positions[:, 2], height)], axis=0)), 12
            )

    def test_lit_sides_stay_lit_and_an_open_sheet_keeps_its_border(self) -> None:
        after = thinned(made("ball", 0.02), 3.0)
        across = np.cross(after.corners[:, 1] - after.corners[:, 0], after.corners[:, 2] - after.corners[:, 0])
        lit = after.normals[after.triangles].astype(float)
        self.assertTrue((np.einsum("kci,ki->kc", lit, across) > 0).all())
        grid = trimesh.creation.box((4, 4, 1)).subdivide().subdivide().subdivide()
        top = grid.submesh([np.flatnonzero(grid.face_normals[:, 2] > 0.5)], append=True)
        sheet = as_mesh(top)
        fewer = thinned(sheet, 1.2)
        self.assertLess(len(fewer.triangles), 0.4 * len(sheet.triangles))
        self.assertAlmostEqual(fewer.area(), 16, places=6)

    def test_a_thin_tube_is_not_pinched(self) -> None:
        """Where three corners are left around it, a side across and the third are a ring with nothing in it (link condition)."""
        ball = trimesh.creation.icosphere(3, 10)
        for sections in (4, 7, 12):
            tube = trimesh.creation.cylinder(1, 60, sections=sections).subdivide_to_size(4)
            whole = trimesh.util.concatenate([tube, ball.apply_translation([40, 0, 0])])
            whole.merge_vertices()
            smooth = as_mesh(whole)
            smooth = replace(smooth, attributes={"normal": np.asarray(whole.vertex_normals, np.float32)})
            after = other(thinned(smooth, 3.0))
            self.assertTrue(after.is_watertight and after.is_winding_consistent, sections)
            self.assertEqual(after.euler_number, 4, sections)

    def test_triangles_lit_one_by_one_are_joined_too_and_stay_so(self) -> None:
        """As STL brings them, and many others: every triangle has its own three vertices and its own light."""
        drum = trimesh.creation.cylinder(10, 50, sections=120)
        singly = as_mesh(
            trimesh.Trimesh(drum.triangles.reshape(-1, 3), np.arange(3 * len(drum.faces)).reshape(-1, 3), process=False)
        )
        after = thinned(singly, 3.0)
        self.assertLess(len(after.triangles), 0.4 * len(singly.triangles))
        whole = other(after)
        self.assertTrue(whole.is_watertight and whole.is_winding_consistent)
        own = np.einsum("kci,ki->kc", after.normals[after.triangles].astype(float), whole_normals(after))
        self.assertGreater(own.min(), 0.999)
        # Rims lean by 90 degrees: they are no less sharp than before.
        self.assertEqual(set(np.round(after.positions[:, 2], 6)), {-25.0, 25.0})

    def test_corners_stay_however_they_are_lit(self) -> None:
        box = trimesh.creation.box((1, 2, 3))
        self.assertEqual(len(thinned(as_mesh(box), 10).triangles), 12)
        self.assertEqual(len(thinned(as_mesh(box.subdivide().subdivide()), 10).triangles), 12)

    def test_what_was_found_not_to_do_is_tried_again_when_something_near_changes(self) -> None:
        """Joining again takes next to nothing more away."""
        once = thinned(made("ball", 0.002), 2.0)
        self.assertLessEqual(thinned(once, 2.0).figures.effects["shortest"], 0.03 * len(once.triangles))

    def test_what_is_off_is_no_count(self) -> None:
        known = Figures(effects={"shortest": 3.0, "shortest.off": 0.5})
        self.assertEqual(effects_in_all([(known, 2), (None, 5), (known, 1)]), {"shortest": 9.0})

    def test_whatever_a_file_brings_comes_out_whole(self) -> None:
        """Corners in one place, the same triangle twice, edges of five triangles, no triangle at all."""
        dice = np.random.default_rng(1)
        self.assertEqual(len(thinned(Mesh.nothing(1), 1.0).triangles), 0)
        point = as_mesh(trimesh.Trimesh(np.zeros((3, 3)), [[0, 1, 2]], process=False))
        self.assertEqual(thinned(point, 1.0).figures.effects, {"shortest": 1.0, "shortest.off": 0.0})
        with self.assertRaises(ValueError):
            Tree(Mesh.nothing(1))
        for _ in range(60):
            soup = trimesh.Trimesh(dice.integers(0, 4, (30, 3)), dice.integers(0, 30, (60, 3)), process=False)
            for edge in (0.5, 1.5, 1e6):
                after = thinned(as_mesh(soup), edge)
                self.assertTrue(np.isfinite(after.positions).all())
                self.assertEqual(len(after.triangles), len(after.faces.labels))
                self.assertTrue((after.triangles < len(after.positions)).all())

    def test_nothing_happens_where_nothing_is_short(self) -> None:
        drum = made("drum", 0.5)
        self.assertEqual(len(thinned(drum, 0.1).triangles), len(drum.triangles))


class Slivers(unittest.TestCase):
    def slender(self, mesh: Mesh) -> int:
        return measure([mesh])[0].figures.slender

    def test_strips_are_cut_across_and_nothing_moves(self) -> None:
        # Where the angle decides, a cone's rims are in step.
        for name, chord in (("drum", 0.01), ("cone", 1.0)):
            before = made(name, chord)
            after = evened(before, 10)
            self.assertGreater(self.slender(before), 30, name)
            # What is left is on the flat ends, which no strip helps.
            ends = np.ptp(after.corners[:, :, 2], axis=1) < 1e-6
            self.assertLessEqual(self.slender(after), ends.sum(), name)
            self.assertAlmostEqual(after.volume() / before.volume(), 1, places=8)
            self.assertAlmostEqual(after.area() / before.area(), 1, places=8)
            whole = other(after)
            self.assertTrue(whole.is_watertight and whole.is_winding_consistent, name)

    def test_no_more_is_spent_than_is_allowed(self) -> None:
        model, kept = read_kept(DEMO)
        fewer = 0
        for part in model.parts:
            if not part.body.has_surface:
                continue
            before = tessellate(kept.shapes[part.key], 2.0, math.radians(30)).settled()
            after = evened(before, 0.25)
            self.assertLessEqual(len(after.triangles), 1.25 * len(before.triangles), part.name)
            self.assertEqual(after.watertight, before.watertight, part.name)
            change = self.slender(before) - self.slender(after)
            self.assertGreaterEqual(change, 0, part.name)
            fewer += change
        self.assertGreater(fewer, 0)

    def test_a_box_has_no_strips(self) -> None:
        box = tessellate(write_shape(BRepPrimAPI_MakeBox(1.0, 2.0, 300.0).Shape()), 0.1, 0.3).settled()
        self.assertEqual(len(evened(box, 10).triangles), 12)


class Decided(unittest.TestCase):
    def test_for_the_job_and_for_a_part(self) -> None:
        """Short sides are joined, slivers cut, long sides divided, in that order; what is said of a part counts first."""
        model, _ = read_kept(AS1)
        joined = join([Given("a", "a", model)])
        name = next(part for part in joined.parts if part.body.has_surface)
        facet = {
            "shortest": 0.002, "even": 0.1, "longest": 0.05,
            "exceptions": [{"by": "parts", "parts": [name.decided_as], "shortest": 0.004}],
        }  # fmt: skip
        planned = plan(joined, Decisions.model_validate({"facet": facet}))
        lengths = set()
        for index, chain in enumerate(planned.chains):
            if chain is None:
                continue
            self.assertEqual([step.does for step in chain.operations], ["shortest", "even", "longest"])
            scale = float(planned.fitted.scale_of(index))
            lengths.add((joined.parts[index].decided_as == name.decided_as, round(chain.operations[0].edge * scale, 6)))
        self.assertEqual(lengths, {(True, 0.004), (False, 0.002)})
