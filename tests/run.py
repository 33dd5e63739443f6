"""`python -m tests.run [MODULE ...]`: every check and test, or the named test modules."""

import os
import re
import subprocess
import sys
import time
from dataclasses import dataclass
from pathlib import Path

from house.places import HOUSE, PYTHON, ROOT, WEB
from tests.ready import WHERE, ready_processes
from tests.support import throwaway_cluster

_BIN = PYTHON.parent
#: Modules that take long are begun first, so that none is left to run alone at the end.
_LONG = {
    "tests.work.test_siege", "tests.work.test_bad_input", "tests.test_cli", "tests.api.test_bench",
}  # fmt: skip
#: Modules to a process, by how their names begin: what they import, the house they run in and the browser take longer than most tests.
_TOGETHER = {
    "tests.api.": 20, "tests.browser.": 7, "tests.test_cli_": 9, "tests.work.": 6, "tests.core.": 20, "tests.web.": 9,
    "tests.store.": 9,
}  # fmt: skip
#: Processes at a time.
_WIDTH = 2
CHECKS = {
    "Python style": [str(_BIN / "ruff"), "check", "--no-cache", "."],
    "Python form": [str(_BIN / "ruff"), "format", "--no-cache", "--check", "."],
    "Python types": [str(_BIN / "mypy"), f"--cache-dir={HOUSE / 'types'}"],
    "Import contract": [str(_BIN / "lint-imports"), "--no-cache"],
    "TypeScript types, style and form": ["npm", "run", "-s", "check"],
    "Client is current": [str(PYTHON), "-m", "tests.current"],
}


@dataclass(frozen=True)
class Task:
    """A check, by its name, or modules of tests that share a process."""

    names: tuple[str, ...]
    is_check: bool = False

    @property
    def browses(self) -> bool:
        return ".browser." in self.names[0]

    @property
    def command(self) -> list[str]:
        if self.is_check:
            return CHECKS[self.names[0]]
        return [str(PYTHON), "-m", "unittest", "-v", *self.names]

    @property
    def folder(self) -> Path:
        return WEB if self.is_check and self.names[0].startswith("TypeScript") else ROOT


def main(names: list[str]) -> int:
    """Run it all; the last line counts."""
    started = time.monotonic()
    modules = names or [
        ".".join(path.relative_to(ROOT).with_suffix("").parts) for path in sorted((ROOT / "tests").rglob("test_*.py"))
    ]
    tasks = _shares(modules)
    if not names:
        tasks = [*(Task((name,), True) for name in CHECKS), *tasks]
    passed, failed = _run(tasks)
    print(f"{time.monotonic() - started:.0f} s")
    print(f"{passed} passed, {failed} failed")
    return 1 if failed or not passed else 0


def _run(tasks: list[Task]) -> tuple[int, int]:
    """Two processes at a time, of which one has a browser as long as any is to have one: it draws on all processors, but
    waits half of the time."""
    waiting = sorted(tasks, key=lambda task: not task.browses)
    passed = failed = 0
    with throwaway_cluster() as server, ready_processes() as where:
        # Compiled once for the hundreds of processes that the tests start, and not into the source tree.
        environment = {
            **os.environ,
            "HEMP_LADDER_TEST_SERVER": server,
            WHERE: where,
            "PYTHONPYCACHEPREFIX": str(HOUSE / "compiled"),
        }
        environment.pop("PYTHONDONTWRITEBYTECODE", None)
        running: list[_Running] = []
        while waiting or running:
            while len(running) < _WIDTH and (task := _next(waiting, any(item.task.browses for item in running))):
                waiting.remove(task)
                running.append(_Running(task, environment))
            for item in [item for item in running if item.process.poll() is not None]:
                running.remove(item)
                good, bad = item.end()
                passed, failed = passed + good, failed + bad
            time.sleep(0.05)
    return passed, failed


def _next(waiting: list[Task], browsing: bool) -> Task | None:
    return next((task for task in waiting if not (browsing and task.browses)), None)


def _shares(modules: list[str]) -> list[Task]:
    """Modules that share a process, in the order in which they begin."""
    rest = [name for name in modules if name not in _LONG]
    shares = [(name,) for name in modules if name in _LONG]
    for beginning, size in _TOGETHER.items():
        some = [name for name in rest if name.startswith(beginning)]
        shares += [tuple(some[k : k + size]) for k in range(0, len(some), size)]  # type: ignore[misc]
    together = {name for share in shares for name in share}
    return [Task(share) for share in [*shares, *((name,) for name in rest if name not in together)]]


class _Running:
    """A task at work."""

    def __init__(self, task: Task, environment: dict[str, str]) -> None:
        self.task = task
        self._log = Path(f"/tmp/{task.names[0].replace(' ', '-')}.{os.getpid()}.log")
        with self._log.open("wb") as out:
            self.process = subprocess.Popen(task.command, cwd=task.folder, env=environment, stdout=out, stderr=out)
        self._started = time.monotonic()

    def end(self) -> tuple[int, int]:
        """How many passed and failed of what ended; tells what failed, and how."""
        text = self._log.read_text(errors="replace")
        self._log.unlink()
        took = f"{time.monotonic() - self._started:.0f} s"
        if self.task.is_check:
            good, bad = (0, 1) if self.process.returncode else (1, 0)
        else:
            ran = int((re.findall(r"^Ran (\d+) test", text, re.MULTILINE) or ["0"])[-1])
            verdict = (re.findall(r"^FAILED \((.*)\)", text, re.MULTILINE) or [""])[-1]
            bad = sum(int(count) for count in re.findall(r"(?:failures|errors)=(\d+)", verdict))
            bad = bad or (1 if self.process.returncode else 0)
            good, took = max(0, ran - bad), f"{ran} tests, {took}"
        print(f"{'FAILED' if bad else 'ok    '} {', '.join(self.task.names)}: {took}", flush=True)
        if bad:
            print(text[-6000:], flush=True)
        return good, bad


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
