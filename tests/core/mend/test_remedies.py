"""Findings of damage: what each remedy decides, and all safe ones together."""

import unittest
from dataclasses import replace
from typing import Any

from hemp_ladder.core.chain.came import write_meshed
from hemp_ladder.core.climb import climb
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.facet.review import review_meshes
from hemp_ladder.core.findings import Finding
from hemp_ladder.core.keys import content_key
from hemp_ladder.core.mend.review import FAULTS, review_mend
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.bodies import Meshed
from hemp_ladder.core.model.join import Given, Joined, join
from hemp_ladder.core.model.model import Part
from hemp_ladder.core.offers import is_settled, take_offer, take_safe
from tests.core.mend import meshes
from tests.core.test_references import model
from tests.support import FollowedHere


def subject(**given: Mesh) -> tuple[Joined, FollowedHere]:
    """A model with these meshes as its parts."""
    bodies, parts = {}, []
    for name, mesh in given.items():
        body = write_meshed(mesh.positions, mesh.triangles)
        key = content_key(body)
        bodies[key] = body
        box = mesh.positions.min(axis=0), mesh.positions.max(axis=0)
        parts.append(Part(name, name, key, Meshed(meshes.np.array(box), triangles=len(mesh.triangles))))
    made = model(*[("Group", name, "k") for name in given])
    return join([Given("one", "one.stl", replace(made, parts=parts))]), FollowedHere(bodies)


class Remedies(unittest.TestCase):
    def setUp(self) -> None:
        cube, ball = meshes.box(), meshes.ball()
        self.model, self.shelf = subject(
            doubled=meshes.also(ball, ball.triangles[:4]), bitten=meshes.without(ball, [7]), sound=cube,
            pair=meshes.together(cube, meshes.box(at=(3, 0, 0)).flipped()),
            through=meshes.together(cube, meshes.box(at=(0.5, 0.3, 0.2))), over=meshes.soup(ball).flipped(),
        )  # fmt: skip

    def noticed(self, decisions: Decisions) -> list[Finding]:
        result = climb(self.model, decisions, self.shelf)
        told = (result.fitted, result.chains, result.flipped, result.figures, result.times)
        return [*review_meshes(*told), *review_mend(result.fitted, result.chains, result.figures, result.times)]

    def codes(self, decisions: Decisions) -> dict[str, tuple[int, ...]]:
        return {item.code: item.parts for item in self.noticed(decisions)}

    def test_every_kind_is_one_finding_with_the_parts_that_have_it(self) -> None:
        found = self.codes(Decisions())
        wanted = {"duplicate-triangles": (0,), "over-shared": (0,), "holes": (1,), "inward-shells": (3,),
                  "crossing-triangles": (4,), "inside-out": (5,), "no-normals": (0, 1, 2, 3, 4, 5)}  # fmt: skip
        self.assertEqual(found, wanted)

    def test_each_remedy_puts_its_own_kind_right_and_settles_its_finding(self) -> None:
        for item in self.noticed(Decisions()):
            with self.subTest(item.code):
                (offer,) = item.offers
                decided = take_offer(self.model, Decisions(), offer, item.source, item.parts)
                self.assertTrue(is_settled(self.model, decided, item))
                self.assertNotIn(item.code, self.codes(decided))

    def test_remedies_taken_one_after_the_other_add_up(self) -> None:
        decisions = Decisions()
        for _ in range(8):
            left = self.noticed(decisions)
            if not left:
                break
            decisions = take_offer(self.model, decisions, left[0].offers[0], left[0].source, left[0].parts)
        self.assertEqual(self.noticed(decisions), [])
        result = climb(self.model, decisions, self.shelf)
        self.assertTrue(all(mesh.figures.watertight for i in result.fitted_parts if (mesh := result.mesh_of(i))))

    def test_all_safe_ones_together_say_which_they_were_and_leave_the_rest(self) -> None:
        decided, taken = take_safe(self.model, Decisions(), self.noticed(Decisions()))
        self.assertEqual({item.code for item, _ in taken}, {"duplicate-triangles", "inward-shells", "inside-out"})
        self.assertEqual(set(self.codes(decided)), {"holes", "crossing-triangles", "no-normals"})
        self.assertEqual(take_safe(self.model, decided, self.noticed(decided)), (decided, []))

    def test_what_can_have_been_meant_is_not_safe(self) -> None:
        safe = {fault.code for fault in FAULTS if fault.safe}
        self.assertFalse(safe & {"holes", "crossing-triangles", "over-shared", "no-normals"})

    def test_what_could_not_be_done_is_told_and_the_mesh_before_it_stays(self) -> None:
        wide: dict[str, Any] = {"steps": [{"does": "weld", "tolerance": 50.0}]}
        told = [item for item in self.noticed(Decisions.model_validate({"mend": wide})) if item.code == "not-done"]
        self.assertEqual(len(told), 1)
        self.assertEqual(len(told[0].parts), 6)
        self.assertIn("fall together", told[0].message)


if __name__ == "__main__":
    unittest.main()
