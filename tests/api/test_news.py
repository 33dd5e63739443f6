"""What of a result becomes another as meshes come in, told without the rest."""

import base64
import os
from typing import Any
from unittest import mock

from sqlalchemy import create_engine
from sqlalchemy.orm import Session

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


class Between(HouseCase):
    def test_what_comes_in_while_a_result_is_put_together_is_not_said_to_be_all(self) -> None:
        """Meshing ends as soon as the first question of it was answered, whichever that is."""
        from hemp_ladder.api import result
        from hemp_ladder.store import blobs

        # The house's own, in this process as long as the test takes.
        blobs._store.cache_clear()
        self.addCleanup(blobs._store.cache_clear)
        job = self.make_job(AS1)["id"]
        self.ready(job)
        whole = self.http.get(f"/api/jobs/{job}/result").json()
        climb_view, mesh_rows = result.climb_view, result.mesh_rows
        ended = False

        def climb(*asked: Any) -> Any:
            nonlocal ended
            view = climb_view(*asked)
            told = view if ended else view.model_copy(update={"state": "working", "done": 0})
            ended = True
            return told

        def rows(*asked: Any) -> Any:
            nonlocal ended
            there = mesh_rows(*asked) if ended else {}
            ended = True
            return there

        url = self.house.environment["HEMP_LADDER_DATABASE"].replace("postgresql://", "postgresql+psycopg://", 1)
        with (
            mock.patch.dict(os.environ, self.house.environment),
            mock.patch.multiple(result, climb_view=climb, mesh_rows=rows),
            Session(create_engine(url)) as session,
        ):
            view = result.result(session, job)
        self.assertTrue(ended)
        if view.rungs["Facet"].state != "busy":
            self.assertEqual(view.triangles, whole["triangles"])
