"""Mend over HTTP: studies that are made when they are asked for, what is done by pointing, safe remedies at once."""

import base64
import time
import unittest
from typing import Any

import numpy as np

from demo import soup
from tests.support import ROOT, HouseCase

SOUP = ROOT / "demo" / "shed-soup.stl"


class Mend(HouseCase):
    def soup(self) -> int:
        job: int = self.make_job(SOUP)["id"]
        self.ready(job)
        self.decide(job, "Metres", fit={"unit": "m"})
        self.ready(job)
        return job

    def soon(self, path: str) -> dict[str, Any]:
        """What is being made, once it is there."""
        for _ in range(600):
            answer = self.http.get(path)
            if answer.status_code == 200:
                return answer.json()  # type: ignore[no-any-return]
            self.assertEqual((answer.status_code, answer.headers["retry-after"]), (202, "1"))
            time.sleep(0.1)
        raise AssertionError(f"{path} did not come")

    def test_a_study_tells_of_shells_and_where_flaws_lie(self) -> None:
        job = self.soup()
        told = self.soon(f"/api/jobs/{job}/parts/0/study")
        self.assertEqual(len(told["shells"]), 37)
        areas = [shell["area"] for shell in told["shells"]]
        self.assertEqual(areas, sorted(areas, reverse=True))
        part = self.http.get(f"/api/jobs/{job}/result").json()["parts"][0]
        self.assertEqual((part["shells"], part["flaws"]["duplicate"]), (37, soup.DOUBLED))
        for kind, each in (("duplicate", 6), ("crossing", 6), ("over-shared", 2), ("t-joints", 6)):
            points = np.frombuffer(base64.b64decode(told["flaws"][kind]), "<f4").reshape(-1, 3)
            self.assertEqual(len(points), each * part["flaws"][kind], kind)
            self.assertLess(np.abs(points).max(), 7.0, "around the middle of the part")
        curve = self.soon(f"/api/jobs/{job}/parts/0/weld-curve")
        self.assertEqual(curve["left"], sorted(curve["left"], reverse=True))
        self.assertLess(curve["left"][-1], curve["places"])
        self.assertGreater(curve["collapse"], 1e-3)
        self.assertFalse(curve["watertight"])
        for wrong in ("parts/7/study", "parts/99999/weld-curve"):
            self.assertEqual(self.http.get(f"/api/jobs/{job}/{wrong}").status_code, 404)

    def test_pointing_turns_and_takes_out_and_undo_takes_it_back(self) -> None:
        job = self.soup()
        node = self.http.get(f"/api/jobs/{job}/result").json()["placements"][0]
        shell = self.soon(f"/api/jobs/{job}/parts/0/study")["shells"][2]
        for does in ("turn-shell", "turn-face", "take-out"):
            given = {"node": node, "at": shell["at"], "does": does}
            self.assertEqual(self.http.post(f"/api/jobs/{job}/mend/hand", json=given).status_code, 200)
            self.ready(job)
        mend = self.http.get(f"/api/jobs/{job}").json()["decisions"]["mend"]
        self.assertEqual([turn["what"] for turn in mend["turned"]], ["shell", "face"])
        np.testing.assert_allclose(mend["apart"][0]["at"], shell["at"], atol=1e-6)
        result = self.http.get(f"/api/jobs/{job}/result").json()
        self.assertEqual((len(result["added_parts"]), len(result["added_nodes"])), (1, 1))
        self.assertEqual(result["parts"][1]["triangles"], shell["triangles"])
        again = self.http.post(
            f"/api/jobs/{job}/mend/hand", json={"node": node + 50, "at": [0, 0, 0], "does": "turn-face"}
        )
        self.assertEqual(again.status_code, 422)
        own = {"node": result["placements"][-1], "at": shell["at"], "does": "take-out"}
        self.assertIn("already", self.http.post(f"/api/jobs/{job}/mend/hand", json=own).json()["detail"])
        for _ in range(3):
            self.http.post(f"/api/jobs/{job}/undo")
        self.ready(job)
        self.assertEqual(self.http.get(f"/api/jobs/{job}/result").json()["added_parts"], [])

    def test_safe_remedies_at_once_and_then_there_is_none(self) -> None:
        job = self.soup()
        told = self.http.post(f"/api/jobs/{job}/mend/right").json()
        self.assertEqual(
            [line.split(":")[0] for line in told["taken"]],
            ["Take one of each", "Run the edges through", "Turn outward"],
        )
        self.ready(job)
        flaws = self.http.get(f"/api/jobs/{job}/result").json()["parts"][0]["flaws"]
        self.assertFalse(set(flaws) & {"duplicate", "t-joints", "inward"})
        again = self.http.post(f"/api/jobs/{job}/mend/right")
        self.assertEqual((again.status_code, again.headers["content-type"]), (422, "application/problem+json"))

    def test_a_width_that_makes_no_sense_keeps_the_mesh_and_says_why(self) -> None:
        job = self.soup()
        self.decide(job, "Weld", mend={"steps": [{"does": "weld", "tolerance": 50}]})
        self.ready(job)
        result = self.http.get(f"/api/jobs/{job}/result").json()
        self.assertGreater(result["parts"][0]["triangles"], 700)
        self.assertIn("fall together", next(f for f in result["findings"] if f["code"] == "not-done")["message"])


if __name__ == "__main__":
    unittest.main()
