"""The front end's modules without a browser: bundled as for it, called by Node, held against what Python says of the same."""

import base64
import fnmatch
import json
import random
import subprocess
import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
import shapely

from hemp_ladder.core.choose.outlines.settings import Shaping
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.lengths import parse_length
from hemp_ladder.core.units import say_imperial, say_metric
from hemp_ladder.store import packs
from house.places import WEB

#: Calls `name(...arguments)` of the bundle for each line of JSON and prints each answer as JSON.
_CALLER = """
import * as modules from %s;
import { readFileSync } from "node:fs";
globalThis.atob ??= (text) => Buffer.from(text, "base64").toString("binary");
const revive = (key, value) => {
  if (value && value.map) return value;
  if (value && value.$set) return new Set(value.$set);
  if (value && value.$map) return new Map(value.$map);
  if (value && value.$bytes) return Uint8Array.from(Buffer.from(value.$bytes, "base64")).buffer;
  return value;
};
const plain = (key, value) => {
  if (value instanceof Map || value instanceof Set) return [...value];
  if (ArrayBuffer.isView(value)) return [...value];
  return value;
};
for (const [name, parts] of JSON.parse(readFileSync(0, "utf8"), revive))
  console.log(JSON.stringify(modules[name](...parts) ?? null, plain));
"""
#: What the bundle offers; the last two turn three's objects into plain ones.
_ENTRY = """
export * from "%(src)s/ui/format";
export * from "%(src)s/ledger/rows";
export { newest } from "%(src)s/api/newest";
export { parse, renumbered } from "%(src)s/bench/keptHidden";
export { grow, whole } from "%(src)s/stage/cuts";
export { moved, ownOf, reach, whomSaid, withOwn } from "%(src)s/bench/exceptions/entries";
export { readPack } from "%(src)s/stage/packs";
export { finder } from "%(src)s/ledger/pattern";
export { likeChosen } from "%(src)s/ledger/like";
export { narrowedTo, sharedBy } from "%(src)s/ledger/facets";
export { countChosen, isChosen, nodesOf, partlyChosen } from "%(src)s/ledger/chosen";
export { changed, hideChosen, showOnly } from "%(src)s/bench/bench";
import { finder } from "%(src)s/ledger/pattern";
import { touches } from "%(src)s/stage/picking/box";
export const found = (pattern, words) => words.map((word) => finder(pattern)(word.toLowerCase()));
export const touched = (triangles, seen, box) =>
  triangles.map((positions) =>
    touches({ positions, index: [0, 1, 2], first: 0, end: 3, matrix: new Matrix4() }, new Matrix4().fromArray(seen), box),
  );
export * from "%(src)s/rungs/receive/choices";
export * from "%(src)s/rungs/receive/plan/paper";
export * from "%(src)s/rungs/receive/outlines/said";
export { laid } from "%(src)s/rungs/receive/outlines/drawOutlines";
import { dressedGeometry, readPack } from "%(src)s/stage/packs";
import { Matrix4 } from "three";
import { chunk } from "%(src)s/stage/drawn";
import { layoutOf, placement } from "%(src)s/stage/layout";
import { trianglesOf, wornBy } from "%(src)s/ledger/rows";
import { makePickable } from "%(src)s/stage/picking/sorted";
export const picked = (data) => {
  const geometry = dressedGeometry(readPack(data)[0], [], 1, false);
  const before = [...geometry.index.array];
  makePickable(geometry);
  return [before, [...geometry.index.array], geometry.boundsTree !== undefined];
};
export const dressed = (data, slots, count, flipped) => {
  const geometry = dressedGeometry(readPack(data)[0], slots, count, flipped);
  return {
    index: [...geometry.index.array],
    normals: [...geometry.attributes.normal.array],
    groups: geometry.groups,
  };
};
export const placed = (structure, result, ...rest) => {
  const nothing = { placements: [], dresses: [], dress_of: [], cut_nodes: [] };
  return placement(layoutOf(structure, { ...nothing, ...result }), ...rest, new Matrix4()).elements;
};
export const counted = (structure, result) =>
  [...wornBy(structure, result)].map(([part, worn]) => [part, worn.times, trianglesOf(worn, result)]);
export const baked = (data, placings) => {
  const mesh = readPack(data)[0];
  const pieces = placings.map(({ matrix, turned, flipped }, node) => ({
    ...mesh, node, part: node, matrix: new Matrix4().fromArray(matrix), turned, flipped,
  }));
  const { object, hit, box, veil } = chunk(pieces, null);
  const { position, normal } = object.geometry.attributes;
  return {
    positions: [...position.array], normals: [...normal.array], index: [...object.geometry.index.array],
    hits: [0, 3, 4, 7].map((faceIndex) => hit({ faceIndex })),
    boxes: pieces.map((_, at) => [box(at).min.toArray(), box(at).max.toArray()]),
    veil: [...veil([1], null).geometry.index.array],
  };
};
"""


class Modules(unittest.TestCase):
    bundle: Path

    @classmethod
    def setUpClass(cls) -> None:
        keeper = tempfile.TemporaryDirectory()
        cls.addClassCleanup(keeper.cleanup)
        # Beside the sources, so that their packages are found.
        entry = WEB / "src" / f".entry-{Path(keeper.name).name}.ts"
        cls.addClassCleanup(entry.unlink, missing_ok=True)
        entry.write_text(_ENTRY % {"src": "."})
        cls.bundle = Path(keeper.name) / "bundle.mjs"
        made = subprocess.run(
            ["npx", "rolldown", str(entry), "--file", str(cls.bundle), "--format", "esm", "--platform", "node"],
            cwd=WEB, capture_output=True, text=True,
        )  # fmt: skip
        assert made.returncode == 0, made.stderr[-2000:]
        entry.unlink()

    def call(self, name: str, *cases: list[Any]) -> list[Any]:
        """What the function answers to each case."""
        told = json.dumps([[name, case] for case in cases])
        done = subprocess.run(
            ["node", "--input-type=module", "-e", _CALLER % json.dumps(self.bundle.as_uri())],
            input=told, capture_output=True, text=True,
        )  # fmt: skip
        self.assertEqual(done.returncode, 0, done.stderr[-1500:])
        return [json.loads(line) for line in done.stdout.splitlines()]


class Picking(Modules):
    """Patterns against Python's own library, boxes against another's clipping, and what is chosen."""

    def test_patterns_are_as_in_pythons_own_library(self) -> None:
        dice = random.Random(3)
        words = ["".join(dice.choices("abc .", k=dice.randrange(0, 9))) for _ in range(200)]
        for pattern in ("a*", "*b", "a*c*", "?b?", "*", "a**b", "**a?*"):
            told = self.call("found", [pattern, words])[0]
            meant = [fnmatch.fnmatchcase(word, pattern) for word in words]
            self.assertEqual(told, meant, pattern)
        # One that never ends where it is tried letter by letter.
        self.assertEqual(self.call("found", ["*a" * 30 + "*z", ["a" * 5000]]), [[False]])
        self.assertEqual(self.call("found", ["Rail", ["Handrail\nSteel", "Post\nGallery rail", "Pane"]]), [[True, True, False]])

    def test_a_box_touches_what_another_librarys_clipping_leaves_something_of(self) -> None:
        dice = np.random.default_rng(5)
        triangles = dice.uniform(-3, 3, (400, 3, 3))
        triangles[:, :, 2] -= 6.0
        near, far = 0.1, 100.0
        seen = np.array([
            [1.2, 0, 0, 0], [0, 1.6, 0, 0], [0, 0, (far + near) / (near - far), 2 * far * near / (near - far)], [0, 0, -1, 0],
        ])  # fmt: skip
        box = {"left": -0.2, "right": 0.15, "bottom": -0.1, "top": 0.3}
        frame = shapely.box(box["left"], box["bottom"], box["right"], box["top"])
        flat = triangles @ np.diag([1.2, 1.6, 0])[:, :2] / -triangles[:, :, 2:]
        meant = [bool(shapely.Polygon(corners).intersects(frame)) for corners in flat]
        self.assertTrue(50 < sum(meant) < 350)
        told = self.call("touched", [triangles.reshape(-1, 9).tolist(), seen.T.reshape(-1).tolist(), box])[0]
        self.assertEqual(told, meant)

    def test_alike_by_size_and_what_is_locked_or_single(self) -> None:
        parts = [{"surface": True, "times": 2, "label": str(k)} for k in range(4)]
        structure = {"parts": parts, "node_parts": [0, 1, 0, 2, 3]}
        sides = [[1, 0.5, 0.1], [1.001, 0.5, 0.1], [1, 0.5, 0.2], [3, 1, 1]]
        result = {"parts": [{"sides": item, "triangles": k} for k, item in enumerate(sides)], "placements": [0, 1, 2, 3, 4],
                  "cut_nodes": [], "base_parts": 4, "materials": []}  # fmt: skip
        view = {"chosen": {"$set": [0]}, "hidden": {"$set": []}, "hiddenPlaces": {"$set": [3]}, "places": None}
        alike = self.call("likeChosen", [view, structure, result, "size"])[0]
        self.assertEqual(sorted(alike["chosen"]), [0, 1])
        sizes = self.call("sharedBy", ["size", structure, result, {"$set": []}])[0]
        self.assertEqual([(item["value"], sorted(item["parts"])) for item in sizes], [("0.5 to 2 m", [0, 1, 2]), ("2 to 10 m", [3])])
        # What is locked is not chosen, nor any of its places.
        locked = {"$set": [1]}
        told = {"chosen": {"$set": [0, 1]}, "places": {"$set": [0, 1]}}
        after = self.call("changed", [view, told, structure, locked])[0]
        self.assertEqual((after["chosen"], after["places"]), ([0], [0]))
        # A choice of whole parts ends one of places.
        places = {**view, "places": {"$set": [0]}}
        self.assertIsNone(self.call("changed", [places, {"chosen": {"$set": [2]}}, structure, {"$set": []}])[0]["places"])
        self.assertEqual(self.call("showOnly", [places, structure])[0], {"hidden": [1, 2, 3], "hiddenPlaces": [2]})
        self.assertEqual(sorted(self.call("hideChosen", [places])[0]["hiddenPlaces"]), [0, 3])
        self.assertEqual(self.call("partlyChosen", [structure["node_parts"], {"$set": [0]}]), [[0]])


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


class Lists(Modules):
    def test_exceptions_are_found_moved_counted_and_told_by_whom_they_hold_for(self) -> None:
        def parts(*refs: str) -> dict[str, object]:
            return {"by": "parts", "parts": list(refs), "match": "", "size": None, "source": None}

        layer = {**parts(), "by": "layer", "match": "Steel"}
        small = {**parts(), "by": "smaller", "size": 0.05}
        entries = [layer, parts("b", "a"), small]
        self.assertEqual(self.call("ownOf", [entries, ["a", "b"]], [entries, ["a"]], [entries, ["a", "b", "c"]]), [1, -1, -1])
        self.assertEqual(self.call("moved", [entries, 2, 0], [entries, 0, 9]), [[small, *entries[:2]], [*entries[1:], layer]])
        result = {"parts": [{"mend_by": [0, 2]}, {"mend_by": []}, {"mend_by": [2]}]}
        self.assertEqual(self.call("reach", [result, "mend_by", 3])[0], [1, 0, 2])
        structure = {"parts": [{"ref": "a", "label": "Bolt"}]}
        told = [[entry, structure, {"$map": [["s", "Steel"]]}] for entry in (layer, parts("a"), parts("gone"), parts("a", "b"), small)]
        self.assertEqual(
            self.call("whomSaid", *told),
            ["layer Steel", "Bolt", "a part that is no more", "2 parts", "parts smaller than 50.0 mm"],
        )

    def test_a_structure_grows_by_shells_that_stand_last(self) -> None:
        node = {"name": "Hinge shell 2", "parent": 1, "part": 3, "member": 0, "world": [1.0] * 16, "layer": None}
        shell = {"ref": "Hinge / shell 1", "label": "Hinge shell 2"}
        result = {"added_nodes": [node], "added_parts": [shell], "cut_parts": [], "cut_nodes": []}
        made, same = self.call("grow", [STRUCTURE, result], [STRUCTURE, {**result, "added_nodes": []}])
        self.assertEqual((made["parts"][3], made["node_parts"][-1], made["node_parents"][-1]), (shell, 3, -1))
        self.assertEqual(len(made["node_tags"]), len(STRUCTURE["node_tags"]) + 1)
        self.assertEqual(made["tags"][made["node_tags"][-1]]["kind"], "body")
        self.assertEqual(same, STRUCTURE)


#: A yard with a shed (two hinges) and a loose bolt.
STRUCTURE = {
    "parts": [
        {"ref": "Hinge", "label": "Hinge", "name": "Hinge", "layer": "Steel", "colour": None, "surface": True},
        {"ref": "Bolt", "label": "Bolt", "name": "Bolt", "layer": None, "colour": None, "surface": True},
        {"ref": "Axis", "label": "Axis", "name": "Axis", "layer": None, "colour": None, "surface": False},
    ],
    "node_names": ["Yard", "Shed", "left", "", "Bolt M8", "Axis"],
    "node_parents": [-1, 0, 1, 1, 0, 0],
    "node_parts": [-1, -1, 0, 0, 1, 2],
    "node_tags": [0, 0, 1, 1, 0, 0],
    "tags": [
        {"kind": "body", "ifc_class": None, "storey": None, "materials": []},
        {"kind": "body", "ifc_class": "IfcMember", "storey": "Loft", "materials": []},
    ],
    "members": [{"first_node": 0, "nodes": 6, "first_part": 0, "parts": 3}],
}


class Rows(Modules):
    def tree(self, opened: list[int], text: str = "") -> list[tuple[str, int, int]]:
        rows = self.call("treeRows", [STRUCTURE, {"$set": opened}, text])[0]
        return [(row["name"], row["depth"], row["below"]) for row in rows]

    def test_the_tree_shows_what_is_open(self) -> None:
        self.assertEqual(self.tree([]), [("Yard", 0, 5)])
        self.assertEqual(self.tree([0]), [("Yard", 0, 5), ("Shed", 1, 2), ("Bolt M8", 1, 0), ("Axis", 1, 0)])
        self.assertIn(("Hinge", 2, 0), self.tree([0, 1]), "an unnamed placement goes by its part")
        self.assertEqual(self.tree([1]), [("Yard", 0, 5)], "what lies in a closed group stays shut")

    def test_a_search_shows_what_is_found_and_what_is_above_it(self) -> None:
        self.assertEqual(self.tree([], "LEFT"), [("Yard", 0, 5), ("Shed", 1, 2), ("left", 2, 0)])
        self.assertEqual(self.tree([], "nothing of the kind"), [])

    def test_the_table_leaves_out_what_has_no_surface(self) -> None:
        worn = {"$map": [[1, {"layer": "Fixings", "kind": "IfcFastener", "storey": "", "materials": ["brass"], "why": "", "loose": False}]]}
        names = {"$map": [["brass", "Polished brass"]]}
        found = self.call("tableRows", *([STRUCTURE, worn, names, text, {"$map": []}] for text in ("", "fix", "POLISHED", "hin", "?")))
        self.assertEqual([[row["name"] for row in rows] for rows in found], [["Hinge", "Bolt"], ["Bolt"], ["Bolt"], ["Hinge"], []])

    def test_the_first_placement_of_a_part_speaks_for_it(self) -> None:
        result = {
            "placements": [2, 3, 4],
            "dresses": [
                {"materials": ["galvanised"], "why": "layer Steel", "loose": False},
                {"materials": ["undecided"], "why": "", "loose": True},
                {"materials": ["source:#b5432b", "brass"], "why": "source colour, name “Bolt*”", "loose": False},
            ],
            "dress_of": [0, 1, 2],
            "layers": ["Steel", None],
            "layer_of": [0, 0, 1],
            "cut_nodes": [],
            "base_parts": 3,
            "parts": [{"triangles": 10}, {"triangles": None}, {"triangles": 0}],
        }
        worn = dict(self.call("wornBy", [STRUCTURE, result])[0])
        self.assertEqual((worn[0]["why"], worn[0]["layer"]), ("layer Steel", "Steel"))
        self.assertTrue(worn[0]["loose"], "its second placement is a loose end")
        self.assertEqual(self.call("counted", [STRUCTURE, result])[0], [[0, 2, 20], [1, 1, None]])
        cut = {**result, "cut_nodes": [3], "parts": [*result["parts"], {"triangles": 7}]}
        self.assertEqual(self.call("counted", [STRUCTURE, cut])[0], [[0, 2, 17], [1, 1, None]])
        self.assertEqual((worn[0]["kind"], worn[0]["storey"]), ("IfcMember", "Loft"))
        self.assertEqual((worn[1]["why"], worn[1]["loose"]), ("source colour, name “Bolt*”", False))


class Choosing(Modules):
    """Ticks on the board as choices, which Python then applies."""

    def named(self, match: str, source: str = "house") -> dict[str, str]:
        return {"by": "storey", "match": match, "source": source}

    def test_a_tick_leaves_out_and_takes_back(self) -> None:
        out = self.call("ticked", [[], self.named("Loft")])[0]
        self.assertEqual(out, [{**self.named("Loft"), "take": False}])
        self.assertEqual(self.call("enters", [out, self.named("Loft")], [out, self.named("Attic")]), [False, True])
        self.assertEqual(self.call("ticked", [out, self.named("Loft")])[0], [])

    def test_only_one_then_another_beside_it_then_one_away(self) -> None:
        only = self.call("alone", [[{**self.named("Loft"), "take": False}], self.named("Ground")])[0]
        self.assertEqual(only, [{**self.named("Ground"), "take": True}])
        cases = [[only, self.named(n)] for n in ("Ground", "Loft")]
        self.assertEqual(self.call("enters", *cases, [only, self.named("Loft", "shed")]), [True, False, True])
        two = self.call("ticked", [only, self.named("Loft")])[0]
        self.assertEqual(len(two), 2)
        one = self.call("ticked", [two, self.named("Ground")])[0]
        self.assertEqual(one, [{**self.named("Loft"), "take": True}])
        none = self.call("ticked", [one, self.named("Loft")])[0]
        self.assertEqual(self.call("enters", [none, self.named("Loft")], [none, self.named("Ground")]), [False, False])


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
        self.assertEqual([(g["start"], g["count"], g["materialIndex"]) for g in found["groups"]], [(0, 6, 0), (6, 6, 1)])
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
            np.testing.assert_allclose(found["boxes"][number], [positions[number].min(0), positions[number].max(0)], atol=1e-6)
        index = np.array(found["index"]).reshape(2, -1, 3)
        np.testing.assert_array_equal(index[0], triangles)
        np.testing.assert_array_equal(index[1], triangles[:, ::-1] + count)
        self.assertEqual((found["hits"], found["veil"]), ([0, 0, 1, 1], index[1].reshape(-1).tolist()))

    def test_a_placement_far_away_keeps_its_digits(self) -> None:
        """Map coordinates: a millimetre at six thousand kilometres, which 32 bits could not tell from half a metre."""
        world = np.eye(4)
        world[:3, 3] = [6_378_137_001.0, -2e9, 5.0]
        structure = {"node_names": ["far"], "node_parts": [0], "parts": [{}], "members": [{"first_node": 0, "nodes": 1}], "world": base64.b64encode(world.T.astype("<f8").tobytes()).decode()}
        to_metres = np.diag([1e-3, 1e-3, 1e-3, 1]).T.reshape(-1).tolist()
        found = self.call("placed", [structure, {"sources": [{"matrix": to_metres}]}, 0, [2.0, 0, 0], [6_378_137.0, -2e6, 0]])[0]
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
