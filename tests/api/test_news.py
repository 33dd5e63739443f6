"""What of a result becomes another as meshes come in, told without the rest."""

import base64
from typing import Any

from tests.support import AS1, HouseCase


class News(HouseCase):
    def news(self, job: int, result: dict[str, object], bits: bytes, **other: object) -> Any:
        known = {
            "decisions_id": result["decisions_id"], "model_key": result["model_key"],
            "parts": base64.b64encode(bits).decode(), **other,
        }  # fmt: skip
        return self.http.post(f"/api/jobs/{job}/result/news", json=known)

    def test_only_what_was_not_known_is_told_and_it_is_what_the_whole_says(self) -> None:
        job = self.make_job(AS1)["id"]
        self.ready(job)
        whole = self.http.get(f"/api/jobs/{job}/result").json()
        told = self.news(job, whole, bytes([0b10110])).json()
        self.assertEqual(sorted(told["changed"]), ["0", "3"])
        for number, part in told["changed"].items():
            self.assertEqual(part, whole["parts"][int(number)])
        for name in ("triangles", "vertices", "size", "box", "rungs", "findings", "levels", "off_by", "glb_bytes"):
            self.assertEqual(told[name], whole[name], name)
        self.assertNotIn("placements", told)
        none = self.news(job, whole, b"").json()
        self.assertEqual(len(none["changed"]), 5)

    def test_another_result_is_a_conflict_and_what_names_no_parts_is_refused(self) -> None:
        job = self.make_job(AS1)["id"]
        self.ready(job)
        whole = self.http.get(f"/api/jobs/{job}/result").json()
        self.decide(job, "Finer", facet={"degrees": 9})
        self.assertEqual(self.news(job, whole, b"").status_code, 409)
        whole = self.http.get(f"/api/jobs/{job}/result").json()
        self.assertEqual(self.news(job, whole, b"", parts="§").status_code, 422)
