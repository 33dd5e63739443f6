"""Trim on the command line: goals, levels, stand-ins and limits, on jobs and on a mesh file alone."""

import json
from pathlib import Path
from typing import Any

import trimesh

from demo import paving
from house.places import ROOT
from tests.support import DAVIT
from tests.test_cli import CommandCase

PAVING, SEAT = (ROOT / "demo" / name for name in ("quay-paving.glb", "quay-seat.zip"))


def found(path: Path | str) -> int:
    """Triangles over all placements, as another library counts them."""
    scene = trimesh.load_scene(path)
    return sum(len(scene.geometry[scene.graph[node][1]].faces) for node in scene.graph.nodes_geometry)


class Trim(CommandCase):
    def convert(self, source: Path, *options: object, name: str = "out.glb", code: int = 0) -> dict[str, Any]:
        told: dict[str, Any] = json.loads(
            self.run_it("convert", source, "-o", self.folder / name, *options, "--json", code=code).stdout
        )
        return told

    def test_a_share_with_what_was_measured_of_each_part(self) -> None:
        told = self.convert(PAVING, "--reduce", "25%")
        self.assertLess(abs(told["triangles"] / 91_264 - 0.25), 0.01)
        self.assertEqual(found(told["outputs"][0]["path"]), told["triangles"])
        for part in told["by_part"]:
            before, after = part["before"], part["after"]
            self.assertLess(after["triangles"], 0.3 * before["triangles"])
            self.assertEqual(after["deviation_m"], max(after["missing_m"], after["bulging_m"]))
            self.assertLess(after["deviation_m"], 0.0015)
            self.assertAlmostEqual(after["volume_m3"] / before["volume_m3"], 1, delta=0.02)
        trimmed = told["receipt"]["told"]["trimmed"]
        self.assertEqual((trimmed["triangles before"], trimmed["triangles"]), (91_264, told["triangles"]))

    def test_counts_and_sizes_are_of_all_parts_together(self) -> None:
        told = self.convert(PAVING, "--reduce", "20,000")
        self.assertLess(abs(told["triangles"] / 20_000 - 1), 0.05)
        small = self.convert(PAVING, "--reduce", "250kB")
        self.assertLess(small["outputs"][0]["bytes"], 270_000)
        self.assertGreater(small["outputs"][0]["bytes"], 150_000)

    def test_an_error_is_kept_and_flats_lose_nothing(self) -> None:
        told = self.convert(PAVING, "--reduce", "error=0.5mm", "--flats")
        by_part = {part["part"]: part["after"] for part in told["by_part"]}
        self.assertEqual(by_part["Deck"]["triangles"], paving.least())
        for after in by_part.values():
            self.assertLessEqual(after.get("deviation_m", 0), 0.00051)
        self.assertLess(by_part["Bollard"]["triangles"], 6000)

    def test_levels_and_a_stand_in_lie_beside_and_name_each_other(self) -> None:
        told = self.convert(SEAT, "--levels", "50%,25%", "--stand-in", "hull")
        self.assertEqual([level["level"] for level in told["levels"]], ["50%", "25%", "stand-in"])
        sizes = {level["level"]: level["triangles"] for level in told["levels"]} | {"full": told["triangles"]}
        for level in [{"level": "full", **told}, *told["levels"]]:
            self.assertTrue(level["receipt"]["ok"])
            self.assertEqual(found(level["outputs"][0]["path"]), level["triangles"])
            others = {item["level"]: item["triangles"] for item in level["receipt"]["told"]["beside"]}
            self.assertEqual(others, {name: count for name, count in sizes.items() if name != level["level"]})
        for form, count in (("box", 12), ("shell=12", None)):
            light = self.convert(PAVING, "--stand-in", form, name=f"x{len(form)}.glb")["levels"][0]
            if count:
                self.assertTrue(all(part["after"]["triangles"] == count for part in light["by_part"]))
            self.assertLess(light["triangles"], 20_000)

    def test_limits_say_what_to_trim_first(self) -> None:
        told = self.convert(PAVING, "--limit", "triangles=50000", "--limit", "bytes=2MB")["limit"]
        self.assertEqual(
            (told["allowed"], told["over"]), ({"triangles": 50_000, "bytes": 2_000_000}, {"triangles": 41_264})
        )
        first = told["steps"][0]
        self.assertGreaterEqual(first["buys"], 41_264)
        words = self.run_it("convert", PAVING, "-o", self.folder / "w.glb", "--limit", "triangles=50000").stdout
        self.assertIn("over by 41,264 triangles", words)
        self.assertIn("Bollard: reduced to 25%: buys 42,480 triangles", words)
        exact = self.convert(DAVIT, "--limit", "triangles=2000")["limit"]
        self.assertIn("chord error times 4", exact["steps"][0]["step"])

    def test_held_to_its_shape_and_told_where_it_is_lost(self) -> None:
        lost = self.convert(SEAT, "--reduce", "10%")
        self.assertIn("lost-shape", {item["code"] for item in lost["findings"]})
        held = self.convert(SEAT, "--reduce", "10%", "--hold", "5%")
        self.assertNotIn("lost-shape", {item["code"] for item in held["findings"]})
        self.assertGreater(held["triangles"], lost["triangles"])

    def test_what_makes_no_sense_ends_in_a_sentence(self) -> None:
        for options in (
            ("--reduce", "0"), ("--reduce", "0%"), ("--reduce", "error=0mm"), ("--reduce", "some"), ("--levels", "half"),
            ("--stand-in", "cat"), ("--limit", "legs=4"), ("--limit", "triangles=0"), ("--hold", "7"),
            ("--levels", "50%,50%"), ("--flats=0mm",),
        ):  # fmt: skip
            done = self.run_it("convert", SEAT, "-o", self.folder / "no.glb", *options, code=2)
            self.assertTrue(done.stderr.strip().endswith("."), (options, done.stderr))
            self.assertFalse((self.folder / "no.glb").exists())
        more = self.run_it("convert", SEAT, "-o", self.folder / "all.glb", "--reduce", "99999999")
        self.assertIn("nothing needs to be reduced", more.stderr)
        few = self.run_it("convert", PAVING, "-o", self.folder / "few.glb", "--reduce", "1")
        self.assertIn("Reduce was not done", few.stdout)
        self.assertGreater(found(self.folder / "few.glb"), 1000, "nothing is emptied")
