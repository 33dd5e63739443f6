"""What can be picked on a part, and what is measured by it: held against closed forms."""

import unittest

import numpy as np
import trimesh
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakeSphere
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from scipy.spatial.transform import Rotation

from hemp_ladder.core.chain.came import read_meshed, write_meshed
from hemp_ladder.core.fit import FitSettings, SourceFit, Spot
from hemp_ladder.core.fit.marks import Kind, Marks
from hemp_ladder.core.fit.marks.exact import exact_marks
from hemp_ladder.core.fit.marks.meshed import circle_through, mesh_marks
from hemp_ladder.core.fit.notes import disagreeing, measured, spot_of
from hemp_ladder.core.fit.settings import Note
from hemp_ladder.core.fit.standing import Standing
from hemp_ladder.core.fit.ways import fit_by, way_from
from hemp_ladder.core.kernel.shapes import write_shape
from tests.core.fit.test_ways import job, source, spot


def plate() -> Marks:
    """100 by 60 by 20 with a hole of 8 at (30, 30)."""
    hole = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(30, 30, 0), gp_Dir(0, 0, 1)), 8, 20).Shape()
    return exact_marks(write_shape(BRepAlgoAPI_Cut(BRepPrimAPI_MakeBox(100.0, 60.0, 20.0).Shape(), hole).Shape()))


def of_mesh(mesh: trimesh.Trimesh) -> Marks:
    return mesh_marks(read_meshed(write_meshed(mesh.vertices, mesh.faces)))


def at(marks: Marks, kind: Kind) -> set[tuple[float, ...]]:
    return {tuple(row) for row in np.round(marks.at[marks.kind == kind], 9).tolist()}


class Exactly(unittest.TestCase):
    def test_corners_edges_circles_and_faces_of_a_plate(self) -> None:
        marks = plate()
        self.assertEqual(at(marks, Kind.CORNER), {(x, y, z) for x in (0, 100) for y in (0, 60) for z in (0, 20)})
        self.assertEqual(at(marks, Kind.CENTRE), {(30, 30, 0), (30, 30, 20)})
        self.assertEqual(len(at(marks, Kind.EDGE_MIDDLE)), 12)
        np.testing.assert_allclose(marks.radius[marks.kind == Kind.CENTRE], 8, rtol=1e-15)
        # The hole takes a disc out of the top, so its centre moves away: a weighted mean by areas.
        area, disc = 6000.0, np.pi * 64
        x = (area * 50 - disc * 30) / (area - disc)
        self.assertIn(round(x, 6), {round(row[0], 6) for row in at(marks, Kind.FACE_CENTRE)})
        outward = marks.at + 1e-3 * marks.way
        faces = marks.kind == Kind.FACE_CENTRE
        outside = ((outward[faces] < 0) | (outward[faces] > [100, 60, 20])).any(axis=1)
        self.assertTrue(outside.all())
        self.assertEqual(marks.at.dtype, np.float64)

    def test_a_ball_has_its_centre_and_no_seam(self) -> None:
        marks = exact_marks(write_shape(BRepPrimAPI_MakeSphere(gp_Pnt(1, 2, 3), 5).Shape()))
        self.assertEqual(at(marks, Kind.CENTRE), {(1, 2, 3)})
        self.assertEqual(at(marks, Kind.CORNER) | at(marks, Kind.EDGE_MIDDLE), set())

    def test_they_come_back_as_they_were_stored(self) -> None:
        marks = plate()
        again = Marks.from_bytes(marks.to_bytes())
        for name in ("at", "kind", "way", "radius", "lines", "starts", "of"):
            np.testing.assert_array_equal(getattr(marks, name), getattr(again, name))


class OnMeshes(unittest.TestCase):
    def test_a_box_has_what_a_box_has(self) -> None:
        turn = np.eye(4)
        turn[:3, :3] = Rotation.from_euler("xyz", (20, 30, 40), degrees=True).as_matrix()
        box = trimesh.creation.box((100, 60, 20))
        box.apply_transform(turn)
        marks = of_mesh(box)
        self.assertEqual([int((marks.kind == kind).sum()) for kind in Kind], [8, 12, 0, 6])

    def test_rims_are_circles_and_round_sides_are_no_flat_faces(self) -> None:
        marks = of_mesh(trimesh.creation.annulus(8, 20, 30, sections=64))
        np.testing.assert_allclose(sorted(marks.radius[marks.kind == Kind.CENTRE]), [8, 8, 20, 20], rtol=1e-9)
        np.testing.assert_allclose(np.abs(marks.way[marks.kind == Kind.CENTRE]), [[0, 0, 1]] * 4, atol=1e-9)
        self.assertEqual(at(marks, Kind.FACE_CENTRE), {(0, 0, 15), (0, 0, -15)})
        self.assertEqual(at(marks, Kind.CORNER), set())

    def test_circles_are_fitted_and_others_are_not(self) -> None:
        angles = np.linspace(0, np.pi, 30)
        circle = np.column_stack([3 + 5 * np.cos(angles), 4 + 5 * np.sin(angles), np.full(30, 7.0)])
        found = circle_through(circle)
        assert found is not None
        np.testing.assert_allclose(found[0], [3, 4, 7], atol=1e-9)
        self.assertAlmostEqual(found[2], 5)
        self.assertIsNone(circle_through(circle * [1, 1.2, 1]))
        self.assertIsNone(circle_through(np.column_stack([np.linspace(0, 1, 30), np.zeros(30), np.zeros(30)])))

    def test_nothing_has_nothing_and_flat_triangles_are_passed_over(self) -> None:
        self.assertEqual(len(mesh_marks(read_meshed(write_meshed(np.zeros((3, 3)), np.array([[0, 1, 2]])))).at), 0)


class Notes(unittest.TestCase):
    def test_distance_axis_angle_radius_and_box(self) -> None:
        standing = Standing(job(a=source()), FitSettings(sources={"a": SourceFit(turn=30)}))
        face, edge = (
            spot((0, 0, 0), kind="face centre", way=(1, 0, 0)),
            spot((0, 0, 0), kind="edge middle", way=(1, 1, 0)),
        )
        cases = (
            ("distance", [spot((10, 20, 30)), spot((110, 80, 50))], None, np.sqrt(100**2 + 60**2 + 20**2) / 1000),
            ("along", [spot((10, 20, 30)), spot((110, 80, 50))], "z", 0.02),
            ("along", [spot((0, 0, 0)), spot((100, 0, 0))], "x", 0.1 * np.cos(np.radians(30))),
            ("angle", [face, edge], None, 45.0),
            ("radius", [spot((0, 0, 0), kind="centre", radius=8.0)], None, 0.008),
        )
        for kind, spots, axis, value in cases:
            note = Note.model_validate({"id": 1, "kind": kind, "spots": spots, "axis": axis})
            self.assertAlmostEqual(measured(standing, note).value, value, places=12)
        box = measured(Standing(job(a=source()), FitSettings()), Note(id=1, kind="box"))
        np.testing.assert_allclose(box.box, [0.1, 0.06, 0.02], atol=1e-12)  # type: ignore[arg-type]

    def test_against_the_drawing_and_against_one_another(self) -> None:
        standing = Standing(job(a=source()), FitSettings())
        notes = [
            Note.model_validate(
                {"id": k, "kind": "distance", "spots": [spot((0, 0, 0)), spot((x, 0, 0))], "should": should}
            )
            for k, x, should in ((1, 100, 0.1), (2, 50, 0.0502), (3, 10, 0.02))
        ]
        told = [measured(standing, note) for note in notes]
        self.assertEqual([item.agrees for item in told], [True, True, False])
        self.assertAlmostEqual(told[2].off or 0, -0.01)
        self.assertEqual([id_ for id_, _ in disagreeing(told)], [1, 3])
        self.assertEqual(disagreeing(told[:2]), [])

    def test_what_moved_in_a_revision_is_found_where_it_is_now(self) -> None:
        marks = plate()
        centre = int(np.flatnonzero((marks.kind == Kind.CENTRE) & (marks.at[:, 2] == 20))[0])
        model = job(a=source())
        picked = spot_of("a", model.parts[0].ref, marks, centre, np.eye(4))
        standing = Standing(model, FitSettings())
        kept = fit_by(
            standing,
            way_from({"does": "measure", "kind": "distance", "spots": [spot((0, 30, 20)), picked.model_dump()]}),
        )
        now = Standing(model, kept)
        self.assertEqual(measured(now, kept.notes[0], lambda part: marks).value, 0.03)
        moved = Marks(
            marks.at + np.array([4, 0, 0]), marks.kind, marks.way, marks.radius, marks.lines, marks.starts, marks.of
        )
        told = measured(now, kept.notes[0], lambda part: moved)
        self.assertAlmostEqual(told.value, 0.034)
        self.assertEqual(told.changed, 0.03)
        gone = kept.notes[0].model_copy(update={"spots": (picked.model_copy(update={"part": "Gone"}),) * 2})
        self.assertIn("not in the job", measured(now, gone, lambda part: marks).lost)
        other = kept.notes[0].model_copy(update={"spots": (Spot(source="b", at=(0, 0, 0)),) * 2})
        self.assertIn("not in the job", measured(now, other).lost)
