"""Facet over HTTP: settings tried and measured before anything is decided, allowances, and what lookouts show."""

import os
import signal
import time
import unittest
from collections.abc import Callable
from typing import Any

import psycopg

from tests.support import AS1, HOUSE, ROOT, HouseCase

DAVIT, DENSE = ROOT / "demo" / "quay-davit.igs", ROOT / "demo" / "seat-dense.glb"


class Facet(HouseCase):
    def made(self, path: Any) -> int:
        job: int = self.make_job(path)["id"]
        self.ready(job)
        return job

    def result(self, job: int) -> dict[str, Any]:
        self.ready(job)
        answer: dict[str, Any] = self.http.get(f"/api/jobs/{job}/result").json()
        return answer

    def until(self, job: int, way: str, body: dict[str, Any], done: Callable[[dict[str, Any]], bool]) -> dict[str, Any]:
        """Ask again and again, as a board does."""
        for _ in range(1200):
            answer = self.http.post(f"/api/jobs/{job}/facet/{way}", json=body)
            self.assertEqual(answer.status_code, 200, answer.text)
            told: dict[str, Any] = answer.json()
            if done(told):
                return told
            time.sleep(0.1)
        self.fail(f"{way} never ended")

    def spread(self, job: int, **body: Any) -> dict[str, Any]:
        return self.until(job, "allowance", body, lambda told: told["state"] == "done")

    def test_swatches_are_made_and_measured_and_nothing_is_decided(self) -> None:
        job = self.made(AS1)
        before = self.result(job)
        settings = [
            {"chord": {"kind": "absolute", "metres": metres}, "degrees": degrees}
            for metres, degrees in ((0.002, 40), (0.00005, 8))
        ]  # fmt: skip
        round_ = max(range(len(before["parts"])), key=lambda part: before["parts"][part]["triangles"] or 0)
        told = self.until(
            job, "swatches", {"parts": [round_], "settings": settings}, lambda t: all(s["ready"] for s in t["swatches"])
        )  # fmt: skip
        now, coarse, fine = told["swatches"]
        self.assertIsNone(now["setting"])
        self.assertEqual(now["parts"][0]["mesh"], before["parts"][round_]["mesh"])
        self.assertLess(coarse["triangles"], now["triangles"])
        self.assertLess(now["triangles"], fine["triangles"])
        self.assertGreater(coarse["off"], fine["off"])
        for swatch, most in ((coarse, 0.002), (fine, 0.00005)):
            self.assertLessEqual(swatch["off"], most * 1.02)
            self.assertLessEqual(swatch["mean"], swatch["off"])
            self.assertGreater(swatch["samples"], 50)
            self.assertGreater(swatch["bytes"], 0)
        self.assertEqual(coarse["worst"], round_)
        self.assertEqual(self.result(job)["decisions_id"], before["decisions_id"])
        # Used, the mesh is there already: it is the one that was seen.
        exception = {"by": "parts", "parts": [self.refs(job)[round_]], **settings[1]}
        self.patch(job, {"facet": {"exceptions": [exception]}})
        self.assertEqual(self.result(job)["parts"][round_]["mesh"], fine["parts"][0]["mesh"])

    def refs(self, job: int) -> list[str]:
        return [part["ref"] for part in self.http.get(f"/api/jobs/{job}/structure").json()["parts"]]

    def patch(self, job: int, change: dict[str, Any]) -> None:
        answer = self.http.patch(f"/api/jobs/{job}/decisions", json={"patch": change, "label": "test"})
        self.assertEqual(answer.status_code, 200, answer.text)

    def test_a_curve_falls_as_triangles_rise(self) -> None:
        job = self.made(AS1)
        told = self.until(job, "curve", {"parts": []}, lambda t: t["measured"] == t["wanted"])
        points = told["points"]
        self.assertEqual({point["known"] for point in points}, {told["parts"]})
        triangles = [point["triangles"] for point in points]
        self.assertEqual(triangles, sorted(triangles, reverse=True))
        self.assertEqual(triangles[told["now"]], self.result(job)["triangles"])
        self.assertLess(points[0]["off"], points[-1]["off"])
        self.assertIsNotNone(told["knee"])

    def test_an_allowance_is_met_and_never_passed_on_solids_buildings_and_drawings(self) -> None:
        for source, share in ((AS1, 0.6), (HOUSE, 0.8), (DAVIT, 0.5)):
            with self.subTest(source.name):
                job = self.made(source)
                before = self.result(job)
                value = round(before["triangles"] * share)
                allowance = {"by": "count", "value": value}
                told = self.spread(job, allowance=allowance)
                answer = self.http.post(f"/api/jobs/{job}/facet/allowance/use", json={"allowance": allowance})
                self.assertEqual(answer.status_code, 200, answer.text)
                after = self.result(job)
                self.assertEqual(after["triangles"], told["triangles"])
                self.assertLessEqual(after["triangles"], value)
                self.assertGreaterEqual(after["triangles"], 0.98 * value)
                facet = answer.json()["decisions"]["facet"]
                self.assertEqual(facet["allowance"], allowance)
                self.assertEqual({entry["made"] for entry in facet["exceptions"]}, {"allowance"})

    def test_bytes_are_kept_to_and_what_a_person_decided_stays(self) -> None:
        job = self.made(AS1)
        before = self.result(job)
        heavy = max(range(len(before["parts"])), key=lambda part: before["parts"][part]["triangles"] or 0)
        own = {"by": "parts", "parts": [self.refs(job)[heavy]], "chord": {"kind": "absolute", "metres": 0.0001}}
        other = next(part for part in range(5) if part != heavy and before["parts"][part]["triangles"] > 20)
        self.patch(job, {"facet": {"exceptions": [own]}, "sort": {"locked": [self.refs(job)[other]]}})
        told = self.result(job)["parts"]
        kept, locked = told[heavy]["triangles"], told[other]["triangles"]
        wanted = {"by": "bytes", "value": round(self.result(job)["trim"]["costs"]["bytes"] * 0.9)}
        self.spread(job, allowance=wanted)
        self.assertEqual(
            self.http.post(f"/api/jobs/{job}/facet/allowance/use", json={"allowance": wanted}).status_code, 200
        )
        after = self.result(job)
        self.assertEqual((after["parts"][heavy]["triangles"], after["parts"][other]["triangles"]), (kept, locked))
        self.assertLessEqual(after["trim"]["costs"]["bytes"], wanted["value"])
        self.assertGreater(after["trim"]["costs"]["bytes"], 0.9 * wanted["value"])
        # Worked out again: what was worked out before gives way, and no list grows.
        entries = len(self.http.get(f"/api/jobs/{job}").json()["decisions"]["facet"]["exceptions"])
        again = {"by": "bytes", "value": round(wanted["value"] * 0.95)}
        self.spread(job, allowance=again)
        self.http.post(f"/api/jobs/{job}/facet/allowance/use", json={"allowance": again})
        facet = self.http.get(f"/api/jobs/{job}").json()["decisions"]["facet"]
        self.assertEqual(facet["exceptions"][0]["made"], "hand")
        self.assertLess(len(facet["exceptions"]), entries + 6)

    def test_parts_are_as_fine_as_lookouts_show_them(self) -> None:
        job = self.made(AS1)
        before = self.result(job)
        middle = [(low + high) / 2 for low, high in zip(*before["box"], strict=True)]
        way = {"does": "lookout", "name": "Close", "seen": {
            "eye": [middle[0], middle[1] - 0.5, middle[2]], "way": [0, 1, 0], "up": [0, 0, 1], "tall": 0.6, "wide": 1.5,
        }}  # fmt: skip
        answer = self.http.post(f"/api/jobs/{job}/fit", json={"way": way, "label": "Lookout"})
        self.assertEqual(answer.status_code, 200, answer.text)
        results = {}
        for pixels in (0.25, 4.0):
            seen = {"lookouts": ["Close"], "width": 1920, "pixels": pixels, "path": False}
            told = self.until(job, "views", {"seen": seen}, lambda t: t["state"] == "done")
            self.assertEqual(sum(told[name] for name in ("near", "middle", "far", "unseen")), 5)
            self.assertEqual(self.http.post(f"/api/jobs/{job}/facet/views/use", json={"seen": seen}).status_code, 200)
            results[pixels] = self.result(job)["triangles"]
        self.assertLess(results[4.0], results[0.25])
        facet = self.http.get(f"/api/jobs/{job}").json()["decisions"]["facet"]
        self.assertEqual((facet["seen"]["pixels"], {entry["made"] for entry in facet["exceptions"]}), (4.0, {"view"}))
        # What is pinned is worked out no more.
        pinned = [{**entry, "pinned": True} for entry in facet["exceptions"]]
        self.patch(job, {"facet": {"exceptions": pinned}})
        self.assertIn("free", self.until_refused(job, "views", {"seen": facet["seen"]}))
        self.patch(job, {"facet": {"exceptions": [*pinned[:-1], facet["exceptions"][-1]]}})
        told = self.until(job, "views", {"seen": facet["seen"]}, lambda t: t["state"] == "done")
        self.assertEqual(told["fixed"], sum(len(entry["parts"]) for entry in pinned[:-1]))
        # Errors weighed by what is seen: in pixels.
        pixels = self.spread(job, allowance={"by": "count", "value": 20_000}, seen=facet["seen"])
        self.assertTrue(pixels["in_pixels"])

    def test_what_is_in_view_is_made_before_the_rest(self) -> None:
        job = self.made(AS1)
        told = self.http.get(f"/api/jobs/{job}").json()
        parts = self.result(job)["parts"]
        round_ = max(range(len(parts)), key=lambda part: parts[part]["triangles"] or 0)
        decisions = told["decisions"]
        # A setting of this test alone: what others of this house had made is not made again.
        decisions["facet"]["degrees"] = 13.37
        body = {"decisions": decisions, "label": "finer", "base": told["decisions_id"], "first": [round_, 99_999]}
        # Done, a task leaves the queue: nobody takes any for now.
        for worker in self.house.workers:
            os.killpg(worker.pid, signal.SIGSTOP)
            self.addCleanup(os.killpg, worker.pid, signal.SIGCONT)
        self.assertEqual(self.http.put(f"/api/jobs/{job}/decisions", json=body).status_code, 200)
        with psycopg.connect(self.house.environment["HEMP_LADDER_DATABASE"]) as connection:
            rows = connection.execute(
                "SELECT priority, jsonb_array_length(args->'chains') FROM procrastinate_jobs WHERE task_name = 'mesh' "
                "ORDER BY id DESC LIMIT 50"
            ).fetchall()
        self.assertEqual([row for row in rows if row[0] > 0], [(5, 1)], rows)

    def test_what_makes_no_sense_is_said(self) -> None:
        job, meshes = self.made(AS1), self.made(DENSE)
        ask = self.http.post
        for path, body, said in (
            (f"/api/jobs/{meshes}/facet/swatches", {"parts": [], "settings": [{}]}, "came as triangles"),
            (f"/api/jobs/{meshes}/facet/curve", {"parts": []}, "came as triangles"),
            (f"/api/jobs/{job}/facet/views", {"seen": {}}, "no lookout"),
            (f"/api/jobs/{job}/facet/views", {"seen": {"lookouts": ["Moon"]}}, "“Moon”"),
            (f"/api/jobs/{meshes}/facet/allowance", {"allowance": {"by": "count", "value": 10**6}}, "free"),
        ):  # fmt: skip
            answer = ask(path, json=body)
            self.assertEqual(answer.status_code, 422, answer.text)
            self.assertIn(said, answer.json()["title"] + answer.json()["detail"])
        for body in (
            {"parts": [], "settings": [{"chord": {"kind": "absolute", "metres": 0}}]},
            {"parts": [], "settings": [{"chord": {"kind": "absolute", "metres": -1}}]},
            {"parts": [], "settings": [{"chord": {"kind": "absolute", "metres": 1e-10}}]},
            {"parts": [], "settings": []},
        ):
            self.assertEqual(ask(f"/api/jobs/{job}/facet/swatches", json=body).status_code, 422)
        least = self.until_refused(job, "allowance", {"allowance": {"by": "count", "value": 20}})
        self.assertIn("coarsest of everything", least)
        early = {"allowance": {"by": "count", "value": 123_456}}
        answer = ask(f"/api/jobs/{job}/facet/allowance/use", json=early)
        self.assertEqual((answer.status_code, answer.json()["remedy"]), (422, "Work it out first, and use it then."))

    def until_refused(self, job: int, way: str, body: dict[str, Any]) -> str:
        for _ in range(600):
            answer = self.http.post(f"/api/jobs/{job}/facet/{way}", json=body)
            if answer.status_code == 422:
                return str(answer.json()["title"] + answer.json()["detail"])
            time.sleep(0.1)
        self.fail("it was not refused")


if __name__ == "__main__":
    unittest.main()
