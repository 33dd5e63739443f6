"""Runs of decisions: what they hold, and what becomes of them elsewhere."""

import unittest
from typing import Any

from hemp_ladder.core.again import Run, done_again, run_of
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.fit.settings import CameraRef, OwnLookout
from hemp_ladder.core.locks import refuse_locked


def decided(**sections: Any) -> Decisions:
    return Decisions.model_validate(sections)


def again(now: Decisions, run: Run, on: list[str] | None = None, sources: tuple[str, ...] = ("quay",)) -> Decisions:
    return done_again(now, Run.model_validate(run.model_dump(mode="json")), on, [], sources).decisions


class Again(unittest.TestCase):
    def test_what_a_run_changed_comes_back_exactly(self) -> None:
        before = decided(sort={"rules": [{"by": "layer", "match": ["Old"], "material": "oak"}]})
        after = decided(
            facet={"degrees": 12, "exceptions": [{"by": "layer", "match": "Rails", "degrees": 5}]},
            sort={
                "rules": [{"by": "layer", "match": ["New"], "material": "brass"}],
                "order": {"by": ["material"], "called": {"by:brass": "Brass"}},
                "replaced": {"oak": "pine"},
            },
            fit={"sources": {"quay": {"unit": "mm"}}},
            mend={"flipped": ["Rail"]},
            ship={"target": {"format": "obj", "plain_names": True, "group": "one"}},
        )
        self.assertEqual(again(before, run_of(before, after)), after)
        with self.assertRaises(SettingsError):
            run_of(before, before)

    def test_done_twice_it_is_done_once(self) -> None:
        after = decided(facet={"exceptions": [{"by": "parts", "parts": ["Rail"], "degrees": 5}]})
        run = run_of(Decisions(), after)
        self.assertEqual(again(after, run), after)

    def test_on_other_parts_only_whom_it_is_for_changes(self) -> None:
        after = decided(
            facet={"exceptions": [{"by": "parts", "parts": ["Rail"], "degrees": 5}]},
            receive={"choices": [{"by": "part", "match": "Rail"}]},
            sort={
                "names": [{"whom": {"by": "placement", "match": ["Rail 1"]}, "to": "R_{n}"}],
                "rules": [{"by": "layer", "match": ["Rails"], "material": "brass"}],
            },
            mend={"turned": [{"part": "Rail", "at": [0, 0, 0]}], "flipped": ["Rail"]},
        )
        done = done_again(Decisions(), run_of(Decisions(), after), ["Post", "Cap"], [], ["quay"])
        told = done.decisions
        self.assertEqual(told.facet.exceptions[0].parts, ("Post", "Cap"))
        self.assertEqual([choice.match for choice in told.receive.choices], ["Post", "Cap"])
        self.assertEqual((told.sort.names[0].whom.by, told.sort.names[0].whom.match), ("part", ("Post", "Cap")))
        self.assertEqual(told.sort.rules[0].match, ("Rails",))
        self.assertEqual(told.mend.flipped, {"Post", "Cap"})
        # What was turned by hand is a spot on one shape.
        self.assertEqual((told.mend.turned, done.left_out), ((), 1))

    def test_what_speaks_of_a_source_stays_where_there_is_that_source(self) -> None:
        after = decided(
            fit={"sources": {"quay": {"unit": "mm"}}},
            sort={"rules": [{"by": "layer", "match": ["A"], "material": "oak", "within": {"source": "quay"}}]},
        )
        done = done_again(Decisions(), run_of(Decisions(), after), None, [], ["shed"])
        self.assertEqual((done.decisions, done.left_out), (Decisions(), 2))

    def test_lookouts_come_beside_the_cameras_of_sources_of_which_nobody_decided(self) -> None:
        east, west = ({"name": name, "source": "quay", "matrix": [0] * 16} for name in ("East", "West"))
        run = run_of(decided(fit={"lookouts": [east]}), decided(fit={"lookouts": [east, west]}))
        camera = OwnLookout(name="Pier", camera=CameraRef(source="quay", number=0))
        told = done_again(Decisions(), run, None, [], ["quay"], [camera]).decisions.fit.lookouts
        self.assertEqual([item.name for item in told or ()], ["Pier", "West"])
        self.assertEqual([item.name for item in again(Decisions(), run).fit.lookouts or ()], ["West"])
        gone = done_again(decided(fit={"lookouts": []}), run, None, [], ["quay"], [camera]).decisions.fit.lookouts
        self.assertEqual([item.name for item in gone or ()], ["West"])

    def test_entries_known_by_an_id_or_a_name_take_the_place_of_their_like(self) -> None:
        group = {"id": "own:1", "name": "Door"}
        run = run_of(Decisions(), decided(sort={"order": {"groups": [group]}}))
        there = decided(sort={"order": {"groups": [{"id": "own:1", "name": "Gate"}, {"id": "own:2", "name": "Lid"}]}})
        names = [item.name for item in again(there, run).sort.order.groups]
        self.assertEqual(sorted(names), ["Door", "Lid"])

    def test_what_makes_no_sense_is_told(self) -> None:
        change = {"path": ["facet", "degrees"], "does": "set", "value": -7}
        with self.assertRaises(SettingsError):
            again(Decisions(), Run.model_validate({"changes": [change]}))
        for path in (["nowhere", "degrees"], ["facet", "degrees", "more"]):
            with self.assertRaises(SettingsError):
                again(Decisions(), Run.model_validate({"changes": [{**change, "path": path}]}))


class Locks(unittest.TestCase):
    def refused(self, before: dict[str, Any], after: dict[str, Any]) -> bool:
        sort = {"locked": ["Rail"]}
        try:
            refuse_locked(
                decided(**before, **({} if "sort" in before else {"sort": sort})),
                decided(**after, **({} if "sort" in after else {"sort": sort})),
            )
        except SettingsError:
            return True
        return False

    def test_whatever_names_it_is_refused(self) -> None:
        for after in (
            {"mend": {"flipped": ["Rail"]}},
            {"receive": {"choices": [{"by": "part", "match": "Rail"}]}},
            {"facet": {"exceptions": [{"by": "parts", "parts": ["Post", "Rail"], "degrees": 5}]}},
            {"sort": {"locked": ["Rail"], "rules": [{"by": "part", "match": ["Rail"], "material": "oak"}]}},
            {"sort": {"locked": ["Rail"], "names": [{"whom": {"by": "part", "match": ["Rail"]}, "to": "x"}]}},
            {"mend": {"joined": [{"parts": ["Rail", "Post"], "name": "Both"}]}},
        ):
            self.assertTrue(self.refused({}, after), after)
            self.assertTrue(self.refused(after, {}), after)

    def test_others_are_free_and_so_is_what_is_unlocked_at_once(self) -> None:
        entry = {"by": "parts", "parts": ["Rail"], "degrees": 5}
        more = {"by": "parts", "parts": ["Rail", "Post"], "degrees": 5}
        self.assertFalse(self.refused({"facet": {"exceptions": [entry]}}, {"facet": {"exceptions": [more]}}))
        self.assertFalse(self.refused({}, {"mend": {"flipped": ["Post"]}}))
        self.assertFalse(self.refused({}, {"sort": {"locked": []}, "mend": {"flipped": ["Rail"]}}))
        selection = {"name": "Rails", "parts": ["Rail"]}
        self.assertFalse(self.refused({}, {"sort": {"locked": ["Rail"], "selections": [selection]}}))


if __name__ == "__main__":
    unittest.main()
