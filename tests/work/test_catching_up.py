"""Jobs whose meshes an older version made."""

import os
import subprocess

import psycopg

from house.places import PYTHON, ROOT
from tests.support import AS1, HouseCase


class CatchingUp(HouseCase):
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
