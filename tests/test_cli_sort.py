"""Sort on the command line: rules from a file, names, a tree of its own, leftovers, copies; and what another library finds."""

import json
from typing import Any

import trimesh

from tests.support import DEMO, HOUSE
from tests.test_cli import CommandCase

RULES = [
    {"by": "name", "match": ["*door*"], "material": "timber"},
    {"by": "layer", "match": ["Fasteners", "Ironwork"], "material": "galvanised"},
    {"by": "name", "match": "*", "material": "own:tar"},
    {"by": "layer", "match": "Nowhere", "material": "brass"},
]
TAR = {"id": "own:tar", "name": "Tar", "colour": "#101010"}


class Sort(CommandCase):
    def convert(self, *options: object, code: int = 0) -> dict[str, Any]:
        done = self.run_it(
            "convert", HOUSE, DEMO, "-o", self.folder / "out.glb", "--chord", "5mm", *options, "--json", code=code
        )
        told: dict[str, Any] = json.loads(done.stdout) if done.stdout else {}
        return told

    def test_from_makers_orders_to_one_by_material(self) -> None:
        path = self.folder / "rules.json"
        path.write_text(json.dumps({"rules": RULES, "materials": [TAR]}))
        told = self.convert(
            "--rules", path, "--rename", "{material} {n}", "--digits", 3, "--group-by", "material", "--drop-leftovers",
            "--group", "group",
        )  # fmt: skip
        sort = told["sort"]
        self.assertEqual(set(sort["materials"]), {"Oiled timber", "Galvanised steel", "Tar"})
        self.assertEqual((sort["loose parts"], sort["rules that decide nothing"]), (0, ["layer Nowhere"]))
        self.assertEqual(sort["groups"], sort["materials"])
        self.assertTrue(told["receipt"]["ok"])
        scene = trimesh.load_scene(self.folder / "out.glb")
        self.assertEqual(set(scene.geometry), set(sort["materials"]))
        self.assertEqual(sum(len(item.faces) for item in scene.geometry.values()), told["triangles"])

    def test_the_tree_and_the_names_are_in_the_file(self) -> None:
        self.convert("--group-by", "layer", "--rename", "{layer}_{n}", "--digits", 3)
        scene = trimesh.load_scene(self.folder / "out.glb")
        parents = scene.graph.transforms.parents
        named = {node for node in scene.graph.nodes_geometry if str(parents[node]).startswith("Fasteners")}
        self.assertEqual(len(named), 288)
        self.assertTrue(all(str(node).startswith("Fasteners_") for node in named), sorted(map(str, named))[:5])

    def test_copies_share_one_shape_and_nothing_moves(self) -> None:
        plain = self.convert()
        before = trimesh.load_scene(self.folder / "out.glb")
        shared = self.convert("--share-copies")
        after = trimesh.load_scene(self.folder / "out.glb")
        self.assertLess(shared["parts"], plain["parts"])
        self.assertEqual((shared["placements"], shared["triangles"]), (plain["placements"], plain["triangles"]))
        self.assertTrue(shared["receipt"]["ok"])
        self.assertLess(abs(before.bounds - after.bounds).max(), 1e-5)
        self.assertAlmostEqual(before.area / after.area, 1, places=5)

    def test_what_makes_no_sense_is_said_and_nothing_is_written(self) -> None:
        wrong = self.folder / "wrong.json"
        wrong.write_text('[{"by": "layer"}]')
        for options, said in (
            (("--rename", "{wrong}"), "no field"), (("--rename", "/(/=>x"), "makes no sense"),
            (("--group-by", "weather"), "--group-by"), (("--rules", wrong), "wrong.json"),
            (("--rules", self.folder / "none.json"), "cannot be read"),
            (("--rename", "/(a|aa)+$/=>x"), None),
        ):  # fmt: skip
            done = self.run_it("convert", DEMO, "-o", self.folder / "no.glb", *options, code=2 if said else 0)
            if said:
                self.assertIn(said, done.stderr)
                self.assertFalse((self.folder / "no.glb").exists())
