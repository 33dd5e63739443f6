"""What things are called and which stand together: names by templates, groups, and what cannot be."""

import random
import re
import unittest

import numpy as np
from pydantic import ValidationError

from hemp_ladder.core.choose.settings import ReceiveSettings
from hemp_ladder.core.choose.take import Taken, climb_take
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.fit import FitSettings, climb_fit
from hemp_ladder.core.model.model import Model, Node, Tags
from hemp_ladder.core.sort import Rule, Sorted, SortSettings, climb_sort
from hemp_ladder.core.sort.order.climb import climb_order, placements_named
from hemp_ladder.core.sort.order.groups import Ordered, ordered
from hemp_ladder.core.sort.order.keys import keys_of
from hemp_ladder.core.sort.order.names import renamed, says_nothing
from hemp_ladder.core.sort.order.settings import Gather, Group, OrderSettings, Rename, Whom
from tests.core.sort.test_rules import model, part


def quay() -> Model:
    parts = [part("Solid1", layer="Doors"), part("Lamp", layer="Lights"), part("Body 42")]
    nodes = [
        Node("House", -1, -1), Node("Leaf left", 0, 0, tags=Tags(storey="Ground")), Node("Leaf right", 0, 0),
        Node("Tower", -1, -1), Node("Room", 3, -1), Node("", 4, 1, tags=Tags(storey="Lantern")), Node("", 3, 2),
    ]  # fmt: skip
    return model(parts, nodes)


def climbed(settings: SortSettings, subject: Model | None = None) -> tuple[Taken, Sorted]:
    taken = climb_take(climb_fit(subject or quay(), FitSettings()), ReceiveSettings())
    return taken, climb_sort(taken, settings)


class Names(unittest.TestCase):
    def named(self, *steps: Rename) -> list[str]:
        return placements_named(*climbed(SortSettings()), steps).names

    def test_templates_take_what_placements_have(self) -> None:
        self.assertEqual(self.named(Rename(to="HL_{name}"))[0], "HL_Leaf left")
        self.assertEqual(
            self.named(Rename(to="{layer}-{n}", digits=3)), ["Doors-001", "Doors-002", "Lights-003", "-004"]
        )
        some = Rename(whom=Whom(by="layer", match=("Doors",)), to="Leaf {n}", start=7)
        self.assertEqual(self.named(some)[:3], ["Leaf 7", "Leaf 8", "Lamp"])
        self.assertEqual(self.named(Rename(find="Leaf", to="Door"))[:3], ["Door left", "Door right", "Lamp"])

    def test_patterns_are_as_in_pythons_own_library(self) -> None:
        dice = random.Random(4)
        names = ["".join(dice.choices("abA-_ 01", k=dice.randrange(1, 9))) for _ in range(300)]
        for find, to in ((r"(\w)-(\w)", r"\2+\1"), (r"[0-9]+", "#"), (r"^a|b$", "x"), (r"(?i)a", r"<\g<0>>")):
            told = renamed(
                names, [Rename(find=find, pattern=True, to=to)], lambda _: np.ones(300, bool), {}, range(300)
            )
            for old, new in zip(names, told.names, strict=True):
                meant = " ".join(re.sub(find, to, old).split()) if re.search(find, old) else old
                # What clashed was told apart by a number.
                self.assertTrue(
                    new == (meant or old) or re.fullmatch(re.escape(meant or old) + r" \d+", new), (old, new)
                )

    def test_numbers_of_groups_do_not_run_into_what_stands_behind_them(self) -> None:
        step = Rename(find=r"(\w+) (\w+)", pattern=True, to=r"\2{n}-\1 \\1", digits=3)
        self.assertEqual(self.named(step)[:2], ["left001-Leaf \\1", "right002-Leaf \\1"])

    def test_patterns_that_make_no_sense_or_never_end_are_said(self) -> None:
        with self.assertRaises(ValidationError):
            Rename(find="(", pattern=True, to="x")
        with self.assertRaises(ValidationError):
            Rename(to="{wrong}")
        forever = Rename(find=r"(a|aa)+$", pattern=True, to="x")
        with self.assertRaisesRegex(SettingsError, "too long"):
            renamed(["a" * 80 + "b"] * 50, [forever], lambda _: np.ones(50, bool), {}, range(50))
        with self.assertRaisesRegex(SettingsError, "names a group"):
            renamed(["aa"], [Rename(find="a", pattern=True, to=r"\3")], lambda _: np.ones(1, bool), {}, range(1))

    def test_what_says_something_may_stay(self) -> None:
        self.assertEqual(
            self.named(Rename(to="{layer}", keep_good=True)), ["Leaf left", "Leaf right", "Lamp", "Body 42"]
        )
        for name in ("", "Solid1", "Body 42", "0042", "Körper_3", "1kTvXnbbzCWw8lcMd1dR4o", "part", "Mesh.001"):
            self.assertTrue(says_nothing(name), name)
        for name in ("Lantern", "Door leaf 2", "Sheet pile", "Bodyguard rail", "A"):
            self.assertFalse(says_nothing(name), name)

    def test_what_was_told_apart_stays_so(self) -> None:
        self.assertEqual(self.named(Rename(to="same")), ["same", "same 2", "same 3", "same 4"])
        clash = Rename(whom=Whom(by="name", match=("Lamp",)), to="Leaf left")
        self.assertEqual(self.named(clash)[:3], ["Leaf left", "Leaf right", "Leaf left 2"])
        told = placements_named(*climbed(SortSettings()), [clash])
        self.assertEqual((told.clashes, told.cut), (1, 0))

    def test_names_from_strangers(self) -> None:
        names = ["x" * 10_000, "a/b\\c\"'", "one\ntwo", "\u202eshoof", ""]
        told = renamed(names, [Rename(to="{name}!")], lambda _: np.ones(5, bool), {}, range(5))
        self.assertEqual([len(name) <= 200 and name.isprintable() for name in told.names], [True] * 5)
        self.assertEqual(told.cut, 1)
        self.assertEqual(told.names[1:3], ["a/b\\c\"'!", "one two!"])


class Groups(unittest.TestCase):
    def tree(self, settings: OrderSettings, sort: SortSettings = SortSettings()) -> Ordered:  # noqa: B008
        return ordered(*climbed(sort), settings)

    def paths(self, found: Ordered) -> list[str]:
        def path(at: int) -> str:
            return "" if at < 0 else f"{path(found.groups[at].parent)}/{found.groups[at].name}"

        return [path(at) for at in found.of.tolist()]

    def test_as_it_came(self) -> None:
        self.assertEqual(
            self.paths(self.tree(OrderSettings(groups=(Group(id="g", name="New"),)))),
            ["/House", "/House", "/Tower/Room", "/Tower"],
        )
        self.assertEqual(self.paths(self.tree(OrderSettings(flat=True))), [""] * 4)

    def test_by_what_placements_have_level_in_level(self) -> None:
        rules = (Rule(by="layer", match="Doors", material="timber"), Rule(by="name", match="*", material="brass"))
        found = self.tree(OrderSettings(by=("material", "storey")), SortSettings(rules=rules))
        self.assertEqual(
            self.paths(found),
            ["/Oiled timber/Ground", "/Oiled timber/no storey", "/Polished brass/Lantern", "/Polished brass/no storey"],
        )
        self.assertEqual(
            self.paths(self.tree(OrderSettings(by=("assembly",)))), ["/House", "/House", "/Room", "/Tower"]
        )
        counts = dict(zip([group.name for group in found.groups], found.counts, strict=True))
        self.assertEqual((counts["Oiled timber"], counts["Lantern"]), (2, 1))

    def test_what_moves_together(self) -> None:
        own = OrderSettings(
            groups=(Group(id="own:move", name="Moves"), Group(id="own:leaf", name="Leaf", parent="own:move", pivot=(1, 2, 3))),
            gathered=(Gather(whom=Whom(by="name", match=("Leaf left",)), into="own:leaf"),),
        )  # fmt: skip
        found = self.tree(own)
        self.assertEqual(self.paths(found)[:2], ["/Moves/Leaf", "/House"])
        self.assertEqual([group.pivot for group in found.groups if group.name == "Leaf"], [(1, 2, 3)])
        opened = self.tree(own.model_copy(update={"opened": ("own:leaf",)}))
        self.assertEqual(self.paths(opened)[0], "/Moves")
        refs = {group.name: group.id for group in found.groups}
        under = self.tree(
            own.model_copy(update={"under": {refs["House"]: "own:move"}, "called": {refs["House"]: "Home"}})
        )
        self.assertEqual(self.paths(under)[1], "/Moves/Home")

    def test_single_placements_by_what_decisions_call_them(self) -> None:
        taken, sorted_ = climbed(SortSettings())
        ref = taken.model.node_refs[2]
        found = ordered(taken, sorted_, OrderSettings(
            groups=(Group(id="g", name="G"),), gathered=(Gather(whom=Whom(by="placement", match=(ref,)), into="g"),),
        ))  # fmt: skip
        self.assertEqual(self.paths(found), ["/House", "/G", "/Tower/Room", "/Tower"])

    def test_no_group_stands_in_itself(self) -> None:
        circle = (Group(id="a", name="A", parent="b"), Group(id="b", name="B", parent="a"))
        with self.assertRaisesRegex(SettingsError, "in itself"):
            self.tree(OrderSettings(groups=circle))
        with self.assertRaises(ValidationError):
            OrderSettings(groups=(Group(id="a", name="A"), Group(id="a", name="B")))
        two = self.tree(OrderSettings(groups=(Group(id="a", name="A"), Group(id="b", name="A"))))
        self.assertEqual([group.name for group in two.groups[:2]], ["A", "A"])

    def test_keys_for_joining_meshes(self) -> None:
        settings = SortSettings(order=OrderSettings(
            groups=(Group(id="a", name="A", pivot=(0, 0, 1)), Group(id="b", name="A")),
            gathered=(Gather(whom=Whom(by="layer", match=("Doors",)), into="a"),
                      Gather(whom=Whom(by="name", match=("Lamp",)), into="b")),
        ))  # fmt: skip
        taken, sorted_ = climbed(settings)
        keys, pivots = keys_of(taken.model, sorted_, climb_order(taken, sorted_, settings), "group")
        self.assertEqual(list(keys.values()), ["A", "A", "A 1", "Tower"])
        self.assertEqual(pivots, {"A": (0, 0, 1)})
        self.assertEqual(
            list(keys_of(taken.model, sorted_, climb_order(taken, sorted_, settings), "layer")[0].values()),
            ["Doors", "Doors", "Lights", "no layer"],
        )
