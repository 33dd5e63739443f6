"""What is noticed about triangles: dense parts, faces that failed, surfaces that face inward, walls too thin."""

import unittest
from typing import Any

from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.drawn.solid import Solid
from hemp_ladder.core.drawn.step import Solidify
from hemp_ladder.core.facet.review import DENSE_TRIANGLES, review_meshes
from hemp_ladder.core.facet.step import Facet
from hemp_ladder.core.findings import Finding, Offer
from hemp_ladder.core.fit import FitSettings, climb_fit
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.model.bodies import NOWHERE, Drawn
from hemp_ladder.core.model.join import Given, Joined, join
from hemp_ladder.core.model.model import Cut
from hemp_ladder.core.offers import is_settled, take_offer
from tests.core.test_findings import model, part


def figures(
    triangles: int = 12, failed: int = 0, watertight: bool = True, inside_out: bool = False, thin: Any = ()
) -> Figures:
    return Figures(
        triangles, open_edges=0 if watertight else 3, inside_out=inside_out, failed=tuple(range(failed)), thin=thin
    )


def chain(key: str, solid: Solid | None = None) -> Chain:
    """Its key is not its part's: the chains of a job are asked for theirs."""
    return Chain(key, 6, Solidify(chord=0.01, angle=0.3, solid=solid) if solid else Facet(chord=0.01, angle=0.3))


class Noticed(unittest.TestCase):
    def review(
        self, known: list[Figures | None], solids: list[Solid | None] | None = None, times: list[int] | None = None,
        flipped: list[bool] | None = None, **more: object,
    ) -> list[Finding]:  # fmt: skip
        subject = model(*(part(f"P{k}", **more) for k in range(len(known))))
        fitted = climb_fit(subject, FitSettings())
        asked = [chain(str(k), solid) for k, solid in enumerate(solids or [None] * len(known))]
        meshes = {asked[k].key: item for k, item in enumerate(known) if item is not None}
        return review_meshes(fitted, asked, flipped or [False] * len(known), meshes, times or [1] * len(known))

    def test_sound_meshes_give_none(self) -> None:
        self.assertEqual(self.review([figures(), figures(watertight=False, inside_out=True), None]), [])

    def test_faces_and_parts_that_failed(self) -> None:
        found = self.review([figures(0), figures(9, 1), figures(9, 3)])
        self.assertEqual([item.code for item in found], ["failed-part", "failed-face", "failed-face"])
        self.assertIn("1 face of 6 could", found[1].message)
        self.assertIn("3 faces of 6 could", found[2].message)

    def test_what_a_polygon_or_other_shapes_leave_nothing_of_did_not_fail(self) -> None:
        self.assertEqual(self.review([figures(0)], cut=Cut("P0", (0, 0, 0), None)), [])
        self.assertEqual(self.review([figures(0)], body=Drawn(NOWHERE)), [])
        self.assertEqual([item.code for item in self.review([figures(0, 2)], body=Drawn(NOWHERE))], ["failed-part"])

    def test_inside_out_counts_after_a_flip(self) -> None:
        inward = figures(inside_out=True)
        self.assertEqual([item.code for item in self.review([inward])], ["inside-out"])
        self.assertEqual(self.review([inward], flipped=[True]), [])
        self.assertEqual([item.code for item in self.review([figures()], flipped=[True])], ["inside-out"])

    def test_a_dense_part_is_one_of_several_and_has_its_share(self) -> None:
        heavy = figures(DENSE_TRIANGLES + 1)
        light = [figures(1000) for _ in range(3)]
        (found,) = self.review([heavy, *light])
        self.assertEqual((found.code, found.parts), ("dense-part", (0,)))
        self.assertIn("250,001 triangles", found.message)
        # Few placements, few parts, a small share, or not all of it there: no finding.
        self.assertEqual(self.review([heavy, *light], times=[0, 1, 1, 1]), [])
        self.assertEqual(self.review([heavy, *light[:2]]), [])
        self.assertEqual(self.review([heavy, *[figures(240_000)] * 4]), [])
        self.assertEqual(self.review([heavy, None, *light]), [])
        # Placements count together.
        self.assertEqual(len(self.review([figures(50_001), *light], times=[5, 1, 1, 1])), 1)

    def test_all_thin_walls_are_one_finding_with_the_thinnest(self) -> None:
        solid = Solid(height=1.0, nozzle=0.0004)
        thin = [figures(thin=((0, 0, 0.0003), (1, 0, 0.00021))), figures(thin=((0, 0, 0.00035),)), figures()]
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
        self.assertEqual(
            [(entry.parts, entry.chord.metres) for entry in decided.facet.exceptions],  # type: ignore[union-attr]
            [(("A", "B"), 0.002)],
        )

    def test_a_part_turned_over(self) -> None:
        self.assertEqual(self.take(Offer("x", "flip"), (1,)).mend.flipped, {"B"})

    def test_plain_clay_for_each_once(self) -> None:
        rules = self.take(Offer("x", "material", {"material": "clay"}), (0, 0, 1)).sort.rules
        self.assertEqual([(rule.match, rule.material) for rule in rules], [(("A", "B"), "clay")])

    def test_gaps_closed_at_least_so_far_and_walls_made_wide(self) -> None:
        decided = self.take(Offer("x", "close-gaps", {"metres": 0.01}))
        self.assertEqual(decided.receive.drawn.close, 0.01)
        again = take_offer(self.subject(), decided, Offer("x", "close-gaps", {"metres": 0.001}), "one", [0])
        self.assertEqual(again.receive.drawn.close, 0.01)
        self.assertTrue(self.take(Offer("x", "thicken")).receive.drawn.thicken)


if __name__ == "__main__":
    unittest.main()
