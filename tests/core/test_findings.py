"""Findings that people trust: each fault gives its own, what is sound gives none, and remedies settle them."""

import unittest
from dataclasses import replace
from fractions import Fraction

import numpy as np

from hemp_ladder.core.climb import plan
from hemp_ladder.core.codes import KINDS
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.findings import Finding, Offer, finding
from hemp_ladder.core.fit import climb_fit
from hemp_ladder.core.model.bodies import Exact
from hemp_ladder.core.model.join import Given, Joined, join
from hemp_ladder.core.model.model import Colour, Model, Node, Part, Tags
from hemp_ladder.core.offers import is_settled, take_offer
from hemp_ladder.core.receive.review import review
from tests.support import DEMO, HOUSE, PUBLIC, REAL_HOUSE, read_kept

RED = Colour.from_hex("#aa0000")


def part(ref: str, **more: object) -> Part:
    box = np.array([[0.0, 0, 0], [2, 3, 4]])
    told = {
        name: more.pop(name) for name in ("faces", "solids", "open_edges", "curves", "points", "turned") if name in more
    }
    values = {"name": ref, "key": ref, "body": Exact(box, **{"faces": 6, **told}), "colour": RED, **more}  # type: ignore[arg-type]
    return Part(label=ref, **values)  # type: ignore[arg-type]


def model(*parts: Part, **more: object) -> Model:
    nodes = [Node(p.name, -1, i) for i, p in enumerate(parts)]
    values = {
        "format": "STEP", "schema": "", "writer": "", "unit": "m", "up": "z", "metres_per_coordinate": Fraction(1),
        "parts": list(parts), "nodes": nodes, "local": np.tile(np.eye(4), (len(nodes), 1, 1)),
        "box": np.array([[0.0, 0, 0], [2, 3, 4]]), **more,
    }  # fmt: skip
    return Model(**values)  # type: ignore[arg-type]


def codes(subject: Model) -> list[str]:
    return [item.code for item in review(subject)]


class Faults(unittest.TestCase):
    def test_a_sound_model_gives_none(self) -> None:
        self.assertEqual(codes(model(part("A"), part("B", layer="L", colour=None))), [])

    def test_each_fault_gives_its_own(self) -> None:
        box = np.array([[0.0, 0, 0], [2, 3, 4]])
        cases: dict[str, Model] = {
            "unit-missing": model(part("A"), unit=None, metres_per_coordinate=Fraction(1, 1000)),
            "unit-doubtful": model(part("A"), box=box * 4000),
            "far-from-origin": model(part("A"), box=box + 2e6),
            "leftovers": model(part("A", curves=3)),
            "hidden-layers": model(part("A", layer="Off"), hidden=["Off"]),
            "unnamed": model(part("A", name=" ")),
            "no-material": model(part("A", colour=None)),
            "coincident-copies": model(part("A", key="k"), part("B", key="k")),
            "open-shell": model(part("A", open_edges=2)),
            "reversed-faces": model(part("A", turned=1)),
            "empty-model": model(part("A", faces=0)),
        }
        for code, subject in cases.items():
            with self.subTest(code):
                found = review(subject)
                self.assertEqual([item.code for item in found], [code])
                self.assertTrue(found[0].message.endswith(".") and found[0].why and found[0].remedy)

    def test_air_and_holes_are_asked_for_and_nothing_else_is_said_of_them(self) -> None:
        subject = model(part("Room", colour=None, name="", open_edges=3), part("A"))
        subject.nodes[0].tags = Tags("space", "IfcSpace")
        self.assertEqual(codes(subject), ["stays-out"])

    def test_equal_shapes_in_places_a_hair_apart_are_no_copies(self) -> None:
        subject = model(part("A", key="k"), part("B", key="k"))
        subject.local[1, 0, 3] = 1e-6
        self.assertEqual(codes(subject), [])

    def test_a_doubtful_unit_is_told_with_the_sizes_that_others_would_give(self) -> None:
        """A model of 12,000 by 16,000 m: in millimetres it would be 16 m."""
        box = np.array([[0.0, 0, 0], [8000, 12_000, 16_000]])
        found = review(model(part("A"), box=box))[0]
        self.assertIn("16.0 m in mm", found.message)
        self.assertIn("160 m in cm", found.message)
        self.assertIn({"unit": "mm"}, [offer.values for offer in found.offers])

    def test_every_kind_has_its_words(self) -> None:
        for code, kind in KINDS.items():
            self.assertIn(kind.severity, ("error", "warning", "note"), code)
            self.assertTrue(kind.why and kind.remedy, code)
            self.assertEqual(finding(code, "x", "y.").code, code)

    def test_what_is_stored_comes_back(self) -> None:
        given = finding(
            "unit-missing", "x", "y.", parts=[1, 2], offers=[Offer("It is mm", "state-unit", {"unit": "mm"})]
        )
        self.assertEqual(Finding.from_dict(given.as_dict()), given)


class Remedies(unittest.TestCase):
    """Taking an offer settles its finding, and changes nothing else."""

    def settle(self, subject: Joined, code: str, which: int | dict[str, str] = 0, source: str = "one") -> Decisions:
        found = next(item for item in self.noticed(subject) if item.code == code and item.source == source)
        offer = found.offers[which] if isinstance(which, int) else next(o for o in found.offers if o.values == which)
        decisions = take_offer(subject, Decisions(), offer, found.source, found.parts)
        self.assertFalse(is_settled(subject, Decisions(), found))
        self.assertTrue(is_settled(subject, decisions, found))
        self.assertEqual(take_offer(subject, decisions, offer, found.source, found.parts), decisions)
        return decisions

    def noticed(self, subject: Joined) -> list[Finding]:
        return [
            replace(item, source=piece.ref, parts=tuple(p + piece.parts.start for p in item.parts))
            for piece in subject.members
            for item in review(piece.model)
        ]

    def alone(self, subject: Model) -> Joined:
        return join([Given("one", "one.step", subject)])

    def test_a_stated_unit(self) -> None:
        subject = self.alone(model(part("A"), unit=None, metres_per_coordinate=Fraction(1, 1000)))
        decisions = self.settle(subject, "unit-missing", which={"unit": "m"})
        self.assertEqual(decisions.fit.sources["one"].unit, "m")
        self.assertEqual(np.ptp(climb_fit(subject, decisions.fit).box(), axis=0).tolist(), [2, 3, 4])

    def test_near_the_origin_alone_moves_the_origin_and_beside_others_the_source(self) -> None:
        far = model(part("A"), box=np.array([[0.0, 0, 0], [2, 3, 4]]) + 2e6)
        far.local[:, :3, 3] = 2e6
        decisions = self.settle(self.alone(far), "far-from-origin")
        self.assertEqual(decisions.fit.datum, (2e6, 2e6, 2e6))
        self.assertEqual(decisions.fit.sources, {})
        both = join([Given("one", "one.step", far), Given("two", "two.step", model(part("B")))])
        decisions = self.settle(both, "far-from-origin")
        self.assertEqual((decisions.fit.datum, decisions.fit.sources["one"].move), ((0, 0, 0), (-2e6, -2e6, -2e6)))
        np.testing.assert_allclose(climb_fit(both, decisions.fit).box(), [[0, 0, 0], [2, 3, 4]], atol=1e-6)

    def test_layers_copies_clay_and_air(self) -> None:
        hidden = self.alone(model(part("A", layer="Off"), part("B"), hidden=["Off"]))
        self.assertEqual(len(plan(hidden, self.settle(hidden, "hidden-layers")).taken.rows), 1)
        twice = self.alone(model(part("A", key="k"), part("B", key="k")))
        self.assertEqual(len(plan(twice, self.settle(twice, "coincident-copies")).taken.rows), 1)
        bare = self.alone(model(part("A", colour=None), part("B")))
        planned = plan(bare, self.settle(bare, "no-material"))
        self.assertEqual(planned.sorted.dresses[planned.sorted.dress_of[0]].materials, ("clay",))
        air = model(part("Room"), part("A"))
        air.nodes[0].tags = Tags("space")
        self.assertEqual(len(plan(self.alone(air), self.settle(self.alone(air), "stays-out")).taken.rows), 2)

    def test_what_nobody_offers_is_refused(self) -> None:
        subject = self.alone(model(part("A")))
        for offer in (
            Offer("x", "format-the-disk", {}),
            Offer("x", "state-unit", {}),
            Offer("x", "chord", {"metres": "no"}),
        ):
            with self.assertRaises((SettingsError, ValueError)):
                take_offer(subject, Decisions(), offer, "one", [0])


class ForeignFiles(unittest.TestCase):
    """Files that nobody here wrote, each looked at by hand: what is noticed is so, and nothing else is noticed."""

    def test_what_is_noticed_is_so(self) -> None:
        known = {
            PUBLIC / "cax-if" / "as1-oc-214.stp": [],
            PUBLIC / "cube-units" / "cube-in.step": [],
            PUBLIC / "cube-10x10mm" / "Cube 10x10.igs": ["unnamed"],
            REAL_HOUSE: ["stays-out", "coincident-copies", "open-shell", "reversed-faces"],
        }
        for path, wanted in known.items():
            found, _ = read_kept(path)
            self.assertEqual(set(codes(found)), set(wanted), path.name)
        for path in (DEMO, HOUSE):
            found, _ = read_kept(path)
            self.assertFalse({"unit-doubtful", "unit-missing", "reversed-faces"} & set(codes(found)))


if __name__ == "__main__":
    unittest.main()
