"""Rules of the job are told by the server: rungs, reasons, colours apart, lengths, units, what is offered."""

import unittest

from hemp_ladder.api.rungs import facet_rung, fit_rung, job_rungs, mend_rung, sort_rung, trim_rung
from hemp_ladder.api.shares import read_share, shipped_share
from hemp_ladder.api.trim_views import LevelView, TrimTold
from hemp_ladder.api.views import ClimbView, SourceView
from hemp_ladder.core.ranges import RANGES
from hemp_ladder.core.sort.apart import LOOSE, colours_apart
from tests.support import AS1, HouseCase

DONE = ClimbView(state="done", done=4, total=4)


def source(state: str, **more: object) -> SourceView:
    return SourceView.model_validate(
        {"ref": "a", "name": "a", "revision": 1, "files": [], "state": state, "stage": "", "count": 0,
         "facts": None, "findings": [], **more}
    )  # fmt: skip


class Rungs(unittest.TestCase):
    def states(self, *sources: SourceView, climb: ClimbView = DONE) -> dict[str, tuple[str, str, str]]:
        told = job_rungs(sources, climb, [], "glb")
        return {name: (rung.state, rung.figure, rung.rest) for name, rung in told.items()}

    def test_receive(self) -> None:
        ready = source("ready", facts={"parts": 1200, "placements": 1})
        self.assertEqual(self.states(ready)["Receive"], ("done", "1,200", "parts, 1 placement"))
        self.assertEqual(self.states(ready, source("refused"))["Receive"], ("person", "refused", "1 of 2"))
        self.assertEqual(self.states(source("refused"))["Receive"], ("person", "refused", ""))
        self.assertEqual(self.states(ready, source("reading", count=7))["Receive"], ("busy", "7", "parts so far"))
        self.assertEqual(self.states(source("cancelled"))["Receive"][:2], ("person", "stopped"))

    def test_ship_and_a_climb_that_makes_no_sense(self) -> None:
        told = self.states(source("ready"), climb=ClimbView(state="failed", done=0, total=0))
        self.assertEqual(told["Ship"], ("notyet", "", "not shipped yet"))
        self.assertEqual(told["Facet"], ("person", "cannot be made", ""))
        self.assertNotIn("Facet", self.states(source("ready")))

    def test_those_between(self) -> None:
        self.assertEqual(fit_rung(["mm", None], ["z", "z"], [1, 2, 3]).state, "person")
        self.assertEqual(fit_rung(["mm", "mm"], ["z", "y"], [1, 2, 3]).rest, "largest, mm")
        self.assertEqual(fit_rung(["mm"], ["z"], [1, 2, 0.5]).rest, "largest, mm, Z up")
        self.assertEqual(facet_rung(DONE, 10, 1).state, "person")
        self.assertEqual(facet_rung(ClimbView(state="working", done=1, total=9), 10, 0).rest, "1 of 9 meshed")
        self.assertEqual(facet_rung(ClimbView(state="cancelled", done=1, total=9), 10, 0).state, "stale")
        self.assertEqual([sort_rung(2, 3).figure, sort_rung(0, 3).figure], ["2 loose ends", "3"])
        self.assertEqual(
            [mend_rung(*told).state for told in ((0, 1, 0), (1, 1, 0), (0, 0, 1))], ["done", "person", "person"]
        )
        level = LevelView(name="light", triangles=9, bytes=9, deviation=0.0, worst=None, lost=0)
        told = [
            TrimTold(before=100), TrimTold(before=100, levels=[level]), TrimTold(before=400), TrimTold(before=400, lost=[3]),
            TrimTold(before=100, over={"draw_calls": 3}),
        ]  # fmt: skip
        rungs = [trim_rung(100, item) for item in told]
        self.assertEqual([rung.state for rung in rungs], ["notyet", "done", "done", "person", "person"])
        self.assertEqual(rungs[1].rest, "nothing trimmed, 1 level beside")
        self.assertEqual([rung.figure for rung in rungs[2:]], ["25 %", "25 %", "over the limit"])
        self.assertEqual(rungs[4].rest, "draw calls")


class Shares(unittest.TestCase):
    def test_they_grow_from_stage_to_stage_and_end_below_one(self) -> None:
        read = [read_share(stage, 0, None) for stage in ("", "reading", "structure", "translating", "parts")]
        self.assertEqual((read, read[0]), (sorted(set(read)), 0.0))
        of_parts = [read_share("parts", count, 40) for count in (0, 10, 40, 99)]
        self.assertEqual((of_parts[0], of_parts[2], of_parts[3]), (read[-1], 1.0, 1.0))
        self.assertAlmostEqual(of_parts[1], 0.7)
        shipped = [shipped_share(stage) for stage in ("", "meshing", "writing", "checking", "storing")]
        self.assertEqual(shipped, sorted(set(shipped)))


class Apart(unittest.TestCase):
    def test_a_dozen_differ_and_none_is_near_a_loose_end(self) -> None:
        told = colours_apart([*(f"m{k}" for k in range(12)), "undecided", "m3"])
        self.assertEqual((len(told), len(set(told.values())), told["undecided"]), (13, 13, LOOSE))
        self.assertEqual(told["m11"], colours_apart(["undecided", *(f"m{k}" for k in range(12))])["m11"])


class Told(HouseCase):
    def test_a_job_tells_how_its_rungs_stand_and_why_parts_wear_what_they_wear(self) -> None:
        job = self.make_job(AS1)["id"]
        self.ready(job)
        result = self.http.get(f"/api/jobs/{job}/result").json()
        self.assertEqual(list(result["rungs"]), ["Fit", "Facet", "Sort", "Mend", "Trim"])
        self.assertEqual(set(self.http.get(f"/api/jobs/{job}").json()["rungs"]), {"Receive", "Ship"})
        self.assertEqual(result["rungs"]["Facet"]["figure"], f"{result['triangles']:,}")
        dressed = {dress["why"] for dress in result["dresses"]}
        told = [item["apart"] for item in result["materials"]]
        self.assertEqual(len(set(told)), len(told))
        self.decide(job, "All gun metal", sort={"rules": [{"by": "name", "match": "*", "material": "gun-metal"}]})
        result = self.http.get(f"/api/jobs/{job}/result").json()
        self.assertEqual({dress["why"] for dress in result["dresses"]} - dressed, {"name “*”"})
        self.assertEqual(result["rule_counts"], [len(result["placements"])])

    def test_lengths(self) -> None:
        def ask(text: str, **more: object) -> dict[str, object]:
            return self.http.get("/api/lengths", params={"text": text, **more}).json()

        self.assertEqual(ask("2m + 35cm"), {"metres": 2.35, "said": "2.35 m", "other": None, "other_said": None})
        self.assertEqual(ask("1,850 m")["other_said"], "1.85 m")
        self.assertEqual(ask("35", bare="mm")["said"], "35.0 mm")
        refused = ask("2 m + 3 banana")
        self.assertEqual((refused["status"], refused["doubt"]), (422, [8, 6]))
        self.assertEqual(ask("1 m", bare="banana")["status"], 422)

    def test_what_is_offered(self) -> None:
        library = self.http.get("/api/library").json()
        self.assertEqual(set(library["ranges"]), set(RANGES))
        for offered in library["ranges"].values():
            self.assertTrue(offered["least"] <= offered["start"] <= offered["most"])
        self.assertEqual(library["axes"][0], "z")
        self.assertIn(library["rule_material"], [item["id"] for item in library["materials"]])
