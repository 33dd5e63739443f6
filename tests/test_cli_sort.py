"""Sort on the command line: rules from a file, names, a tree of its own, leftovers, copies; and what another library finds."""

import json
from typing import Any

import trimesh

from tests.core.test_ship import glb_json
from tests.support import DEMO, HOUSE, write_crate
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

    def test_what_stands_inside_others_is_dropped_with_the_leftovers(self) -> None:
        crate, out = write_crate(self.folder / "quay-crate.obj"), self.folder / "out.glb"
        done = self.run_it("convert", crate, "-o", out, "--drop-leftovers", "--sure")
        self.assertIn("inside others, 1 placements of 1 parts", done.stdout + done.stderr)
        self.assertEqual(set(trimesh.load_scene(out).graph.nodes_geometry), {"Crate"})

    def test_instances_are_made_separate_and_names_are_fitted(self) -> None:
        def counts(*options: object) -> tuple[int, set[str]]:
            self.convert("--chord", "50mm", *options)
            scene = trimesh.load_scene(self.folder / "out.glb")
            return len(scene.geometry), set(map(str, scene.graph.nodes_geometry))

        kept, names = counts()
        some, _ = counts("--separate", "Bolt M20")
        every, _ = counts("--separate", "--plain-names", "--longest-name", 12)
        self.assertTrue(kept < some < every)
        self.assertGreaterEqual(every, len(names))
        fitted = [node["name"] for node in glb_json(self.folder / "out.glb")["nodes"]]
        self.assertEqual(len(set(fitted)), len(fitted))
        for name in fitted:
            self.assertRegex(name, r"^[A-Za-z0-9_-]{1,12}$")

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
