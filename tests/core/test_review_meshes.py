"""What is noticed about triangles: dense parts, faces that failed, surfaces that face inward, walls too thin."""

import unittest
from dataclasses import dataclass, field

from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.drawn.solid import Solid
from hemp_ladder.core.facet import MeshRequest
from hemp_ladder.core.facet.review import DENSE_TRIANGLES, review_meshes
from hemp_ladder.core.findings import Finding, Offer
from hemp_ladder.core.fit import FitSettings, climb_fit
from hemp_ladder.core.join import Given, Joined, join
from hemp_ladder.core.model import Cut, Drawn
from hemp_ladder.core.offers import is_settled, take_offer
from tests.core.test_findings import model, part


@dataclass
class Figures:
    count: int = 12
    failed_count: int = 0
    watertight: bool = True
    inside_out: bool = False
    thin: list[tuple[float, float, float]] = field(default_factory=list)


def request(key: str, solid: Solid | None = None) -> MeshRequest:
    return MeshRequest(key, key, 0.01, 0.3, 6, None, solid)


class Noticed(unittest.TestCase):
    def review(
        self, figures: list[Figures | None], solids: list[Solid | None] | None = None, times: list[int] | None = None,
        flipped: list[bool] | None = None, **more: object,
    ) -> list[Finding]:  # fmt: skip
        subject = model(*(part(f"P{k}", **more) for k in range(len(figures))))
        fitted = climb_fit(subject, FitSettings())
        asked = [request(str(k), solid) for k, solid in enumerate(solids or [None] * len(figures))]
        meshes = {str(k): item for k, item in enumerate(figures) if item is not None}
        return review_meshes(fitted, asked, flipped or [False] * len(figures), meshes, times or [1] * len(figures))

    def test_sound_meshes_give_none(self) -> None:
        self.assertEqual(self.review([Figures(), Figures(watertight=False, inside_out=True), None]), [])

    def test_faces_and_parts_that_failed(self) -> None:
        found = self.review([Figures(0), Figures(9, 1), Figures(9, 3)])
        self.assertEqual([item.code for item in found], ["failed-part", "failed-face", "failed-face"])
        self.assertIn("1 face of 6 could", found[1].message)
        self.assertIn("3 faces of 6 could", found[2].message)

    def test_what_a_polygon_or_other_shapes_leave_nothing_of_did_not_fail(self) -> None:
        self.assertEqual(self.review([Figures(0)], cut=Cut("P0", (0, 0, 0), None)), [])
        self.assertEqual(self.review([Figures(0)], drawn=Drawn()), [])
        self.assertEqual([item.code for item in self.review([Figures(0, 2)], drawn=Drawn())], ["failed-part"])

    def test_inside_out_counts_after_a_flip(self) -> None:
        inward = Figures(inside_out=True)
        self.assertEqual([item.code for item in self.review([inward])], ["inside-out"])
        self.assertEqual(self.review([inward], flipped=[True]), [])
        self.assertEqual([item.code for item in self.review([Figures()], flipped=[True])], ["inside-out"])

    def test_a_dense_part_is_one_of_several_and_has_its_share(self) -> None:
        heavy = Figures(DENSE_TRIANGLES + 1)
        light = [Figures(1000) for _ in range(3)]
        (found,) = self.review([heavy, *light])
        self.assertEqual((found.code, found.parts), ("dense-part", (0,)))
        self.assertIn("250,001 triangles", found.message)
        # Few placements, few parts, a small share, or not all of it there: no finding.
        self.assertEqual(self.review([heavy, *light], times=[0, 1, 1, 1]), [])
        self.assertEqual(self.review([heavy, *light[:2]]), [])
        self.assertEqual(self.review([heavy, *[Figures(240_000)] * 4]), [])
        self.assertEqual(self.review([heavy, None, *light]), [])
        # Placements count together.
        self.assertEqual(len(self.review([Figures(50_001), *light], times=[5, 1, 1, 1])), 1)

    def test_all_thin_walls_are_one_finding_with_the_thinnest(self) -> None:
        solid = Solid(height=1.0, nozzle=0.0004)
        thin = [Figures(thin=[(0, 0, 0.0003), (1, 0, 0.00021)]), Figures(thin=[(0, 0, 0.00035)]), Figures()]
        (found,) = self.review(thin, [solid] * 3)
        self.assertEqual((found.code, found.parts), ("thin-wall", (0, 1)))
        for word in ("3 places are thinner than 0.40 mm", "the thinnest 0.21 mm", "P0", "P1"):
            self.assertIn(word, found.message)
        (one,) = self.review([thin[1]], [solid])
        self.assertIn("1 place is", one.message)
        # What does not enter is not told.
        self.assertEqual(self.review([thin[1]], [solid], times=[0]), [])


class Remedies(unittest.TestCase):
    """What taking an offer about triangles and outlines decides, and that it then counts as settled."""

    def take(self, offer: Offer, parts: tuple[int, ...] = (0,)) -> Decisions:
        subject = self.subject()
        decided = take_offer(subject, Decisions(), offer, "one", parts)
        found = Finding("dense-part", "note", "P0", "m", "r", source="one", parts=parts, offers=(offer,))
        self.assertFalse(is_settled(subject, Decisions(), found))
        self.assertTrue(is_settled(subject, decided, found))
        return decided

    def subject(self) -> Joined:
        return join([Given("one", "one.step", model(part("A"), part("B")))])

    def test_a_chord_error_of_its_own(self) -> None:
        decided = self.take(Offer("x", "chord", {"metres": 0.002}), (0, 1))
        self.assertEqual({ref: own.chord.metres for ref, own in decided.facet.parts.items()}, {"A": 0.002, "B": 0.002})  # type: ignore[union-attr]

    def test_a_part_turned_over(self) -> None:
        self.assertEqual(self.take(Offer("x", "flip"), (1,)).mend.flipped, {"B"})

    def test_plain_clay_for_each_once(self) -> None:
        rules = self.take(Offer("x", "material", {"material": "clay"}), (0, 0, 1)).sort.rules
        self.assertEqual([(rule.match, rule.material) for rule in rules], [("A", "clay"), ("B", "clay")])

    def test_gaps_closed_at_least_so_far_and_walls_made_wide(self) -> None:
        decided = self.take(Offer("x", "close-gaps", {"metres": 0.01}))
        self.assertEqual(decided.receive.drawn.close, 0.01)
        again = take_offer(self.subject(), decided, Offer("x", "close-gaps", {"metres": 0.001}), "one", [0])
        self.assertEqual(again.receive.drawn.close, 0.01)
        self.assertTrue(self.take(Offer("x", "thicken")).receive.drawn.thicken)


if __name__ == "__main__":
    unittest.main()
