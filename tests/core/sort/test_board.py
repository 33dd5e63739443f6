"""The board of rules: what it tells of rules and values, and what giving a material makes of the rules."""

import unittest

from pydantic import ValidationError

from hemp_ladder.core.model.model import Node
from hemp_ladder.core.sort import Rule, SortSettings
from hemp_ladder.core.sort.assign import assigned
from hemp_ladder.core.sort.board import differences, loose_placements, reasons, rules_told, said, values_of
from hemp_ladder.core.sort.guess import guessed, guesses
from hemp_ladder.core.sort.sets import RuleSet, set_of, with_set
from hemp_ladder.core.sort.settings import Within
from tests.core.sort.test_order import climbed
from tests.core.sort.test_rules import BLUE, RED, model, part

SUBJECT = model(
    [part("Bolt", layer="Steel", colour=RED, face_colours={2: BLUE}), part("Nut", layer="Steel"), part("Pane", layer="Glass")],
    [Node("B1", -1, 0), Node("B2", -1, 0), Node("N", -1, 1), Node("P", -1, 2)],
)  # fmt: skip
STEEL = Rule(by="layer", match="Steel", material="galvanised")
BOLTS = Rule(by="name", match="bolt", material="brass")


class Board(unittest.TestCase):
    def told(self, *rules: Rule) -> list[tuple[int, int, int, tuple[tuple[int, int], ...]]]:
        settings = SortSettings(rules=rules)
        told = rules_told(*climbed(settings, SUBJECT), settings, [10, 20, 30])
        return [(item.placements, item.triangles, item.matches, item.shadowed_by) for item in told]

    def test_what_rules_decide_and_what_keeps_them_from_it(self) -> None:
        self.assertEqual(self.told(STEEL, BOLTS), [(3, 40, 3, ()), (0, 0, 2, ((0, 2),))])
        self.assertEqual(self.told(BOLTS, STEEL), [(2, 20, 2, ()), (1, 20, 3, ((0, 2),))])
        self.assertEqual(self.told(Rule(by="layer", match="Tar", material="rubber")), [(0, 0, 0, ())])

    def test_values_with_what_they_wear(self) -> None:
        settings = SortSettings(rules=(BOLTS,))
        taken, sorted_ = climbed(settings, SUBJECT)
        layers = {item.value: item for item in values_of(taken, sorted_, "layer", [10, 20, 30])}
        self.assertEqual((layers["Steel"].placements, layers["Steel"].triangles), (3, 40))
        self.assertEqual(dict(layers["Steel"].worn), {"brass": 2, "undecided": 1})
        self.assertEqual(layers["Steel"].rules, (0,))
        plain = climbed(SortSettings(), SUBJECT)
        colours = {item.value: dict(item.worn) for item in values_of(*plain, "colour", [10, 20, 30])}
        # The face that is blue wears blue, the rest of the part does not.
        self.assertEqual(colours, {"#ff0000": {"source:#ff0000": 2}, "#0000ff": {"source:#0000ff": 2}})
        self.assertEqual([item.value for item in values_of(*plain, "name", [10, 20, 30])], ["Bolt", "Nut", "Pane"])
        self.assertEqual(values_of(*plain, "storey", [10, 20, 30]), [])

    def test_why_a_placement_wears_what_it_does_and_what_other_rules_would_have_said(self) -> None:
        settings = SortSettings(rules=(STEEL, BOLTS, Rule(by="layer", match="Glass", material="clear-glass")))
        dress, found = reasons(*climbed(settings, SUBJECT), settings, 0)
        self.assertEqual(dress.materials, ("galvanised",))
        self.assertEqual(
            [(item.rule, item.material, item.decided) for item in found], [(0, "galvanised", True), (1, "brass", False)]
        )
        with self.assertRaises(KeyError):
            reasons(*climbed(settings, SUBJECT), settings, 99)

    def test_what_if_a_row_were_gone(self) -> None:
        before, after = (climbed(SortSettings(rules=rules), SUBJECT)[1] for rules in ((STEEL, BOLTS), (BOLTS,)))
        self.assertEqual(differences(before, after), [("galvanised", "brass", 2), ("galvanised", "undecided", 1)])
        self.assertEqual((loose_placements(before), loose_placements(after)), (1, 2))

    def test_rules_in_words(self) -> None:
        self.assertEqual(said(Rule(by="name", match=("bolt*", "nut*"), material="x")), "name “bolt*” or “nut*”")
        many = Rule(by="layer", match=tuple("abcde"), material="x", within=Within(storey="Attic", group="East"))
        self.assertEqual(said(many), "layer a or b or c or 2 more, in storey Attic and group East")


class Assigning(unittest.TestCase):
    def given(self, rules: tuple[Rule, ...], values: tuple[str, ...], material: str, deciding: tuple[int, ...] = ()):  # type: ignore[no-untyped-def]
        told = assigned(SortSettings(rules=rules), "layer", values, material, deciding).rules
        return [(rule.by, rule.match, rule.material) for rule in told]

    def test_a_value_makes_or_edits_a_rule(self) -> None:
        self.assertEqual(self.given((), ("Steel",), "brass"), [("layer", ("Steel",), "brass")])
        self.assertEqual(self.given((STEEL,), ("Steel",), "brass", (0,)), [("layer", ("Steel",), "brass")])
        both = Rule(by="layer", match=("Steel", "Glass"), material="galvanised")
        self.assertEqual(
            self.given((both,), ("Glass",), "clear-glass", (0,)),
            [("layer", ("Glass",), "clear-glass"), ("layer", ("Steel",), "galvanised")],
        )
        self.assertEqual(
            self.given((STEEL, Rule(by="layer", match="Glass", material="brass")), ("Glass",), "galvanised", (1,)),
            [("layer", ("Steel", "Glass"), "galvanised")],
        )

    def test_it_is_worn_whatever_decided_before(self) -> None:
        for rules in ((BOLTS, STEEL), (STEEL, BOLTS), (BOLTS,)):
            settings = SortSettings(rules=rules)
            taken, sorted_ = climbed(settings, SUBJECT)
            value = next(item for item in values_of(taken, sorted_, "layer", [1, 1, 1]) if item.value == "Steel")
            after = climbed(assigned(settings, "layer", ("Steel",), "copper", value.rules), SUBJECT)[1]
            worn = [after.dresses[number].materials for number in after.dress_of.tolist()]
            self.assertEqual(worn[:3], [("copper",)] * 3)


class Sets(unittest.TestCase):
    def test_a_set_holds_no_jobs_own_parts_and_together_are_no_more_than_a_job_can_hold(self) -> None:
        mine = Rule(by="part", match="Bolt", material="brass")
        self.assertEqual(set_of(SortSettings(rules=(mine, STEEL))).rules, (STEEL,))
        many = tuple(Rule(by="layer", match=f"L{k}", material="brass") for k in range(15_000))
        self.assertEqual(with_set(SortSettings(rules=(STEEL,)), RuleSet(rules=(STEEL, BOLTS))).rules, (STEEL, BOLTS))
        other = tuple(rule.model_copy(update={"material": "clay"}) for rule in many)
        with self.assertRaises(ValidationError):
            with_set(SortSettings(rules=other), RuleSet(rules=many))


class Guessing(unittest.TestCase):
    def test_words_in_several_languages(self) -> None:
        for name, material in {
            "Eichenholz, geölt": "timber", "FensterGlas": "clear-glass", "vidrio_templado": "clear-glass",
            "Chêne massif": "timber", "A-STEEL-02": "galvanised", "Messingbeschlag": None, "Frame": None, "Glasgow": None,
            "Lantern lens": "lens-glass", "żelazo": "painted-iron", "": None, "Oakley": None,
        }.items():  # fmt: skip
            found = guessed(name)
            self.assertEqual(found and found[0], material, name)

    def test_only_what_no_rule_has_spoken_of(self) -> None:
        taken, sorted_ = climbed(SortSettings(rules=(BOLTS,)), SUBJECT)
        found = guesses("layer", values_of(taken, sorted_, "layer", [1, 1, 1]))
        self.assertEqual([(g.material, g.values, g.placements) for g in found], [("clear-glass", ("Glass",), 1)])
