"""Failures end as a state with a sentence and a way to try again, and never as content."""

import signal
from pathlib import Path
from typing import Any

import psycopg

from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.facet.step import Facet
from hemp_ladder.core.kernel.shapes import write_shape
from hemp_ladder.core.mend.weld import Weld
from hemp_ladder.work.children import Crew
from hemp_ladder.work.meshing.shelf import Maker, MemoryShelf
from tests.support import AS1, ROOT, FolderCase, HouseCase

DRAWING = ROOT / "demo" / "site-drawing.dxf"


class Chains(FolderCase):
    def test_what_cannot_be_made_is_told_alone_and_the_rest_is_made(self) -> None:
        from demo import shapes

        good, torn = write_shape(shapes.box(1, 2, 3)), write_shape(shapes.sphere(3))[:400]
        wanted = [Chain("good", 6, Facet(chord=0.1, angle=0.5)), Chain("torn", 1, Facet(chord=0.1, angle=0.5))]
        wanted.append(wanted[0].then([Weld(tolerance=50.0)]))
        wanted.append(Chain("gone", 6, Facet(chord=0.2, angle=0.5)))
        made: dict[str, Any] = {}
        failed: dict[Chain, str] = {}
        bodies = {"good": good, "torn": torn}
        with Crew(2) as crew:
            maker = Maker(crew, bodies.__getitem__, lambda chain, meshes: made.update(meshes), failed.__setitem__)
            maker.make(wanted)
            shelf = MemoryShelf(bodies, crew).meshes(wanted[:3])
        self.assertEqual(set(made), {wanted[0].key, wanted[2].key})
        self.assertEqual(set(failed), {wanted[1], wanted[3]})
        self.assertIn("fall together", made[wanted[2].key].figures.refused["weld"])
        self.assertIn("Read its source again", failed[wanted[3]])
        self.assertEqual(set(shelf.failed), {wanted[1].key})


class Houses(HouseCase, FolderCase):
    # What lies in the house is taken away from it, and counted.
    alone = True

    def blob(self, pattern: str) -> Path:
        (found,) = (self.house.folder / "blobs").glob(pattern)
        return found

    def rows(self, statement: str) -> list[tuple[Any, ...]]:
        with psycopg.connect(self.house.environment["HEMP_LADDER_DATABASE"]) as connection:
            return connection.execute(statement).fetchall()

    def test_a_mesh_that_cannot_be_made_is_told_and_tried_again(self) -> None:
        job = self.make_job(AS1)["id"]
        self.ready(job)
        before = self.rows("SELECT count(*) FROM meshes")
        shape = sorted((self.house.folder / "blobs" / "shapes").iterdir())[0]
        away = shape.rename(self.folder / "away")
        self.decide(job, "Finer", facet={"degrees": 7})
        view = self.wait_for(job, lambda view: view["climb"]["failed"])
        view = self.wait_for(job, lambda view: view["climb"]["state"] == "done")
        self.assertEqual((view["climb"]["done"], view["climb"]["failed"], view["climb"]["total"]), (4, 1, 5))
        self.assertEqual(self.rows("SELECT count(*) FROM meshes"), [(before[0][0] + 4,)])
        result = self.http.get(f"/api/jobs/{job}/result").json()
        (lost,) = [part for part in result["parts"] if part["failure"]]
        self.assertIsNone(lost["triangles"])
        self.assertIn("failed-part", [item["code"] for item in result["findings"]])
        # A delivery does not try for an hour what is known to fail, and is not in order without it.
        self.http.post(f"/api/jobs/{job}/deliveries")
        view = self.wait_for(job, lambda view: view["deliveries"] and view["deliveries"][0]["state"] == "done")
        receipt = view["deliveries"][0]["receipt"]
        self.assertIn("parts that could not be made", [c["name"] for c in receipt["checks"] if not c["ok"]])
        away.rename(shape)
        self.http.post(f"/api/jobs/{job}/resume")
        view = self.wait_for(job, lambda view: view["climb"]["state"] == "done" and not view["climb"]["failed"])
        self.assertEqual(view["climb"]["done"], 5)

    def test_what_a_delivery_had_to_make_is_kept(self) -> None:
        job = self.make_job(AS1, name="Stopped")["id"]
        self.ready(job)
        self.decide(job, "Finer", facet={"degrees": 9})
        self.http.post(f"/api/jobs/{job}/cancel")
        self.http.post(f"/api/jobs/{job}/deliveries")
        self.wait_for(job, lambda view: view["deliveries"] and view["deliveries"][0]["state"] == "done")
        self.assertEqual(self.http.get(f"/api/jobs/{job}").json()["climb"]["done"], 5)

    def stopped(self, name: str) -> int:
        """A job of the drawing whose reading was stopped before it began: the worker stands still meanwhile."""
        (worker,) = self.house.workers
        worker.send_signal(signal.SIGSTOP)
        try:
            job: int = self.make_job(DRAWING, name=name)["id"]
            self.http.post(f"/api/jobs/{job}/cancel")
        finally:
            worker.send_signal(signal.SIGCONT)
        self.wait_for(job, lambda view: view["sources"][0]["state"] == "cancelled", 5)
        return job

    def test_a_source_whose_reading_fails_on_our_side_is_told_and_read_again(self) -> None:
        job = self.stopped("Lost")
        digest = self.http.get(f"/api/jobs/{job}").json()["sources"][0]["files"][0]["sha256"]
        blob = self.blob(f"sources/{digest}")
        away = blob.rename(self.folder / "source")
        self.http.post(f"/api/jobs/{job}/resume")
        view = self.wait_for(job, lambda view: view["sources"][0]["state"] == "refused")
        self.assertEqual([item["code"] for item in view["sources"][0]["findings"]], ["reading-failed"])
        away.rename(blob)
        self.http.post(f"/api/jobs/{job}/resume")
        self.wait_for(job, lambda view: view["sources"][0]["state"] == "ready")

    def test_decisions_that_make_no_sense_of_what_was_read_are_told(self) -> None:
        """Accepted while nothing is read, and found to stand on themselves once it is."""
        job = self.stopped("Circle")
        layer = {"by": "layer", "match": "Quay", "height": 1.0, "on": {"by": "layer", "match": "Quay"}}
        self.decide(job, "On itself", receive={"drawn": {"rows": [layer]}})
        self.http.post(f"/api/jobs/{job}/resume")
        view = self.wait_for(job, lambda view: view["sources"][0]["state"] == "ready")
        self.assertEqual(view["climb"]["state"], "failed")
        self.assertIn("stands on itself", view["climb"]["message"])
        answer = self.http.get(f"/api/jobs/{job}/result")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("stands on itself", answer.json()["detail"])
        self.assertEqual(self.http.post(f"/api/jobs/{job}/undo").status_code, 200)
        self.assertEqual(self.ready(job)["climb"]["state"], "done")

    def test_a_remedy_for_a_piece_of_a_cut_part_reaches_the_part(self) -> None:
        job = self.make_job(AS1, name="Cut")["id"]
        self.ready(job)
        polygon = [[-1, -1], [0.05, -1], [0.05, 1], [-1, 1]]
        view = self.decide(job, "Cut", receive={"region": {"polygon": polygon, "cut": True}})
        self.ready(job)
        structure = self.http.get(f"/api/jobs/{job}/structure").json()
        result = self.http.get(f"/api/jobs/{job}/result").json()
        piece = len(structure["parts"])
        self.assertTrue(result["cut_parts"][0]["label"].endswith("(cut 1)"))
        taken = {"label": "Turn it", "does": "flip", "values": {}, "source": "", "parts": [piece]}
        view = self.http.post(f"/api/jobs/{job}/offers", json=taken).json()
        (flipped,) = view["decisions"]["mend"]["flipped"]
        (whole,) = [part for part in structure["parts"] if part["ref"] == flipped]
        self.assertEqual(f"{whole['label']} (cut 1)", result["cut_parts"][0]["label"])
