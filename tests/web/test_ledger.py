"""What the ledger and choosing work out in the front end, held against what Python and other libraries say of the same."""

import fnmatch
import random
import unittest

import numpy as np
import shapely

from tests.web.bundle import Modules


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
        self.assertEqual(
            self.call("found", ["Rail", ["Handrail\nSteel", "Post\nGallery rail", "Pane"]]), [[True, True, False]]
        )

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
        self.assertEqual(
            [(item["value"], sorted(item["parts"])) for item in sizes], [("0.5 to 2 m", [0, 1, 2]), ("2 to 10 m", [3])]
        )
        # What is locked is not chosen, nor any of its places.
        locked = {"$set": [1]}
        told = {"chosen": {"$set": [0, 1]}, "places": {"$set": [0, 1]}}
        after = self.call("changed", [view, told, structure, locked])[0]
        self.assertEqual((after["chosen"], after["places"]), ([0], [0]))
        # A choice of whole parts ends one of places.
        places = {**view, "places": {"$set": [0]}}
        self.assertIsNone(
            self.call("changed", [places, {"chosen": {"$set": [2]}}, structure, {"$set": []}])[0]["places"]
        )
        self.assertEqual(self.call("showOnly", [places, structure])[0], {"hidden": [1, 2, 3], "hiddenPlaces": [2]})
        self.assertEqual(sorted(self.call("hideChosen", [places])[0]["hiddenPlaces"]), [0, 3])
        self.assertEqual(self.call("partlyChosen", [structure["node_parts"], {"$set": [0]}]), [[0]])


class Lists(Modules):
    def test_exceptions_are_found_moved_counted_and_told_by_whom_they_hold_for(self) -> None:
        def parts(*refs: str) -> dict[str, object]:
            return {"by": "parts", "parts": list(refs), "match": "", "size": None, "source": None}

        layer = {**parts(), "by": "layer", "match": "Steel"}
        small = {**parts(), "by": "smaller", "size": 0.05}
        entries = [layer, parts("b", "a"), small]
        self.assertEqual(
            self.call("ownOf", [entries, ["a", "b"]], [entries, ["a"]], [entries, ["a", "b", "c"]]), [1, -1, -1]
        )
        self.assertEqual(
            self.call("moved", [entries, 2, 0], [entries, 0, 9]), [[small, *entries[:2]], [*entries[1:], layer]]
        )
        result = {"parts": [{"mend_by": [0, 2]}, {"mend_by": []}, {"mend_by": [2]}]}
        self.assertEqual(self.call("reach", [result, "mend_by", 3])[0], [1, 0, 2])
        structure = {"parts": [{"ref": "a", "label": "Bolt"}]}
        told = [
            [entry, structure, {"$map": [["s", "Steel"]]}]
            for entry in (layer, parts("a"), parts("gone"), parts("a", "b"), small)
        ]
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
        worn = {
            "$map": [
                [
                    1,
                    {
                        "layer": "Fixings",
                        "kind": "IfcFastener",
                        "storey": "",
                        "materials": ["brass"],
                        "why": "",
                        "loose": False,
                    },
                ]
            ]
        }
        names = {"$map": [["brass", "Polished brass"]]}
        found = self.call(
            "tableRows", *([STRUCTURE, worn, names, text, {"$map": []}] for text in ("", "fix", "POLISHED", "hin", "?"))
        )
        self.assertEqual(
            [[row["name"] for row in rows] for rows in found], [["Hinge", "Bolt"], ["Bolt"], ["Bolt"], ["Hinge"], []]
        )

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


if __name__ == "__main__":
    unittest.main()
