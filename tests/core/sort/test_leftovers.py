"""What came along and nobody wants: counted by kind, left out by kind; and what is said where nothing enters at all."""

import unittest
from dataclasses import replace
from typing import Any

import numpy as np

from hemp_ladder.core.choose.nothing import why_nothing
from hemp_ladder.core.choose.settings import ReceiveSettings
from hemp_ladder.core.choose.take import Taken, climb_take
from hemp_ladder.core.fit import FitSettings, climb_fit
from hemp_ladder.core.model.bodies import Exact
from hemp_ladder.core.model.model import Lookout, Model, Node, Part, Tags
from hemp_ladder.core.sort.leftovers import TINY, Leftover, dropped, leftovers
from tests.core.sort.test_rules import model, part


def sized(ref: str, side: float, **more: Any) -> Part:
    """A part whose diagonal is so long, in millimetres."""
    return Part(ref, ref, ref, Exact(np.array([[0.0] * 3, [side, 0, 0]]), faces=1), **more)


def quay() -> Model:
    """A bollard and the same once more in its very place; a screw of 3 mm, and as one of 30; a hidden shim; a space."""
    parts = [sized("Bollard", 900), sized("Screw", 3), sized("Shim", 700, layer="Construction"), sized("Room", 5000)]
    nodes = [
        Node("", -1, 0), Node("", -1, 0), Node("", -1, 1), Node("", -1, 1), Node("", -1, 2),
        Node("", -1, 3, tags=Tags(kind="space")), Node("Nothing", -1, -1),
    ]  # fmt: skip
    subject = model(parts, nodes)
    subject.local = np.array(subject.local)
    subject.local[3, :3, :3] *= 10
    subject.local[3, 0, 3] = 4000
    eye = Lookout("Eye", tuple(np.eye(4).ravel().tolist()), 0.6)
    return replace(subject, hidden=["Construction"], leftovers={"curve": 7}, lookouts=[eye])


def taken(subject: Model, settings: ReceiveSettings | None = None) -> Taken:
    return climb_take(climb_fit(subject, FitSettings()), settings or ReceiveSettings())


def found(subject: Taken, **more: Any) -> dict[str, Leftover]:
    return {item.kind: item for item in leftovers(subject, **more)}


class Kinds(unittest.TestCase):
    def setUp(self) -> None:
        self.all = ReceiveSettings()

    def test_each_is_counted_by_itself(self) -> None:
        told = found(taken(quay(), self.all))
        counted = {kind: (item.placements, item.parts, item.left) for kind, item in told.items()}
        self.assertEqual(counted, {
            "hidden layers": (1, (2,), 0), "tiny parts": (1, (1,), 0), "copies in place": (1, (0,), 0), "spaces": (0, (), 1),
            "cameras": (0, (), 1), "curve": (0, (), 7), "empty groups": (0, (), 1),
        })  # fmt: skip

    def test_tiny_is_as_large_as_one_says_and_as_it_stands(self) -> None:
        """The one that is placed ten times as large is a bolt of 30 mm."""
        for tiny, count in ((0.002, 0), (TINY, 1), (0.05, 2), (0.8, 3)):
            item = found(taken(quay(), self.all), tiny=tiny).get("tiny parts")
            self.assertEqual(item.placements if item else 0, count, tiny)

    def test_what_stands_inside_others_where_somebody_looked(self) -> None:
        subject = taken(quay(), self.all)
        self.assertNotIn("inside others", found(subject))
        inside = subject.placements[:1]
        self.assertEqual(found(subject, inside=inside)["inside others"].placements, 1)

    def test_each_goes_out_in_one_move_and_nothing_else(self) -> None:
        for kind, gone in (
            ("hidden layers", [2]), ("tiny parts", [1, 1]), ("copies in place", [0]), ("inside others", [1]),
        ):  # fmt: skip
            before = taken(quay(), self.all)
            inside = before.placements[np.flatnonzero(before.model.columns.part[before.rows] == 1)[:1]]
            settings = dropped(self.all, before, [kind], inside=inside)
            after = taken(quay(), settings)
            left = before.model.columns.part[before.rows].tolist()
            for number in gone:
                left.remove(number)
            self.assertEqual(sorted(after.model.columns.part[after.rows].tolist()), sorted(left), kind)

    def test_a_part_of_which_all_stand_inside_goes_as_a_part(self) -> None:
        before = taken(quay(), self.all)
        inside = before.placements[before.model.columns.part[before.rows] == 1]
        settings = dropped(self.all, before, ["inside others"], inside=inside)
        self.assertEqual([choice.by for choice in settings.choices if choice not in self.all.choices], ["part"])

    def test_spaces_that_were_let_in_go_out_again(self) -> None:
        also = ReceiveSettings.model_validate({**self.all.model_dump(), "also": ["space"]})
        before = taken(quay(), also)
        self.assertEqual((found(before)["spaces"].placements, found(before)["spaces"].left), (1, 0))
        self.assertEqual(dropped(also, before, ["spaces"]).also, frozenset())


class Nothing(unittest.TestCase):
    def test_what_there_is_instead_and_what_to_do(self) -> None:
        nobody = ReceiveSettings.model_validate({"choices": [{"by": "part", "match": "Bollard"}]})
        bollard = model([part("Bollard")], [Node("", -1, 0)])
        empty = model([], [])
        for subject, settings, told, remedy in (
            (bollard, nobody, "Nothing enters: 1 placement is left out by what was chosen.", "Take more"),
            (empty, None, "There is no surface in it.", "Ask for an export"),
            (replace(empty, leftovers={"curve": 3, "point": 0}), None, "There is no surface in it, only 3 curves.", "Ask for the outlines"),
        ):  # fmt: skip
            said, way = why_nothing(taken(subject, settings))
            self.assertEqual(said, told)
            self.assertTrue(way.startswith(remedy), way)


if __name__ == "__main__":
    unittest.main()
