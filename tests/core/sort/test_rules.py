"""Which rule decides, for parts, placements and single faces."""

import fnmatch
import random
import unittest
from fractions import Fraction

import numpy as np

from hemp_ladder.core.choose.settings import ReceiveSettings
from hemp_ladder.core.choose.take import climb_take
from hemp_ladder.core.fit import FitSettings, climb_fit
from hemp_ladder.core.model.bodies import Exact
from hemp_ladder.core.model.columns import Names
from hemp_ladder.core.model.join import as_joined
from hemp_ladder.core.model.model import Colour, Model, Node, Part, Tags
from hemp_ladder.core.sort import BY_NOTHING, BY_SOURCE, Dress, Rule, Sorted, SortSettings, climb_sort
from hemp_ladder.core.sort.settings import OwnMaterial, Within
from hemp_ladder.core.sort.spots import Spots
from hemp_ladder.core.sort.table import met, within_mask

RED, BLUE = Colour.from_hex("#ff0000"), Colour.from_hex("#0000ff")


def part(ref: str, **more: object) -> Part:
    return Part(label=ref, name=ref, key=ref, body=Exact(np.array([[0.0] * 3, [1.0] * 3]), faces=4), **more)  # type: ignore[arg-type]


def model(parts: list[Part], nodes: list[Node]) -> Model:
    local = np.tile(np.eye(4), (len(nodes), 1, 1))
    return Model("STEP", "AP242", "", "mm", "z", Fraction(1, 1000), parts, nodes, local, np.zeros((2, 3)))


def sort(subject: Model, settings: SortSettings) -> Sorted:
    return climb_sort(climb_take(climb_fit(subject, FitSettings()), ReceiveSettings()), settings)


def worn(found: Sorted) -> list[Dress]:
    """What each placement wears, in their order."""
    return [found.dresses[number] for number in found.dress_of]


class Rules(unittest.TestCase):
    def test_the_first_rule_that_matches_decides_and_is_named(self) -> None:
        subject = model([part("Bolt M8", layer="Steel", colour=RED)], [Node("Bolt", -1, 0)])
        steel, brass = (
            Rule(by="layer", match="Steel", material="galvanised"),
            Rule(by="name", match="bolt*", material="brass"),
        )
        for rules, material in (((steel, brass), "galvanised"), ((brass, steel), "brass")):
            dress = sort(subject, SortSettings(rules=rules)).dresses[0]
            self.assertEqual((dress.materials, dress.rules), ((material,), (0,)))

    def test_a_pattern_looks_at_part_and_placement_names(self) -> None:
        subject = model([part("P1")], [Node("Left hinge", -1, 0), Node("Other", -1, 0)])
        rules = (Rule(by="name", match="*HINGE", material="brass"),)
        found = sort(subject, SortSettings(rules=rules))
        self.assertEqual([d.materials for d in worn(found)], [("brass",), ("undecided",)])

    def test_source_colour_unless_switched_off(self) -> None:
        subject = model([part("A", colour=RED), part("B")], [Node("", -1, 0), Node("", -1, 1)])
        kept = sort(subject, SortSettings())
        self.assertEqual([d.rules for d in worn(kept)], [(BY_SOURCE,), (BY_NOTHING,)])
        self.assertEqual(kept.loose_parts(), [1])
        bare = sort(subject, SortSettings(keep_source=False))
        self.assertEqual(bare.loose_parts(), [0, 1])

    def test_a_placements_colour_overrides_its_parts_and_a_groups_reaches_down(self) -> None:
        parts = [part("A", colour=RED), part("B")]
        nodes = [
            Node("G", -1, -1, layer="Glass", colour=BLUE),
            Node("", 0, 0),
            Node("", 0, 0, colour=BLUE),
            Node("", 0, 1),
        ]
        found = sort(model(parts, nodes), SortSettings())
        self.assertEqual([d.materials[0] for d in worn(found)], ["source:#ff0000", "source:#0000ff", "source:#0000ff"])
        self.assertEqual([found.layers[n] for n in found.layer_of], ["Glass", "Glass", "Glass"])

    def test_faces_of_their_own_colour(self) -> None:
        subject = model([part("A", colour=RED, face_colours={2: BLUE})], [Node("", -1, 0)])
        rules = (Rule(by="colour", match="#0000FF", material="brass"),)
        dress = sort(subject, SortSettings(rules=rules)).dresses[0]
        self.assertEqual(dress.materials, ("source:#ff0000", "brass"))
        self.assertEqual(dress.face_slots, ((2, 1),))
        # A part painted face by face shows nothing of the colour beneath, so that is no loose end.
        painted = model([part("A", face_colours=dict.fromkeys(range(4), BLUE))], [Node("", -1, 0)])
        self.assertEqual(sort(painted, SortSettings()).dresses[0].materials, ("source:#0000ff",))

    def test_linear_colour_is_encoded_as_srgb(self) -> None:
        """IEC 61966-2-1: linear 0.5 is 188 of 255, linear 0.0031308 is where the straight piece ends."""
        self.assertEqual(Colour.from_linear(0.5, 0, 1).hex, "#bc00ff")
        self.assertAlmostEqual(Colour.from_linear(0.0031308, 0, 0).red, 0.04045, places=5)
        self.assertAlmostEqual(Colour.from_hex("#bc00ff").linear[0], 0.5, places=2)


class AnyTable(unittest.TestCase):
    """Random tables over random models, held against one rule after the other for one surface after the other."""

    WORDS = ("Walls", "Roof", "Quay", None)
    COLOURS = (RED, BLUE, None)
    LIMITS = (
        Within(storey="Roof"),
        Within(group="Group"),
        Within(group="Elsewhere"),
        Within(storey="Quay", group="Group"),
    )

    def one_by_one(self, rules: tuple[Rule, ...], part: Part, node: Node, above: Node) -> Dress:
        layer = node.layer or part.layer or above.layer
        colour = node.colour or part.colour or above.colour

        def decide(colour: Colour | None, style: str | None) -> tuple[str, int]:
            for number, rule in enumerate(rules):
                looks = {
                    "layer": [layer], "colour": [colour and colour.hex], "part": [part.ref], "style": [style],
                    "class": [node.tags.ifc_class], "storey": [node.tags.storey], "substance": list(node.tags.materials),
                }  # fmt: skip
                names = [part.name.lower(), node.name.lower()]
                hit = (
                    any(fnmatch.fnmatchcase(name, word.lower()) for name in names for word in rule.match)
                    if rule.by == "name"
                    else any(word in looks[rule.by] for word in rule.match)
                )
                if rule.within is not None:
                    hit &= rule.within.storey in (None, node.tags.storey) and rule.within.group in (None, above.name)
                if hit and rule.material != "gone":
                    return rule.material, number
            return (f"source:{colour.hex}", BY_SOURCE) if colour else ("undecided", BY_NOTHING)

        answers = [
            decide(part.face_colours.get(face, colour), part.face_styles.get(face, part.style)) for face in range(4)
        ]
        kinds = list(dict.fromkeys([*([decide(colour, part.style)] if self.shows_rest(part) else []), *answers]))
        slots = tuple((face, kinds.index(answers[face])) for face in range(4) if kinds.index(answers[face]))
        return Dress(tuple(m for m, _ in kinds), tuple(r for _, r in kinds), slots)

    def hold_alike(self, subject: Model, rules: tuple[Rule, ...]) -> None:
        """Where rules match is the same however it is looked for."""
        taken = climb_take(climb_fit(subject, FitSettings()), ReceiveSettings())
        spots, refs = Spots(taken.model, taken.rows), taken.model.node_refs
        for rule in (*rules, Rule(by="placement", match=tuple(refs[3:5]), material="brass")):
            mask = met(taken.model, rule)[taken.rows]
            if rule.within is not None:
                mask = mask & within_mask(taken.model, rule.within)[taken.rows]
            self.assertEqual(spots.of(rule).tolist(), np.flatnonzero(mask).tolist(), rule)

    def shows_rest(self, part: Part) -> bool:
        return len({*part.face_colours, *part.face_styles}) < 4

    def test_it_is_as_one_by_one(self) -> None:
        dice = random.Random(6)
        kinds = ("layer", "colour", "name", "part", "class", "storey", "substance", "style")
        pick = lambda words: dice.choice(words)  # noqa: E731
        for _ in range(60):
            parts = [
                part(
                    f"Part {k}", layer=pick(self.WORDS), colour=pick(self.COLOURS), style=pick(self.WORDS),
                    face_colours={f: pick(self.COLOURS[:2]) for f in range(4) if dice.random() < 0.3},
                    face_styles={f: pick(self.WORDS[:3]) for f in range(4) if dice.random() < 0.3},
                )
                for k in range(4)
            ]  # fmt: skip
            above = Node("Group", -1, layer=pick(self.WORDS), colour=pick(self.COLOURS))
            nodes = [above]
            for k in range(12):
                tags = Tags(
                    "body", pick(self.WORDS), pick(self.WORDS), tuple({w for w in dice.choices(self.WORDS, k=2) if w})
                )
                colour = pick(self.COLOURS) if k % 2 else None
                nodes.append(Node(f"Place {k}", 0, k % 4, pick(self.WORDS), colour, tags))
            words = {"colour": ["#ff0000", "#0000ff"], "name": ["*1", "part*", "place 7", "*ace 1*", "p?rt 2", "*", "P*t*3", "*l?ce 1?", "*[12]"],
                     "part": [f"Part {k}" for k in range(4)]}  # fmt: skip
            rules = tuple(
                Rule(
                    by=by,
                    match=tuple(pick(words.get(by, self.WORDS[:3])) for _ in range(dice.randrange(1, 3))),
                    material=pick(("brass", "clay", "granite", "gone")),
                    within=pick((None, None, *self.LIMITS)),
                )
                for by in dice.choices(kinds, k=dice.randrange(7))
            )  # type: ignore[arg-type]
            found = worn(sort(model(parts, nodes), SortSettings(rules=rules)))
            self.hold_alike(model(parts, nodes), rules)
            for node, dress in zip(nodes[1:], found, strict=True):
                self.assertEqual(dress, self.one_by_one(rules, parts[node.part], node, above), rules)


class Patterns(unittest.TestCase):
    def test_names_are_found_as_by_pythons_own_patterns(self) -> None:
        dice = random.Random(9)
        names = ["".join(dice.choices("aAbB-_ 1é", k=dice.randrange(0, 8))) for _ in range(400)]
        known = Names(names)
        for pattern in (
            "a*",
            "*a",
            "*ab*",
            "a",
            "",
            "*",
            "**",
            "?",
            "a?b*",
            "*a*b*",
            "*-1",
            "ss*",
            "*[ab]",
            "b??",
            "*1?a*",
        ):
            meant = [at for at, name in enumerate(names) if fnmatch.fnmatchcase(name.casefold(), pattern.casefold())]
            self.assertEqual(known.found(pattern).tolist(), meant, pattern)
            self.assertEqual(np.flatnonzero(known.matching(pattern)).tolist(), meant, pattern)
        self.assertEqual(Names([]).found("a*").tolist(), [])


class Palettes(unittest.TestCase):
    def test_a_rule_may_give_what_the_house_the_sources_and_the_job_have(self) -> None:
        own = OwnMaterial(id="own:tar", name="Tar", colour="#101010")
        subject = model([part("A", colour=RED), part("B", colour=BLUE), part("C")], [Node("", -1, k) for k in range(3)])
        rules = tuple(
            Rule(by="part", match=ref, material=material)
            for ref, material in (("A", "source:#0000ff"), ("B", "own:tar"), ("C", "brass"))
        )
        found = sort(subject, SortSettings(rules=rules, materials=(own,)))
        self.assertEqual([dress.materials[0] for dress in worn(found)], [rule.material for rule in rules])
        self.assertEqual(found.palette["own:tar"].name, "Tar")

    def test_a_material_that_is_no_more_leaves_a_loose_end(self) -> None:
        subject = model([part("A")], [Node("", -1, 0)])
        found = sort(subject, SortSettings(rules=(Rule(by="part", match="A", material="source:#123456"),)))
        self.assertEqual(found.loose_parts(), [0])

    def names(self, *parts: Part, tags: Tags = Tags()) -> list[str]:  # noqa: B008
        nodes = [Node("", -1, k, tags=tags) for k in range(len(parts))]
        return [material.name for material in as_joined(model(list(parts), nodes)).materials.values()]

    def test_source_colours_are_called_by_what_wears_them_else_by_a_word(self) -> None:
        self.assertEqual(self.names(part("A", colour=RED, style="oak")), ["Oak"])
        self.assertEqual(self.names(part("A", colour=RED), tags=Tags(materials=("Larch",))), ["Larch"])
        self.assertEqual(self.names(part("A", colour=RED, layer="Hull")), ["Hull"])
        self.assertEqual(self.names(part("A", colour=Colour.from_hex("#cc2026"))), ["Red"])
        self.assertEqual(self.names(part("A", colour=Colour.from_hex("#dadcdc40"))), ["Clear pale grey"])
        # On two layers it is neither's; a layer called by a number says nothing.
        told = self.names(part("A", colour=BLUE, layer="Hull"), part("B", colour=BLUE, layer="Deck"))
        self.assertEqual(told, self.names(part("A", colour=BLUE, layer="0")))

    def test_names_stay_apart_and_do_not_depend_on_the_order(self) -> None:
        near = Colour.from_hex("#fe0000")
        parts = [
            part("A", colour=RED, layer="Hull"),
            part("B", colour=BLUE, layer="Hull"),
            part("C", colour=near, layer="Hull"),
        ]
        told = self.names(*parts)
        self.assertEqual(len(set(told)), 3)
        self.assertTrue(all(name.startswith("Hull, ") for name in told))
        self.assertEqual(sorted(self.names(*parts[::-1])), sorted(told))


if __name__ == "__main__":
    unittest.main()
