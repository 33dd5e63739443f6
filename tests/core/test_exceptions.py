"""Exceptions: for whom entries hold, which of them decides, and what was kept before there was a list."""

import unittest
from typing import Any

import numpy as np
from pydantic import ValidationError

from hemp_ladder.core.climb import plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.exceptions import Excepted, with_own
from hemp_ladder.core.facet.settings import FacetSettings
from hemp_ladder.core.mend.settings import MendSettings
from hemp_ladder.core.model.join import Given, join
from tests.support import AS1, HOUSE, read_kept


def joined(*paths: Any) -> Any:
    return join([Given(path.stem, path.name, read_kept(path)[0]) for path in paths])


class Whom(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.model = joined(HOUSE, AS1)

    def held(self, *entries: dict[str, Any], **more: Any) -> tuple[Any, dict[int, tuple[int, ...]]]:
        planned = plan(self.model, Decisions.model_validate({"facet": {"exceptions": entries}, **more}))
        return planned, dict(planned.held.facet)

    def test_parts_layer_material_source_and_size(self) -> None:
        ref = self.model.parts[3].ref
        planned, held = self.held(
            {"by": "parts", "parts": [ref], "degrees": 3},
            {"by": "layer", "match": "Floors", "degrees": 4},
            {"by": "material", "match": "brass", "degrees": 5},
            {"by": "source", "source": AS1.stem, "degrees": 6},
            {"by": "smaller", "size": 0.1, "degrees": 7},
            sort={"rules": [{"by": "layer", "match": "Roof", "material": "brass"}]},
        )
        self.assertIn(0, held[3])
        of = {number: {index for index, numbers in held.items() if number in numbers} for number in range(5)}
        columns = planned.model.columns
        floors = {
            int(part)
            for part, layer in zip(columns.part, columns.layer, strict=True)
            if columns.layers[layer] == "Floors"
        }
        self.assertEqual(of[1], floors & planned.taken.parts)
        roofs = {
            int(part)
            for part, layer in zip(columns.part, columns.layer, strict=True)
            if columns.layers[layer] == "Roof"
        }
        self.assertEqual(of[2], roofs & planned.taken.parts)
        self.assertEqual(of[3], {i for i, owner in enumerate(planned.model.member_of_part) if owner == 1})
        sizes = np.array([part.size * float(planned.fitted.scale_of(i)) for i, part in enumerate(planned.model.parts)])
        self.assertEqual(of[4], set(np.flatnonzero(sizes < 0.1).tolist()))

    def test_class_and_kept_selections(self) -> None:
        ref = self.model.parts[3].ref
        bare = plan(self.model, Decisions())
        node = int(bare.taken.placements[-1])
        kept = [{"name": "One", "parts": [ref]}, {"name": "Single", "placements": [self.model.node_refs[node]]}]
        planned, held = self.held(
            {"by": "class", "match": "IfcWall", "degrees": 3},
            {"by": "selection", "match": "One", "degrees": 4},
            {"by": "selection", "match": "Single", "degrees": 5},
            {"by": "selection", "match": "Gone", "degrees": 6},
            sort={"selections": kept},
        )
        of = {number: {index for index, numbers in held.items() if number in numbers} for number in range(4)}
        columns = planned.model.columns
        walls = {
            int(part) for part, tags in zip(columns.part, columns.tags, strict=True)
            if columns.all_tags[tags].ifc_class == "IfcWall"
        }  # fmt: skip
        self.assertTrue(walls)
        self.assertEqual(
            (of[0], of[1], of[2], of[3]), (walls & planned.taken.parts, {3}, {self.model.nodes[node].part}, set())
        )

    def test_the_first_that_speaks_of_a_setting_decides_it(self) -> None:
        settings = FacetSettings.model_validate({"degrees": 20, "exceptions": [
            {"by": "layer", "match": "a", "degrees": 5},
            {"by": "smaller", "size": 1, "chord": {"kind": "absolute", "metres": 1e-3}, "degrees": 9},
        ]})  # fmt: skip
        chord, angle = settings.in_force((0, 1))
        self.assertEqual((chord.metres, round(np.degrees(angle))), (1e-3, 5))  # type: ignore[union-attr]
        self.assertEqual(round(np.degrees(settings.in_force((1,))[1])), 9)
        mend = MendSettings.model_validate({"steps": [{"does": "weld"}, {"does": "facing"}], "exceptions": [
            {"by": "layer", "match": "a", "without": ["weld"]},
            {"by": "layer", "match": "b", "steps": [{"does": "weld", "tolerance": 0.5}, {"does": "normals", "kind": "flat"}]},
        ]})  # fmt: skip
        told = {name: number for name, (_, number) in mend.in_force((0, 1)).items()}
        self.assertEqual(told, {"facing": -1, "normals": 1})
        self.assertEqual(
            list(mend.in_force((1,))), ["weld", "facing", "normals"], "in the order in which they are done"
        )

    def test_a_part_that_others_except_has_a_mesh_of_its_own(self) -> None:
        plain = plan(self.model, Decisions())
        excepted, held = self.held({"by": "layer", "match": "Floors", "degrees": 4})
        for index, (one, two) in enumerate(zip(plain.chains, excepted.chains, strict=True)):
            if one is not None and two is not None:
                self.assertEqual(one.key != two.key, index in held)


class Kept(unittest.TestCase):
    def test_overrides_by_part_become_entries_those_alike_as_one(self) -> None:
        given = {"parts": {"a": {"degrees": 5}, "b": {"degrees": 5}, "c": {"degrees": 6}}}
        entries = FacetSettings.model_validate(given).exceptions
        self.assertEqual([(entry.parts, entry.degrees) for entry in entries], [(("a", "b"), 5), (("c",), 6)])
        mend = MendSettings.model_validate({"parts": {"a": {"steps": [{"does": "weld"}], "without": ["normals"]}}})
        self.assertEqual((mend.exceptions[0].parts, mend.exceptions[0].without), (("a",), {"normals"}))
        again = MendSettings.model_validate_json(mend.model_dump_json())
        self.assertEqual(again, mend)

    def test_an_entry_says_for_whom(self) -> None:
        for given in (
            {"by": "parts"},
            {"by": "layer"},
            {"by": "source"},
            {"by": "smaller"},
            {"by": "colour", "match": "x"},
        ):
            with self.assertRaises(ValidationError):
                Excepted.model_validate(given)

    def test_the_entry_of_just_these_parts_is_changed_or_a_new_one_comes_first(self) -> None:
        first = Excepted(by="parts", parts=("a", "b"))
        made = with_own((first,), ["b", "a"], lambda entry: entry or first)
        self.assertEqual(made, (first,))
        new = with_own((first,), ["a"], lambda entry: entry or Excepted(by="parts", parts=("a",)))
        self.assertEqual([entry.parts for entry in new], [("a",), ("a", "b")])


if __name__ == "__main__":
    unittest.main()
