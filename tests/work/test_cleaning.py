"""The cleaner takes what nothing refers to, and leaves living jobs whole."""

import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import psycopg

from hemp_ladder.work.folders import sweep, working_folder
from tests.support import AS1, DAVIT, HouseCase

_CLEAN = "from datetime import timedelta\nfrom hemp_ladder.work.cleaning import clean\nclean(timedelta(%s))"


class Cleaning(HouseCase):
    alone = True

    def blobs(self) -> dict[str, int]:
        """How many blobs there are of each kind."""
        store = self.house.folder / "blobs"
        return {kind.name: sum(1 for _ in kind.rglob("*") if _.is_file()) for kind in store.iterdir()}

    def clean(self, days: str) -> None:
        self.house._run("-c", _CLEAN % days)

    def test_a_removed_job_goes_and_the_others_stay_whole(self) -> None:
        kept = self.make_job(AS1)["id"]
        self.ready(kept)
        self.decide(kept, "Finer", facet={"degrees": 7})
        self.ready(kept)
        alone = self.blobs()
        gone = self.make_job(DAVIT)["id"]
        self.ready(gone)
        self.http.post(f"/api/jobs/{gone}/deliveries")
        self.wait_for(gone, lambda view: view["deliveries"][0]["state"] == "done")
        both = self.blobs()
        self.assertGreater(both["shapes"], alone["shapes"])
        self.http.delete(f"/api/jobs/{gone}")
        with psycopg.connect(self.house.environment["HEMP_LADDER_DATABASE"], autocommit=True) as base:
            base.execute("insert into gauged (key, told) values ('measured once', '{}')")
            count = "select count(*) from gauged"
            self.clean("days=1")
            self.assertEqual(base.execute(count).fetchone(), (1,), "what was measured stays for a while")
            self.assertEqual(self.blobs(), both, "what is young may belong to something that is being made")
            self.clean("0")
            self.assertEqual(base.execute(count).fetchone(), (0,))
        self.assertEqual({**self.blobs(), "deliveries": 0}, {**alone, "deliveries": 0})
        self.assertEqual(self.blobs()["deliveries"], 0)
        # What undo goes back to is there, and ships.
        self.http.post(f"/api/jobs/{kept}/undo")
        view = self.ready(kept)
        self.assertEqual((view["climb"]["done"], view["climb"]["failed"]), (5, 0))
        self.http.post(f"/api/jobs/{kept}/deliveries")
        view = self.wait_for(kept, lambda now: now["deliveries"] and now["deliveries"][0]["state"] == "done")
        self.assertTrue(view["deliveries"][0]["receipt"]["ok"])
        # And what went can come again.
        again = self.make_job(DAVIT)["id"]
        self.assertEqual(self.ready(again)["climb"]["failed"], 0)


class Folders(unittest.TestCase):
    def test_those_of_the_dead_are_swept_and_those_of_the_living_stay(self) -> None:
        code = (
            "import os, signal\nfrom hemp_ladder.work.folders import working_folder\n"
            "with working_folder() as folder:\n    (folder / 'x').write_text('x')\n    print(folder, flush=True)\n"
            "    os.kill(os.getpid(), signal.SIGKILL)"
        )
        environment = {**os.environ, "PYTHONPATH": str(Path(__file__).parents[2])}
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, env=environment)
        left = Path(done.stdout.strip())
        self.assertTrue(left.is_dir() and left.parent == Path(tempfile.gettempdir()))
        with working_folder() as mine:
            self.assertGreaterEqual(sweep(), 1)
            self.assertFalse(left.exists())
            self.assertTrue(mine.is_dir())
        self.assertFalse(mine.exists())


if __name__ == "__main__":
    unittest.main()
