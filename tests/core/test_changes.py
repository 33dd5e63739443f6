"""What one state of the decisions changed of another, in words."""

import unittest
from typing import Any

from hemp_ladder.core.changes import changes
from hemp_ladder.core.decisions import Decisions


def told(before: dict[str, Any], after: dict[str, Any]) -> list[str]:
    documents = [Decisions.model_validate(given).model_dump(mode="json") for given in (before, after)]
    return changes(documents[0], documents[1])


class Changes(unittest.TestCase):
    def test_a_setting_is_told_with_its_unit_before_and_after(self) -> None:
        fine = {"facet": {"chord": {"kind": "absolute", "metres": 1e-4}, "degrees": 10}}
        self.assertEqual(
            told({}, fine), ["Facet: chord error from 0.50 mm to 0.10 mm", "Facet: angle from 20° to 10°"]
        )  # fmt: skip
        self.assertEqual(told({}, {"fit": {"unit": "in"}}), ["Fit: unit set to in"])
        self.assertEqual(
            told({}, {"sort": {"keep_source": False}}), ["Sort: colours of the source kept from on to off"]
        )
        self.assertEqual(
            told({}, {"fit": {"datum": (1, 0, 0)}}), ["Fit: origin from (0 m, 0 m, 0 m) to (1 m, 0 m, 0 m)"]
        )
        self.assertEqual(told(fine, fine), [])

    def test_lists_are_told_by_what_came_and_went(self) -> None:
        brass = {"by": "layer", "match": "Pipes", "material": "brass"}
        steel = {"by": "layer", "match": "Bolts", "material": "steel"}
        one, two = {"sort": {"rules": [brass]}}, {"sort": {"rules": [brass, steel]}}
        self.assertEqual(told(one, two), ["Sort: rule layer “Bolts” steel added"])
        three = {**steel, "match": ["Bolts", "Nuts", "Pins"]}
        self.assertEqual(told({}, {"sort": {"rules": [three]}}), ["Sort: rule layer “Bolts and 2 more” steel added"])
        order = {"sort": {"order": {"groups": [{"id": "own:1", "name": "Lens"}]}}}
        self.assertEqual(told({}, order), ["Sort: group “Lens” added"])
        self.assertEqual(told({}, {"sort": {"names": [{"to": "A_{name}"}]}}), ["Sort: step of naming A_{name} added"])
        self.assertEqual(told(two, {}), ["Sort: 2 rules taken away"])
        self.assertEqual(told(two, {"sort": {"rules": [steel, brass]}}), ["Sort: order of rules"])
        weld = {"mend": {"steps": [{"does": "weld", "tolerance": 1e-3}]}}
        self.assertEqual(told({}, weld), ["Mend: operation weld 1.00 mm added"])

    def test_parts_are_named_one_and_counted_several(self) -> None:
        own = {"degrees": 5}
        self.assertEqual(
            told({}, {"facet": {"parts": {"lamp": own}}}), ["Facet: “lamp”: angle set to 5°"]
        )  # fmt: skip
        many = {"facet": {"parts": {f"p{k}": own for k in range(30)}}}
        self.assertEqual(told({}, many), ["Facet: 30 parts: angle set to 5°"])

    def test_exceptions_are_told_by_whom_they_hold_for(self) -> None:
        weld, flat = {"does": "weld", "tolerance": 1e-3}, {"does": "normals", "kind": "flat"}
        rails = {"by": "layer", "match": "Rails", "steps": [weld]}
        small = {"by": "smaller", "size": 0.05, "without": ["weld"]}
        one, two = {"mend": {"exceptions": [rails]}}, {"mend": {"exceptions": [rails, small]}}
        self.assertEqual(told({}, one), ["Mend: layer “Rails”: operation weld 1.00 mm added"])
        self.assertEqual(told(one, two), ["Mend: parts smaller than 50.0 mm: goes without weld"])
        self.assertEqual(told(two, {"mend": {"exceptions": [small, rails]}}), ["Mend: order of exceptions"])
        other = {"mend": {"exceptions": [{**rails, "steps": [flat]}, {**small, "steps": [flat]}]}}
        self.assertEqual(told(two, other), ["Mend: 2 exceptions changed"])

    def test_the_order_of_a_set_is_no_change_and_what_an_earlier_version_lacks_is_none(self) -> None:
        self.assertEqual(changes({"mend": {"flipped": ["a", "b"]}}, {"mend": {"flipped": ["b", "a"]}}), [])
        self.assertEqual(changes({"fit": {"unit": "in"}}, {"fit": {"unit": "in", "up": None}, "trim": {}}), [])

    def test_much_is_counted(self) -> None:
        after = {"facet": {"degrees": 5, "segments": 8}, "fit": {"unit": "in", "up": "y"},
                 "trim": {"levels": [{"name": "light"}]}, "ship": {"target": {"format": "stl", "unit": "mm", "up": "y"}},
                 "receive": {"without_copies": True}}  # fmt: skip
        lines = told({}, after)
        self.assertEqual((len(lines), lines[-1]), (9, "and 1 change more"))


if __name__ == "__main__":
    unittest.main()

    def test_what_is_decided_at_fit_is_told_in_its_words(self) -> None:
        spot = {"source": "a", "at": (1, 2, 3)}
        note = {"id": 1, "kind": "distance", "spots": [spot, spot], "should": 2.0}
        view = {"name": "Quay", "source": "a", "matrix": [0.0] * 16}
        for fit, line in (
            ({"ground": spot, "lift": 0.3}, "Fit: height above the ground from 0.00 mm to 300 mm"),
            ({"notes": [note]}, "Fit: measurements: measurement distance 2 added"),
            ({"lookouts": [view]}, "Fit: lookout “Quay” added"),
            ({"yardstick": 1.8}, "Fit: yardstick from 1.75 m to 1.80 m"),
        ):
            lines = told({}, {"fit": fit})
            self.assertTrue(any(found.startswith(line) for found in lines), lines)
