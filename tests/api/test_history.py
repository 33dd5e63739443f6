"""The history of a job: what stands in it, and going back to any of it."""

from tests.support import AS1, DAVIT, HouseCase


class History(HouseCase):
    def lines(self, job: int) -> list[dict[str, object]]:
        told = self.http.get(f"/api/jobs/{job}/history")
        self.assertEqual(told.status_code, 200, told.text)
        return list(told.json())

    def test_decisions_are_told_in_words_and_gone_back_to_from_anywhere(self) -> None:
        job = self.make_job(AS1)["id"]
        self.ready(job)
        first = self.decide(job, "Inches", fit={"unit": "in"})["decisions_id"]
        self.http.post(f"/api/jobs/{job}/undo")
        self.decide(job, "Up", fit={"up": "y"})
        lines = self.lines(job)
        self.assertEqual(
            [(line["label"], line["standing"], line["now"]) for line in lines if line["kind"] == "decision"],
            [("Up", True, True), ("Inches", False, False), ("Start", True, False)],
        )
        self.assertEqual(lines[0]["changes"], ["Fit: up axis set to y"])
        # What was undone and then passed over by another decision is reached too, and undo goes on from there.
        back = self.http.post(f"/api/jobs/{job}/history/decisions/{first}").json()
        self.assertEqual((back["decisions"]["fit"]["unit"], back["decisions"]["fit"]["up"]), ("in", None))
        self.assertEqual(self.http.post(f"/api/jobs/{job}/undo").json()["decisions"]["fit"]["unit"], None)
        other = self.make_job(AS1)["id"]
        self.assertEqual(self.http.post(f"/api/jobs/{other}/history/decisions/{first}").status_code, 404)

    def test_of_a_movement_its_end_stands(self) -> None:
        job = self.make_job(AS1)["id"]
        self.ready(job)
        last = None
        for metres in (1e-3, 2e-3, 3e-3):
            chord = {"kind": "absolute", "metres": metres}
            last = self.decide(job, "Chord error", last, facet={"chord": chord})["decisions_id"]
        lines = [line for line in self.lines(job) if line["kind"] == "decision"]
        self.assertEqual([line["label"] for line in lines], ["Chord error", "Start"])
        self.assertEqual(lines[0]["changes"], ["Facet: chord error from 0.50 mm to 3.00 mm"])

    def test_sources_stand_in_it_and_an_earlier_revision_is_had_again(self) -> None:
        job = self.make_job(AS1)["id"]
        view = self.ready(job)
        ref = view["sources"][0]["ref"]
        taken = self.http.put(f"/api/jobs/{job}/sources/{ref}", json={"files": [self.upload(DAVIT)]})
        self.assertEqual(taken.status_code, 200, taken.text)
        self.wait_for(job, lambda v: v["sources"][0]["state"] == "ready" and v["sources"][0]["name"] == DAVIT.name)
        lines = [line for line in self.lines(job) if line["kind"] == "source"]
        self.assertEqual(
            [(line["label"], line["now"]) for line in lines],
            [(f"{DAVIT.name} in place of an earlier {ref}", True), (f"{AS1.name} added", False)],
        )
        again = self.http.post(f"/api/jobs/{job}/history/sources/{lines[1]['id']}")
        self.assertEqual(again.status_code, 200, again.text)
        view = self.wait_for(job, lambda v: v["sources"][0]["state"] == "ready" and v["sources"][0]["name"] == AS1.name)
        self.assertEqual((len(view["sources"]), view["sources"][0]["facts"]["parts"]), (1, 5))
        self.assertEqual(self.http.post(f"/api/jobs/{job}/history/sources/999999").status_code, 404)
