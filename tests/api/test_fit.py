"""Fit over HTTP: marks that are made when somebody asks, ways that are looked at and taken, measurements that outlive a
revision, lookouts."""

import os
import signal
import time
from pathlib import Path
from typing import Any

import psycopg
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

from tests.support import HouseCase, write_step


def plate(path: Path, hole_at: float) -> Path:
    hole = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(hole_at, 30, 0), gp_Dir(0, 0, 1)), 8, 20).Shape()
    return write_step(BRepAlgoAPI_Cut(BRepPrimAPI_MakeBox(100.0, 60.0, 20.0).Shape(), hole).Shape(), path)


class Fitting(HouseCase):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.one = plate(cls.house.folder / "plate.step", 30)
        cls.two = plate(cls.house.folder / "plate-b.step", 34)

    def setUp(self) -> None:
        self.job = self.make_job(self.one)["id"]
        self.ready(self.job)
        structure = self.http.get(f"/api/jobs/{self.job}/structure").json()
        self.node = next(i for i, part in enumerate(structure["node_parts"]) if part >= 0)

    def marks(self) -> dict[str, Any]:
        for _ in range(200):
            answer = self.http.get(f"/api/jobs/{self.job}/parts/0/marks")
            if answer.status_code == 200:
                tag = answer.headers["etag"]
                again = self.http.get(f"/api/jobs/{self.job}/parts/0/marks", headers={"If-None-Match": tag})
                self.assertEqual(again.status_code, 304)
                told: dict[str, Any] = answer.json()
                return told
            self.assertEqual(answer.status_code, 202)
            time.sleep(0.1)
        self.fail("no marks")

    def spot(self, marks: dict[str, Any], kind: int, *at: float) -> dict[str, Any]:
        places = [tuple(marks["at"][3 * k : 3 * k + 3]) for k in range(len(marks["kind"]))]
        number = next(k for k, place in enumerate(places) if place == at and marks["kind"][k] == kind)
        answer = self.http.post(
            f"/api/jobs/{self.job}/fit/spots", json={"picks": [{"node": self.node, "mark": number}]}
        )
        self.assertEqual(answer.status_code, 200, answer.text)
        (told,) = answer.json()
        return dict(told)

    def way(self, path: str = "", **way: Any) -> Any:
        return self.http.post(f"/api/jobs/{self.job}/fit{path}", json={"way": way, "label": "A way"})

    def test_a_known_length_is_looked_at_then_taken_and_undone(self) -> None:
        marks = self.marks()
        first, second = self.spot(marks, 0, 0, 0, 20), self.spot(marks, 0, 100, 0, 20)
        self.assertEqual((first["said"], second["where"]), ("corner of Part", [0.1, 0, 0.02]))
        ends = {"first": first["spot"], "second": second["spot"]}
        look = self.way("/look", does="true", **ends, length="8' 4\"").json()
        self.assertAlmostEqual(look["factor"], 25.4)
        self.assertEqual(look["unit"], "in")
        self.assertIn("inches and millimetres", look["mistake"])
        self.assertIsNone(look["asked"])
        self.assertIn("larger than a city", self.way("/look", does="true", **ends, length="90 km").json()["asked"])
        refused = self.way(does="true", **ends, length="90 km")
        self.assertEqual((refused.status_code, refused.json()["code"]), (422, "asked-again"))
        self.assertEqual(self.way(does="true", **ends, length="2.54 m", unit="in").status_code, 200)
        result = self.http.get(f"/api/jobs/{self.job}/result").json()
        self.assertAlmostEqual(result["size"][0], 2.54)
        self.assertIsNotNone(result["sources"][0]["before"])
        self.assertEqual(self.http.post(f"/api/jobs/{self.job}/undo").status_code, 200)
        self.assertAlmostEqual(self.http.get(f"/api/jobs/{self.job}/result").json()["size"][0], 0.1)

    def test_absurd_requests_are_answered_with_a_sentence(self) -> None:
        marks = self.marks()
        corner = self.spot(marks, 0, 0, 0, 20)["spot"]
        for way, status in (
            ({"does": "true", "first": corner, "second": corner, "length": 1}, 422),
            ({"does": "true", "first": corner, "second": corner, "length": "1 2 3 x"}, 422),
            ({"does": "lay", "face": corner}, 422),
            ({"does": "nothing"}, 422),
            ({"does": "turn", "degrees": 1e300}, 422),
            ({"does": "ground", "sources": ["nobody"]}, 422),
            ({"does": "lookouts", "order": [7]}, 422),
        ):
            answer = self.way(**way)
            self.assertEqual(answer.status_code, status, answer.text)
            self.assertTrue(answer.json()["detail"])
        for pick in ({"node": 10**6, "mark": 0}, {"node": self.node, "mark": 10**6 - 1}, {"node": self.node}):
            answer = self.http.post(f"/api/jobs/{self.job}/fit/spots", json={"picks": [pick]})
            self.assertEqual(answer.status_code, 422, answer.text)
        self.assertEqual(self.http.get(f"/api/jobs/{self.job}/parts/99/marks").status_code, 404)

    def test_a_measurement_outlives_a_revision_and_says_what_changed(self) -> None:
        marks = self.marks()
        corner, hole = self.spot(marks, 0, 0, 0, 20), self.spot(marks, 2, 30, 30, 20)
        self.assertEqual(hole["said"], "centre of a circle 16.0 mm across of Part")
        self.assertEqual(
            self.way(does="measure", kind="along", axis="x", spots=[corner["spot"], hole["spot"]]).status_code, 200
        )
        (note,) = self.http.get(f"/api/jobs/{self.job}/fit").json()["notes"]
        self.assertEqual((note["value"], note["changed"], note["agrees"]), (0.03, None, True))
        sent = self.upload(self.two)
        ref = self.http.get(f"/api/jobs/{self.job}").json()["sources"][0]["ref"]
        answer = self.http.put(f"/api/jobs/{self.job}/sources/{ref}", json={"files": [sent]})
        self.assertLess(answer.status_code, 300, answer.text)
        self.ready(self.job)
        for _ in range(200):
            (note,) = self.http.get(f"/api/jobs/{self.job}/fit").json()["notes"]
            if note["changed"] is not None:
                break
            time.sleep(0.1)
        self.assertAlmostEqual(note["value"], 0.034)
        self.assertAlmostEqual(note["changed"], 0.03)

    def test_lookouts_go_along_with_what_they_look_at(self) -> None:
        seen = {"eye": [0, -2, 1], "way": [0, 1, 0], "up": [0, 0, 1], "tall": 0.6, "wide": 1.5}
        self.assertEqual(self.way(does="lookout", name="From the quay", seen=seen).status_code, 200)
        self.assertEqual(self.way(does="lookout", name="Above", seen={**seen, "way": [0, 0.1, -1]}).status_code, 200)
        self.assertEqual(self.way(does="turn", axis="z", degrees=90).status_code, 200)
        first, _ = self.http.get(f"/api/jobs/{self.job}/result").json()["lookouts"]
        for found, meant in zip(first["eye"] + first["way"], [2, 0, 1, -1, 0, 0], strict=True):
            self.assertAlmostEqual(found, meant)
        self.assertEqual(self.way(does="lookouts", order=[1, 0], names=["", "Quay"]).status_code, 200)
        names = [item["name"] for item in self.http.get(f"/api/jobs/{self.job}/result").json()["lookouts"]]
        self.assertEqual(names, ["Above", "Quay"])
        straight = {**seen, "way": [0, 0, 1]}
        self.assertEqual(self.way(does="lookout", name="Nowhere", seen=straight).status_code, 422)


class OddSources(HouseCase):
    WAYS: tuple[dict[str, Any], ...] = (
        {"does": "origin", "named": "base centre"}, {"does": "ground"}, {"does": "turn", "axis": "x", "degrees": 33},
        {"does": "mirror"}, {"does": "measure", "kind": "box"}, {"does": "origin", "named": "as received"},
    )  # fmt: skip

    def test_a_flat_sheet_as_large_as_a_continent_and_one_that_was_refused(self) -> None:
        flat, bad = self.house.folder / "flat.obj", self.house.folder / "bad.stl"
        flat.write_text("o Sheet\nv 0 0 0\nv 100000000 0 0\nv 0 100000000 0\nf 1 2 3\n")
        bad.write_bytes(b"solid nothing\nfacet normal 0 0")
        refused = self.make_job(bad)["id"]
        self.wait_for(refused, lambda view: view["sources"][0]["state"] == "refused")
        self.assertEqual(self.http.get(f"/api/jobs/{refused}/fit").status_code, 404)
        job = self.make_job(flat, bad)["id"]
        self.ready(job)
        for way in self.WAYS:
            answer = self.http.post(f"/api/jobs/{job}/fit", json={"way": way, "label": "A way"})
            self.assertEqual(answer.status_code, 200, answer.text)
        told = self.http.get(f"/api/jobs/{job}/fit").json()
        self.assertAlmostEqual(told["notes"][0]["value"], 1e8, delta=1)

    def test_marks_are_asked_of_the_queue_once_however_often_somebody_waits(self) -> None:
        job = self.make_job(plate(self.house.folder / "once.step", 41))["id"]
        self.ready(job)
        for worker in self.house.workers:
            os.killpg(worker.pid, signal.SIGSTOP)
            self.addCleanup(os.killpg, worker.pid, signal.SIGCONT)
        for _ in range(8):
            self.assertEqual(self.http.get(f"/api/jobs/{job}/parts/0/marks").status_code, 202)
        with psycopg.connect(self.house.environment["HEMP_LADDER_DATABASE"]) as connection:
            asked = connection.execute(
                "SELECT count(*) FROM procrastinate_jobs WHERE task_name = 'marks' AND (args->>'job_id')::int = %s",
                (job,),
            ).fetchone()
        self.assertEqual(asked, (1,))
