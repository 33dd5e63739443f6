"""Facet on the command line: purposes, overrides, the longest edge; and what makes no sense."""

import json
from typing import Any

import numpy as np
import trimesh

from hemp_ladder.core.facet.settings import PURPOSES
from tests.support import AS1, DAVIT, HOUSE
from tests.test_cli import CommandCase


class Facet(CommandCase):
    def convert(self, *options: object, code: int = 0) -> dict[str, Any]:
        done = self.run_it("convert", AS1, "-o", self.folder / "out.glb", *options, "--json", code=code)
        told: dict[str, Any] = json.loads(done.stdout) if done.stdout else {}
        return told

    def test_a_purpose_is_its_numbers_and_options_win(self) -> None:
        counts = {purpose: self.convert("--purpose", purpose)["triangles"] for purpose in PURPOSES}
        self.assertLess(counts["background"], counts["general"])
        self.assertLess(counts["general"], counts["close-up"])
        plain = self.convert("--chord", "0.1mm", "--angle", "10deg")["triangles"]
        self.assertEqual(counts["close-up"], plain)
        self.assertEqual(
            self.convert("--purpose", "print", "--chord", "5mm", "--angle", "30deg")["triangles"], counts["background"]
        )

    def test_overrides_hold_for_whom_they_name(self) -> None:
        bare = self.convert()
        plain = {item["part"]: item["after"]["triangles"] for item in bare["by_part"]}
        round_ = max(plain, key=plain.__getitem__)
        some = self.convert("--override", f"part={round_}:chord=0.01mm,angle=3deg")
        changed = {item["part"] for item in some["by_part"] if item["after"]["triangles"] != plain[item["part"]]}
        self.assertEqual(changed, {round_})
        small = self.convert("--override", "smaller=30mm:angle=45deg,chord=5mm")["triangles"]
        self.assertLess(small, bare["triangles"])
        for wrong in ("part:chord=1mm", "weather=x:chord=1mm", "part=x:length=1mm", "part=x", "smaller=big:chord=1mm",
                      "part=x:share=much"):  # fmt: skip
            done = self.run_it("convert", AS1, "-o", self.folder / "no.glb", "--override", wrong, code=2)
            self.assertTrue(done.stderr.strip(), wrong)

    def test_no_side_is_longer_than_allowed_on_solids_and_on_buildings(self) -> None:
        for source, edge, metres in ((AS1, "10mm", 0.01), (HOUSE, "500mm", 0.5)):
            done = self.run_it("convert", source, "-o", self.folder / "out.glb", "--max-edge", edge, "--json")
            self.assertTrue(json.loads(done.stdout)["receipt"]["ok"])
            for mesh in trimesh.load_scene(self.folder / "out.glb").dump():
                corners = mesh.triangles
                longest = np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2).max()
                self.assertLessEqual(longest, metres * 1.001)

    def test_a_length_that_would_never_end_leaves_the_part_as_it_is_and_says_so(self) -> None:
        told = self.run_it("convert", HOUSE, "-o", self.folder / "out.glb", "--max-edge", "0.1mm", "--json")
        found = json.loads(told.stdout)["findings"]
        self.assertTrue(any("triangles of this part" in item["message"] for item in found), found)

    def test_short_sides_go_slivers_are_cut_and_trees_take_polygons(self) -> None:
        """On solids, surfaces and buildings; every receipt is in order."""
        for source, form, short in ((AS1, "dae", "2mm"), (DAVIT, "usdc", "5mm"), (HOUSE, "usdc", "20mm")):
            out = self.folder / f"out.{form}"
            plain = json.loads(self.run_it("convert", source, "-o", out, "--json").stdout)
            options = ("--min-edge", short, "--slivers", "50", "--polygons", "both")
            told = json.loads(self.run_it("convert", source, "-o", out, *options, "--json").stdout)
            self.assertTrue(told["receipt"]["ok"], source)
            self.assertGreater(told["effects"]["shortest"], 0, source)
            self.assertLess(told["triangles"], plain["triangles"] * 1.5, source)
            self.assertGreaterEqual(told["receipt"]["told"]["facets"]["largest distance, m"], 0.0)
        wrong = self.run_it("convert", AS1, "-o", self.folder / "no.glb", "--min-edge", "-1mm", code=2)
        self.assertTrue(wrong.stderr.strip())
        wrong = self.run_it("convert", AS1, "-o", self.folder / "no.glb", "--slivers", "900", code=2)
        self.assertTrue(wrong.stderr.strip())

    def test_an_allowance_is_met_and_its_deviation_told(self) -> None:
        """On buildings and drawings over HTTP."""
        before = self.told(AS1)
        value = round(before["triangles"] * 0.6)
        done = self.told(AS1, "--allowance", value)
        self.assertLessEqual(done["triangles"], value)
        self.assertGreaterEqual(done["triangles"], 0.98 * value)
        self.assertTrue(done["receipt"]["ok"])
        self.assertGreater(done["facet"]["off"], before["facet"]["off"])
        self.assertLessEqual(done["facet"]["more"], done["facet"]["error"])
        proof = done["receipt"]["told"]["facets"]
        self.assertEqual((proof["largest distance, m"], proof["of"]), (done["facet"]["off"], done["facet"]["worst"]))
        small = self.told(AS1, "--allowance", "60kB")
        self.assertLessEqual(small["facet"]["total"], 60_000)
        self.assertAlmostEqual(small["outputs"][0]["bytes"], 60_000, delta=9_000)
        for wrong in ("20", "half", "50%", "error=1mm"):
            done = self.run_it("convert", AS1, "-o", self.folder / "no.glb", "--allowance", wrong, code=2)
            self.assertTrue(done.stderr.strip(), wrong)

    def told(self, source: Any, *options: object) -> dict[str, Any]:
        done = self.run_it("convert", source, "-o", self.folder / "out.glb", *options, "--json")
        found: dict[str, Any] = json.loads(done.stdout)
        return found

    def test_lookouts_told_by_where_they_stand_make_far_parts_coarse(self) -> None:
        near = self.told(AS1, "--lookout", "0,-0.6,0.1>0,0,0.05>30deg", "--pixels", 0.25)
        far = self.told(AS1, "--lookout", "0,-60,0.1m>0,0,0.05m", "--pixels", 0.25)
        self.assertLess(far["triangles"], near["triangles"] / 2)
        self.assertEqual(sum(far["facet"][name] for name in ("near", "middle", "far", "unseen")), 5)
        way = self.told(
            AS1, "--lookout", "0,-60,0.1>0,0,0.05", "--lookout", "0,-0.6,0.1>0,0,0.05", "--lookout-path", "--pixels", 0.25
        )  # fmt: skip
        self.assertGreaterEqual(way["triangles"], far["triangles"])
        both = self.told(AS1, "--lookout", "0,-0.6,0.1>0,0,0.05", "--allowance", 9000)
        self.assertTrue(both["facet"]["in_pixels"])
        self.assertLessEqual(both["triangles"], 9000)
        for wrong in ("Moon", "1,2>3", "1,2,3>1,2,3", "1,2,3>4,5,6>7>8"):
            done = self.run_it("convert", AS1, "-o", self.folder / "no.glb", "--lookout", wrong, code=2)
            self.assertTrue(done.stderr.strip(), wrong)
