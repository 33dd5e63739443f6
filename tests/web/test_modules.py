"""The front end's modules without a browser: bundled as for it, called by Node, held against what Python says of the same."""

import base64
import unittest

import numpy as np

from hemp_ladder.core.choose.outlines.settings import Shaping
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.units import say_imperial, say_metric
from hemp_ladder.store import packs
from tests.web.bundle import Modules


class Numbers(Modules):
    LENGTHS = (0.0, 3e-6, 0.00008, 0.0008, 0.0352, 0.3048, 0.3175, 0.999, 1.0, 4.2, 12.345, 99.96, 850.0, 12_345.6)

    def test_lengths_are_said_as_the_server_says_them(self) -> None:
        cases = [[metres] for metres in self.LENGTHS]
        self.assertEqual(self.call("metric", *cases), [say_metric(metres) for metres in self.LENGTHS])
        self.assertEqual(self.call("imperial", *cases), [say_imperial(metres) for metres in self.LENGTHS])

    def test_three_sides_share_a_unit(self) -> None:
        self.assertEqual(
            self.call("box", [[4.2, 0.5, 7.26]], [[0.02, 0.5, 0.1]], [[20_000, 30, 5]]),
            ["4.20 × 0.50 × 7.26 m", "20.0 × 500 × 100 mm", "20.0 × 0.03 × 0.01 km"],
        )

    def test_bytes_and_plurals(self) -> None:
        self.assertEqual(self.call("bytes", [999], [4_200], [4_230_000], [5e9]), ["999 B", "4 kB", "4.2 MB", "5.00 GB"])
        self.assertEqual(self.call("plural", [1, "part"], [1200, "part"]), ["1 part", "1,200 parts"])

    def test_the_newest_view_stays_whichever_comes_last(self) -> None:
        old, new = {"stamp": 1_795_643_551_968_241, "done": 0}, {"stamp": 1_795_643_551_968_242, "done": 9}
        calls = [[None, old], [old, new], [new, old], [new, new]]
        self.assertEqual(self.call("newest", *calls), [old, new, new, new])

    def test_what_was_kept_by_another_is_passed_over(self) -> None:
        cases = [['["a", "b"]'], [None], ["{"], ["7"], ['{"model": 3, "parts": []}'], ['["a", 1, null]']]
        self.assertEqual(self.call("parse", *cases), [["a", "b"], [], [], [], [], ["a"]])

    def test_after_a_revision_parts_keep_their_names_and_not_their_numbers(self) -> None:
        before = {"parts": [{"ref": "a"}, {"ref": "b"}, {"ref": "c"}]}
        now = {"parts": [{"ref": "new"}, {"ref": "c"}, {"ref": "a"}]}
        self.assertEqual(sorted(self.call("renumbered", [{"$set": [0, 1, 2]}, before, now])[0]), [1, 2])

    def test_what_a_polygon_cut_counts_as_the_whole(self) -> None:
        structure = {"parts": [{}, {}], "node_parts": [-1, 0, 1, 1]}
        result = {"cut_nodes": [3, 1], "base_parts": 2}
        self.assertEqual(self.call("whole", [structure, result, [0, 2, 3, 9]])[0], [0, 1, 9])


class Paper(Modules):
    """The sheet that a plan is drawn on."""

    def test_there_and_back_and_zooming_about_a_pixel(self) -> None:
        sheet = self.call("fitting", [[[400_000, 200_000], [400_020, 200_010]], 800, 600])[0]
        spot = self.call("toPixels", [sheet, [400_010, 200_005]])[0]
        self.assertEqual(spot, [400, 300])
        np.testing.assert_allclose(self.call("toMetres", [sheet, [400, 300]])[0], [400_010, 200_005])
        nearer = self.call("zoomed", [sheet, 2, [100, 100]])[0]
        before, after = (self.call("toMetres", [s, [100, 100]])[0] for s in (sheet, nearer))
        np.testing.assert_allclose(before, after)
        self.assertAlmostEqual(nearer["scale"], 2 * sheet["scale"])

    def test_areas_crossings_and_typed_corners(self) -> None:
        square, bow = [[0, 0], [3, 0], [3, 2], [0, 2]], [[0, 0], [1, 1], [1, 0], [0, 1]]
        self.assertEqual(self.call("areaOf", [square], [square[::-1]]), [6, 6])
        self.assertEqual(self.call("crossesItself", [square], [bow]), [False, True])
        told = self.call("written", [square])[0]
        self.assertEqual(self.call("readCorners", [told], ["1 2\n3;4"], ["1, x"]), [square, [[1, 2], [3, 4]], None])

    def test_the_scale_bar_is_round(self) -> None:
        bars = [self.call("scaleBar", [{"scale": scale}, 160])[0] for scale in (1, 30, 900)]
        np.testing.assert_allclose(bars, [100, 5, 0.1])


class Packs(Modules):
    def setUp(self) -> None:
        corners = np.array([[0.0, 0, 0], [2, 0, 0], [0, 2, 0], [0, 0, 2]]) + 1e6
        self.mesh = Mesh.of(
            corners, np.tile(np.float32([0, 0, 1]), (4, 1)),
            np.array([[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]], np.int32), np.array([0, 2, 4]),
        )  # fmt: skip
        self.mesh = self.mesh.settled()
        self.data = {"$bytes": base64.b64encode(packs.encode({"k": self.mesh})).decode()}

    def test_the_browser_reads_what_python_packed(self) -> None:
        found = self.call("readPack", [self.data])[0][0]
        np.testing.assert_allclose(
            np.array(found["positions"]).reshape(-1, 3) + found["origin"], self.mesh.positions, atol=1e-9
        )
        self.assertEqual(found["index"], self.mesh.triangles.reshape(-1).tolist())
        self.assertEqual((found["key"], found["faces"]["first"]), ("k", [0, 2, 4]))

    def test_triangles_are_grouped_by_slot(self) -> None:
        found = self.call("dressed", [self.data, [[0, 1]], 2, False])[0]
        self.assertEqual(
            [(g["start"], g["count"], g["materialIndex"]) for g in found["groups"]], [(0, 6, 0), (6, 6, 1)]
        )
        self.assertEqual(found["index"], self.mesh.triangles[[2, 3, 0, 1]].reshape(-1).tolist())

    def test_picking_leaves_triangles_where_runs_of_faces_point(self) -> None:
        """Of so many triangles that the tree has to sort them."""
        spots = np.random.default_rng(2).uniform(0, 9, (180, 3))
        corners = np.arange(180, dtype=np.int32).reshape(-1, 3)
        soup = Mesh.of(spots, np.tile(np.float32([0, 0, 1]), (180, 1)), corners, np.array([0, 30, 60])).settled()
        data = {"$bytes": base64.b64encode(packs.encode({"k": soup})).decode()}
        before, after, sorted_ = self.call("picked", [data])[0]
        self.assertEqual((before, sorted_), (after, True))

    def test_a_flipped_part_is_turned_over_with_its_normals(self) -> None:
        found = self.call("dressed", [self.data, [], 1, True])[0]
        self.assertEqual(found["index"], self.mesh.flipped().triangles.reshape(-1).tolist())
        np.testing.assert_array_equal(np.array(found["normals"]).reshape(-1, 3), self.mesh.flipped().normals)

    def test_small_pieces_in_a_chunk_stand_as_numpy_places_them(self) -> None:
        """A stretched one, and a mirrored one: positions, normals by the inverse transpose, winding, boxes, hits."""
        stretched = np.diag([1.0, 2, 3, 1])
        stretched[:3, 3] = [5, 6, 7]
        mirrored = np.diag([-1.0, 1, 1, 1])
        local = self.mesh.positions - np.array(self.mesh.origin)
        placings = [
            {"matrix": m.T.reshape(-1).tolist(), "turned": turned, "flipped": False}
            for m, turned in ((stretched, False), (mirrored, True))
        ]
        found = self.call("baked", [self.data, placings])[0]
        count, triangles = len(local), self.mesh.triangles
        positions = np.array(found["positions"]).reshape(2, count, 3)
        normals = np.array(found["normals"]).reshape(2, count, 3)
        for number, matrix in enumerate((stretched, mirrored)):
            np.testing.assert_allclose(positions[number], local @ matrix[:3, :3].T + matrix[:3, 3], atol=1e-5)
            wanted = self.mesh.normals @ np.linalg.inv(matrix[:3, :3])
            wanted /= np.linalg.norm(wanted, axis=1, keepdims=True)
            np.testing.assert_allclose(normals[number], wanted, atol=1e-6)
            np.testing.assert_allclose(
                found["boxes"][number], [positions[number].min(0), positions[number].max(0)], atol=1e-6
            )
        index = np.array(found["index"]).reshape(2, -1, 3)
        np.testing.assert_array_equal(index[0], triangles)
        np.testing.assert_array_equal(index[1], triangles[:, ::-1] + count)
        self.assertEqual((found["hits"], found["veil"]), ([0, 0, 1, 1], index[1].reshape(-1).tolist()))

    def test_a_placement_far_away_keeps_its_digits(self) -> None:
        """Map coordinates: a millimetre at six thousand kilometres, which 32 bits could not tell from half a metre."""
        world = np.eye(4)
        world[:3, 3] = [6_378_137_001.0, -2e9, 5.0]
        structure = {
            "node_names": ["far"],
            "node_parts": [0],
            "parts": [{}],
            "members": [{"first_node": 0, "nodes": 1}],
            "world": base64.b64encode(world.T.astype("<f8").tobytes()).decode(),
        }
        to_metres = np.diag([1e-3, 1e-3, 1e-3, 1]).T.reshape(-1).tolist()
        found = self.call(
            "placed", [structure, {"sources": [{"matrix": to_metres}]}, 0, [2.0, 0, 0], [6_378_137.0, -2e6, 0]]
        )[0]
        np.testing.assert_allclose(found[12:15], [0.003, 0, 0.005], atol=1e-8)

    def test_what_is_said_of_outlines_is_said_once(self) -> None:
        """The browser's rows are the server's: each one passes its validation, and gives what was typed."""
        board = {"by": "layer", "match": "Board", "source": "sign"}
        # What a table's line carries beside its name must not reach the decisions.
        line = {**board, "label": "Board", "shapes": [1, 2]}
        (rows,) = self.call("say", [[], line, {"height": 0.004}])
        (rows,) = self.call("say", [rows, line, {"wall": 0.001, "side": "inward"}])
        (rows,) = self.call("say", [rows, {**board, "source": None}, {"height": 0.001}])
        self.assertEqual(len(rows), 2)
        self.assertEqual([Shaping.model_validate(row).height for row in rows], [0.004, 0.001])
        (said,) = self.call("saidOf", [rows, board])
        self.assertEqual(said, {"height": 0.004, "wall": 0.001, "side": "inward"})
        (rows,) = self.call("say", [rows, line, {"height": None, "wall": None, "side": None}])
        self.assertEqual([row["source"] for row in rows], [None])

    def test_points_of_outlines_are_laid_where_they_begin(self) -> None:
        points = np.arange(14, dtype="<f4").reshape(-1, 2)
        view = {
            "points": base64.b64encode(points.tobytes()).decode(), "box": [[0, 0], [4, 10]],
            "shapes": [{"counts": [2, 1]}, {"counts": [4]}],
        }  # fmt: skip
        (laid,) = self.call("laid", [view])
        self.assertEqual((laid["starts"], laid["middle"]), ([0, 3], [2, 5]))
        self.assertEqual(laid["points"], list(range(14)))


class Pacing(Modules):
    """When the stage draws, by a clock of the test's own; pictures that take 100 ms."""

    def drawn(self, light: bool, *asks: tuple[int, bool], until: int = 3000) -> list[tuple[int, bool]]:
        return [(at, whole) for at, whole in self.call("paced", [light, 100, asks, until])[0]]

    def test_once_for_however_many_ask_and_not_before_the_last_is_done(self) -> None:
        self.assertEqual(self.drawn(False, (0, False), (1, True), (2, False)), [(16, True)])
        (_, whole), (second, _) = self.drawn(False, (0, False), (20, True))
        self.assertTrue(whole)
        self.assertGreaterEqual(second, 116)
        self.assertLess(second, 150)

    def test_on_weak_graphics_lines_wait_for_rest(self) -> None:
        pictures = self.drawn(True, (0, False), (300, False))
        self.assertEqual([whole for _, whole in pictures], [False, False, True])
        self.assertGreaterEqual(pictures[2][0] - pictures[1][0], 500)

    def test_on_weak_graphics_who_is_patient_leaves_as_long_as_a_picture_took(self) -> None:
        patient = self.drawn(True, (0, True), (20, True))
        self.assertGreaterEqual(patient[1][0], 216)
        for hand in ((20, False), (30, False)):
            # A hand does not wait, nor for those who were patient before it.
            self.assertLess(self.drawn(True, (0, True), (20, True), hand)[1][0], 150)
        self.assertLess(self.drawn(False, (0, True), (20, True))[1][0], 150)


if __name__ == "__main__":
    unittest.main()
