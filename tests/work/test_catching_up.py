"""Jobs whose meshes an older version made."""

import os
import subprocess

import psycopg

from house.places import PYTHON, ROOT
from tests.support import AS1, HouseCase


class Restarted(HouseCase):
    def database(self, statement: str) -> list[tuple[object, ...]]:
        with psycopg.connect(self.house.environment["HEMP_LADDER_DATABASE"], autocommit=True) as connection:
            done = connection.execute(statement)
            return done.fetchall() if done.description else []

    def start_again(self) -> None:
        """What `./ladder start` does before the web process comes up."""
        subprocess.run(
            [str(PYTHON), "-m", "hemp_ladder.work.prepare"], cwd=ROOT, check=True,
            env={**os.environ, **self.house.environment},
        )  # fmt: skip


class CatchingUp(Restarted):
    def test_lost_meshes_are_made_again_and_stopped_work_stays_stopped(self) -> None:
        """Meshes whose keys nobody wants any more are as good as lost: the rows are taken away here."""
        kept, stopped = (self.make_job(AS1, name=name)["id"] for name in ("Kept", "Stopped"))
        self.ready(kept)
        self.ready(stopped)
        self.decide(stopped, "Coarser", facet={"degrees": 33})
        self.ready(stopped)
        self.database(f"UPDATE climbs SET state = 'cancelled' WHERE job_id = {stopped}")
        self.database("DELETE FROM meshes")
        self.assertEqual(self.http.get(f"/api/jobs/{kept}").json()["climb"]["done"], 0)
        self.start_again()
        self.assertEqual(self.ready(kept)["climb"]["done"], 5)
        self.assertEqual(self.http.get(f"/api/jobs/{stopped}").json()["climb"]["state"], "cancelled")

    def test_starting_again_with_nothing_lost_makes_nothing(self) -> None:
        job = self.make_job(AS1)["id"]
        self.ready(job)
        before = self.database("SELECT count(*) FROM climbs")
        self.start_again()
        self.wait_for(
            job, lambda _: self.database("SELECT count(*) FROM procrastinate_jobs WHERE status IN ('todo', 'doing') AND task_name = 'catch_up'") == [(0,)]
        )  # fmt: skip
        self.assertEqual(self.database("SELECT count(*) FROM climbs"), before)


class KeptFromBefore(Restarted):
    """A house that a version before chains and references left: it had two bolts, "Bolt" and "Bolt (2)", and a plate."""

    kept = ROOT / "tests" / "kept" / "before_frame"

    def test_its_jobs_open_with_all_their_decisions(self) -> None:
        self.start_again()
        (job,) = [line["id"] for line in self.http.get("/api/jobs").json()]
        view = self.ready(job)
        self.wait_for(job, lambda view: view["climb"] == {**view["climb"], "state": "done", "done": 3, "failed": 0})
        parts = {part["label"]: part for part in self.http.get(f"/api/jobs/{job}/structure").json()["parts"]}
        self.assertEqual(list(parts), ["Bolt", "Bolt (2)", "Plate"])
        # Decisions are kept under the parts' new names, the older ones that undo leads to as well.
        documents = [row[0] for row in self.database("SELECT document FROM decisions ORDER BY id")]
        self.assertEqual(documents[1]["facet"]["exceptions"][0]["parts"], [parts["Bolt (2)"]["ref"]])  # type: ignore[index]
        self.assertEqual(documents[2]["mend"]["flipped"], [parts["Bolt"]["ref"]])  # type: ignore[index]
        self.assertEqual(view["decisions"]["sort"]["rules"][0]["match"], [parts["Plate"]["ref"]])
        result = self.http.get(f"/api/jobs/{job}/result").json()
        told = dict(zip(parts, result["parts"], strict=True))
        self.assertEqual([part["flipped"] for part in told.values()], [True, False, False])
        self.assertEqual([round(part["degrees"]) for part in told.values()], [20, 5, 20])
        self.assertGreater(told["Bolt (2)"]["triangles"], 100)
        brass = result["placements"].index(max(result["placements"]))
        self.assertEqual(result["dresses"][result["dress_of"][brass]]["materials"], ["brass"])
        for _ in range(3):
            self.assertEqual(self.http.post(f"/api/jobs/{job}/undo").status_code, 200)
        self.assertEqual(self.ready(job)["decisions"]["mend"]["flipped"], [])
