"""Which rule decides, for parts, placements and single faces."""

import unittest
from fractions import Fraction

import numpy as np

from hemp_ladder.core.bodies import Exact
from hemp_ladder.core.choose.settings import ReceiveSettings
from hemp_ladder.core.choose.take import climb_take
from hemp_ladder.core.fit import FitSettings, climb_fit
from hemp_ladder.core.model import Colour, Model, Node, Part
from hemp_ladder.core.sort import BY_NOTHING, BY_SOURCE, Dress, Rule, Sorted, SortSettings, climb_sort

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
