"""Facet on the command line: purposes, overrides, the longest edge; and what makes no sense."""

import json
from typing import Any

import numpy as np
import trimesh

from hemp_ladder.core.facet.settings import PURPOSES
from tests.support import AS1, HOUSE
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
