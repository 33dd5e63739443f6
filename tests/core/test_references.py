"""What decisions call parts: it stays when others come and go, and finds its part again in another revision."""

import unittest
from fractions import Fraction

import numpy as np

from hemp_ladder.core.choose.settings import Choice
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.keys import content_key
from hemp_ladder.core.model.bodies import Exact
from hemp_ladder.core.model.join import Given, join
from hemp_ladder.core.model.labels import unique_label
from hemp_ladder.core.model.model import Model, Node, Part
from hemp_ladder.core.model.references import bind, name_parts
from hemp_ladder.core.refs import refs_in, without_refs


def model(*parts: tuple[str, str, str]) -> Model:
    """Of parts given as (group, name, geometry), each placed once in its group."""
    labels: set[str] = set()
    box = np.array([[0.0] * 3, [1.0] * 3])
    nodes: list[Node] = []
    made = []
    for index, (group, name, shape) in enumerate(parts):
        nodes += [Node(group, -1), Node(name, len(nodes), index)]
        made.append(Part(unique_label(name, labels), name, content_key(shape.encode()), Exact(box, faces=1)))
    local = np.tile(np.eye(4), (len(nodes), 1, 1))
    return name_parts(Model("STEP", "", "", "m", "z", Fraction(1), made, nodes, local, box))


EVERYWHERE = {
    "receive": {
        "choices": [{"by": "part", "match": "@"}, {"by": "layer", "match": "@"}],
        "drawn": {"rows": [{"by": "part", "match": "@", "height": 1, "on": {"by": "part", "match": "@"}}]},
    },
    "facet": {"parts": {"@": {"degrees": 5}}},
    "sort": {
        "rules": [{"by": "part", "match": "@", "material": "clay"}, {"by": "name", "match": "@", "material": "clay"}]
    },
    "mend": {"flipped": ["@"], "parts": {"@": {"without": ["weld"]}}},
}


def deciding(ref: str) -> Decisions:
    """Decisions that speak of one part wherever they can, and of a layer and a name that are called the same."""
    return Decisions.model_validate_json(__import__("json").dumps(EVERYWHERE).replace("@", ref))


class Stable(unittest.TestCase):
    def test_another_of_the_same_name_before_it_changes_nothing(self) -> None:
        """Numbers in order would have given the first bolt's name to the new one."""
        before = model(("A", "Bolt", "m8"), ("A", "Plate", "p"))
        after = model(("A", "Bolt", "m6"), ("A", "Bolt", "m8"), ("A", "Plate", "p"))
        self.assertEqual([part.ref for part in after.parts[1:]], [part.ref for part in before.parts])
        self.assertEqual(len({part.ref for part in after.parts}), 3)
        self.assertTrue(all(part.ref.startswith(part.name) for part in after.parts))

    def test_the_same_file_gives_the_same_and_twins_differ(self) -> None:
        parts = [("A", "Bolt", "m8"), ("A", "Bolt", "m8"), ("B", "Bolt", "m8"), ("A", "", "m8")]
        refs = [part.ref for part in model(*parts).parts]
        self.assertEqual(refs, [part.ref for part in model(*parts).parts])
        self.assertEqual(len(set(refs)), 4)

    def test_sources_that_hold_the_same_part_keep_theirs_apart(self) -> None:
        one, other = model(("A", "Bolt", "m8")), model(("A", "Bolt", "m8"))
        joined = join([Given("one", "one", one), Given("other", "other", other)])
        first, second = (part.ref for part in joined.parts)
        self.assertEqual((first, second), (one.parts[0].ref, f"{first} @other"))


class Bound(unittest.TestCase):
    def bound(self, ref: str, to: Model) -> set[str]:
        return {ref for what, ref in refs_in(bind(deciding(ref), to.parts)) if what == "part"}

    def test_a_part_whose_shape_changed_is_found_by_its_place(self) -> None:
        old, new = model(("A", "Bolt", "m8"), ("B", "Bolt", "x")), model(("A", "Bolt", "m9"), ("B", "Bolt", "x"))
        self.assertEqual(self.bound(old.parts[0].ref, new), {new.parts[0].ref})
        self.assertEqual(self.bound(old.parts[1].ref, new), {new.parts[1].ref})

    def test_a_part_that_moved_in_the_tree_is_found_by_its_shape(self) -> None:
        old, new = model(("A", "Bolt", "m8")), model(("C", "Bolt", "m6"), ("D", "Bolt", "m8"))
        self.assertEqual(self.bound(old.parts[0].ref, new), {new.parts[1].ref})

    def test_what_could_be_several_or_none_stays_as_it_was(self) -> None:
        old = model(("A", "Bolt", "m8"))
        new = model(("C", "Bolt", "m8"), ("D", "Bolt", "m8"))
        self.assertEqual(self.bound(old.parts[0].ref, new), {old.parts[0].ref})
        self.assertEqual(self.bound("Anchor", new), {"Anchor"})

    def test_labels_that_people_and_earlier_versions_wrote_are_understood(self) -> None:
        new = model(("A", "Bolt", "m8"), ("A", "Bolt", "m9"))
        self.assertEqual(self.bound("Bolt", new), {new.parts[0].ref})
        self.assertEqual(self.bound("Bolt (2)", new), {new.parts[1].ref})

    def test_only_what_speaks_of_parts_is_changed(self) -> None:
        new = model(("A", "Bolt", "m8"))
        bound = bind(deciding("Bolt"), new.parts)
        self.assertEqual([choice.match for choice in bound.receive.choices], [new.parts[0].ref, "Bolt"])
        self.assertEqual([rule.match for rule in bound.sort.rules], [(new.parts[0].ref,), ("Bolt",)])
        row = bound.receive.drawn.rows[0]
        self.assertEqual((row.match, row.on and row.on.match), (new.parts[0].ref, new.parts[0].ref))
        self.assertEqual([entry.parts for entry in bound.facet.exceptions], [(new.parts[0].ref,)])
        self.assertEqual([entry.parts for entry in bound.mend.exceptions], [(new.parts[0].ref,)])


class Recipes(unittest.TestCase):
    def test_without_references_what_speaks_of_parts_and_sources_is_gone(self) -> None:
        given = deciding("Bolt").model_copy(deep=True)
        source = {"fit": {"sources": {"one": {"unit": "in"}}}, "receive": {"without": ["one"]}}
        given = Decisions.model_validate({**given.model_dump(), **source})
        left = without_refs(given)
        self.assertEqual(refs_in(left), set())
        self.assertEqual([rule.by for rule in left.sort.rules], ["name"])
        self.assertEqual((left.facet.exceptions, left.mend.flipped, left.fit.sources), ((), frozenset(), {}))
        Decisions.model_validate(left.model_dump())

    def test_a_choice_in_one_source_is_for_all_without_it(self) -> None:
        left = without_refs(Choice(by="layer", match="Walls", source="one"))
        self.assertEqual(left, Choice(by="layer", match="Walls"))


if __name__ == "__main__":
    unittest.main()
