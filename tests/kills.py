"""A house of its own that is killed piece by piece while it works: what must be true afterwards, whatever died.

`Siege` runs so many kills with a fixed seed over the worker, its children,
the web process and the database, while files are uploaded, read, meshed and
shipped. Used by a short test and by the long bench.
"""

import os
import random
import shutil
import signal
import subprocess
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx

from house.places import PYTHON, ROOT
from tests.support import AS1, DAVIT, SHED

PATIENCE = 600.0
TARGETS = ("worker", "child", "web", "database")
STAGES = ("upload", "reading", "meshing", "shipping")
_RAISE = "from house import commands, keeper\nwith keeper.alone():\n    print(commands._raise_house()[0])"
_FALL = "from house import commands\ncommands.main(['stop'])"


class KeptHouse:
    """Database, web process, worker and keeper in a folder of their own."""

    def __init__(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="ladder-kept-"))
        self.folder.chmod(0o755)
        kept = {key: value for key, value in os.environ.items() if not key.startswith("HEMP_LADDER_")}
        self._environment = {**kept, "HEMP_LADDER_HOUSE": str(self.folder), "PYTHONPATH": str(ROOT)}
        self.port = int(self._python(_RAISE).split()[-1])
        self.http = httpx.Client(base_url=f"http://127.0.0.1:{self.port}", timeout=20)
        self.patiently(lambda: self.http.get("/api/health").status_code == 200)

    def close(self) -> None:
        self.http.close()
        self._python(_FALL)
        shutil.rmtree(self.folder, ignore_errors=True)

    def _python(self, code: str) -> str:
        done = subprocess.run(
            [str(PYTHON), "-c", code], cwd=ROOT, env=self._environment, capture_output=True, text=True
        )
        assert done.returncode == 0, done.stderr[-2000:]
        return done.stdout

    def number(self, name: str) -> int:
        """The process number of the web process, the worker or the database."""
        if name == "database":
            return int((self.folder / "postgres" / "data" / "postmaster.pid").read_text().splitlines()[0])
        return int((self.folder / f"{name}.pid").read_text().split()[0])

    def kill(self, target: str, dice: random.Random) -> bool:
        """Kill one process without warning; whether there was one."""
        try:
            if target != "child":
                os.kill(self.number(target), signal.SIGKILL)
                return True
            children = [pid for pid in below(self.number("worker")) if _is_child(pid)]
            if children:
                os.kill(dice.choice(children), signal.SIGKILL)
            return bool(children)
        except (OSError, ValueError, IndexError):
            return False

    def patiently(self, reached: Callable[[], Any], seconds: float = PATIENCE) -> Any:
        """Ask until it is so; what is down meanwhile counts as not yet."""
        until = time.monotonic() + seconds
        while True:
            try:
                found = reached()
                if found:
                    return found
            except (httpx.HTTPError, ValueError, KeyError):
                pass
            assert time.monotonic() < until, f"not within {seconds:.0f} s"
            time.sleep(0.1)


def below(root: int) -> list[int]:
    """The processes under one."""
    found, waiting = [], [root]
    while waiting:
        number = waiting.pop()
        for task in Path(f"/proc/{number}/task").glob("*/children"):
            try:
                waiting += [int(child) for child in task.read_text().split()]
            except OSError:
                continue
        found.append(number)
    return found[1:]


def _is_child(pid: int) -> bool:
    """The server that children are forked from, or one of them; not the keeper of Python's shared resources."""
    try:
        return b"forkserver" in Path(f"/proc/{pid}/cmdline").read_bytes()
    except OSError:
        return False


class Siege:
    """So many kills, each while something is going on; `check` says what is wrong after each."""

    def __init__(self, house: KeptHouse, seed: int) -> None:
        self.house, self.dice = house, random.Random(seed)
        self.sources: dict[int, list[str]] = {}
        self.heads: dict[int, int] = {}

    def run(self, kills: int, tell: Callable[[str], None] = lambda line: None) -> None:
        for number in range(kills):
            target, stage = TARGETS[number % 4], STAGES[(number // 4 + number) % 4]
            began = time.monotonic()
            job = self._during(stage, target)
            took = self._final()
            self._whole(job)
            tell(
                f"{number + 1}: {target} during {stage}; all final after {took:.1f} s, {time.monotonic() - began:.1f} s in all"
            )

    def _ask(self, method: str, path: str, **more: Any) -> Any:
        """An answer, asked for again while the house is down, as the page does."""

        def ask() -> Any:
            answer = self.house.http.request(method, path, **more)
            if answer.status_code >= 500:
                raise httpx.HTTPError(str(answer.status_code))
            assert answer.status_code < 400, answer.text
            return answer

        return self.house.patiently(ask).json()

    def _during(self, stage: str, target: str) -> int:
        """Begin something, and kill when it has come as far as the stage; the job that it was about."""
        path = self.dice.choice([AS1, DAVIT, SHED])
        if stage == "upload":
            self._kill(target)
        uploaded = self._ask("PUT", "/api/uploads", params={"name": path.name}, content=path.read_bytes())
        job = self._ask("POST", "/api/jobs", json={"name": f"Job {len(self.sources)}", "files": [uploaded]})["id"]
        self.sources[job] = [path.name]
        if stage == "reading":
            time.sleep(self.dice.uniform(0, 0.6))
            self._kill(target)
        self.house.patiently(lambda: self._view(job)["state"] == "ready")
        patch = {"patch": {"facet": {"degrees": self.dice.uniform(5, 25)}}, "label": "Angle"}
        self.heads[job] = self._ask("PATCH", f"/api/jobs/{job}/decisions", json=patch)["decisions_id"]
        if stage == "meshing":
            time.sleep(self.dice.uniform(0, 0.6))
            self._kill(target)
        self._ask("POST", f"/api/jobs/{job}/deliveries")
        if stage == "shipping":
            time.sleep(self.dice.uniform(0, 1.0))
            self._kill(target)
        return job

    def _kill(self, target: str) -> None:
        until = time.monotonic() + 3
        while not self.house.kill(target, self.dice) and time.monotonic() < until:
            time.sleep(0.02)

    def _view(self, job: int) -> Any:
        return self._ask("GET", f"/api/jobs/{job}")

    def _final(self) -> float:
        """Wait until every job has come to an end, and give how long that took from when the house answered."""
        self.house.patiently(lambda: self.house.http.get("/api/health").status_code == 200)
        began = time.monotonic()

        def ended() -> bool:
            return all(
                all(source["state"] in ("ready", "refused") for source in view["sources"])
                and view["climb"]["state"] in ("done", "failed")
                and all(item["state"] in ("done", "failed", "cancelled") for item in view["deliveries"])
                for view in map(self._view, self.sources)
            )

        self.house.patiently(ended)
        return time.monotonic() - began

    def _whole(self, job: int) -> None:
        """Nothing that was acknowledged is lost, nothing is half, no part is missing."""
        for known, names in self.sources.items():
            view = self._view(known)
            assert [source["name"] for source in view["sources"]] == names, view["sources"]
            assert view["decisions_id"] == self.heads[known], "a decision is lost"
            assert view["climb"]["state"] == "done" and not view["climb"]["failed"], view["climb"]
        view = self._view(job)
        assert view["sources"][0]["state"] == "ready", view["sources"][0]["findings"]
        delivery = view["deliveries"][0]
        assert delivery["state"] == "done" and delivery["receipt"]["ok"], delivery
        bundle = self.house.http.get(f"/api/deliveries/{delivery['id']}/bundle")
        assert len(bundle.content) == delivery["bundle_bytes"]
        result = self._ask("GET", f"/api/jobs/{job}/result")
        assert result["failed_parts"] == 0
