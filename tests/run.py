"""`python -m tests.run [MODULE ...]`: every check and test, or the named test modules."""

import os
import re
import subprocess
import sys
import time
from pathlib import Path

from house.places import HOUSE, PYTHON, ROOT, WEB
from tests.support import throwaway_cluster

_BIN = PYTHON.parent
#: Modules that take a minute and more.
_LONG = {"tests.test_cli", "tests.work.test_bad_input", "tests.api.test_bench", "tests.core.test_ship"}
CHECKS = {
    "Python style": [str(_BIN / "ruff"), "check", "--no-cache", "."],
    "Python form": [str(_BIN / "ruff"), "format", "--no-cache", "--check", "."],
    "Python types": [str(_BIN / "mypy"), "--cache-dir=/dev/null"],
    "Import contract": [str(_BIN / "lint-imports"), "--no-cache"],
    "TypeScript types, style and form": ["npm", "run", "-s", "check"],
}


def main(names: list[str]) -> int:
    """Run it all; the last line counts."""
    started = time.monotonic()
    failed = [] if names else [name for name in [*CHECKS, "Client is current"] if not _check(name)]
    modules = names or [
        ".".join(path.relative_to(ROOT).with_suffix("").parts) for path in sorted((ROOT / "tests").rglob("test_*.py"))
    ]
    passed, broken = _tests(modules)
    checks = 0 if names else len(CHECKS) + 1 - len(failed)
    print(f"{time.monotonic() - started:.0f} s")
    print(f"{passed + checks} passed, {broken + len(failed)} failed")
    return 1 if broken or failed or not passed else 0


def _check(name: str) -> bool:
    if name == "Client is current":
        return _client_is_current()
    where = WEB if name.startswith("TypeScript") else ROOT
    done = subprocess.run(CHECKS[name], cwd=where, capture_output=True, text=True)
    print(f"{'ok    ' if done.returncode == 0 else 'FAILED'} {name}", flush=True)
    if done.returncode:
        print(done.stdout[-4000:], done.stderr[-2000:])
    return done.returncode == 0


def _client_is_current() -> bool:
    """The description and the client made from it say what the routes say."""
    told = subprocess.run([str(PYTHON), "-m", "hemp_ladder.api.describe"], cwd=ROOT, capture_output=True, text=True)
    good = told.stdout == (WEB / "openapi.json").read_text()
    if good:
        made = subprocess.run(
            ["npx", "openapi-typescript", "openapi.json"], cwd=WEB, capture_output=True, text=True
        ).stdout
        good = "".join(made.split()) in "".join((WEB / "src/api/schema.ts").read_text().split())
    print(f"{'ok    ' if good else 'FAILED'} Client is current", flush=True)
    return good


def _tests(modules: list[str]) -> tuple[int, int]:
    """Each module in a process of its own, two at a time, browser tests alone at the end."""
    with throwaway_cluster() as server:
        # Compiled once for the hundreds of processes that the tests start, and not into the source tree.
        environment = {**os.environ, "HEMP_LADDER_TEST_SERVER": server, "PYTHONPYCACHEPREFIX": str(HOUSE / "compiled")}
        environment.pop("PYTHONDONTWRITEBYTECODE", None)
        heavy = [name for name in modules if ".browser." in name]
        # The longest first, so that none is left to run alone at the end.
        light = sorted((name for name in modules if name not in heavy), key=lambda name: name not in _LONG)
        passed = failed = 0
        for group, width in ((light, 2), (heavy, 1)):
            waiting, running = list(group), []
            while waiting or running:
                while waiting and len(running) < width:
                    running.append(_begin(waiting.pop(0), environment))
                for item in [item for item in running if item[1].poll() is not None]:
                    running.remove(item)
                    good, bad = _end(*item)
                    passed, failed = passed + good, failed + bad
                time.sleep(0.05)
    return passed, failed


def _begin(name: str, environment: dict[str, str]) -> tuple[str, subprocess.Popen[bytes], Path, float]:
    log = Path(f"/tmp/{name}.{os.getpid()}.log")
    with log.open("wb") as out:
        process = subprocess.Popen(
            [str(PYTHON), "-m", "unittest", "-v", name], cwd=ROOT, env=environment, stdout=out, stderr=out
        )
    return name, process, log, time.monotonic()


def _end(name: str, process: subprocess.Popen[bytes], log: Path, started: float) -> tuple[int, int]:
    text = log.read_text(errors="replace")
    log.unlink()
    ran = int((re.findall(r"^Ran (\d+) test", text, re.MULTILINE) or ["0"])[-1])
    verdict = (re.findall(r"^FAILED \((.*)\)", text, re.MULTILINE) or [""])[-1]
    bad = sum(int(count) for count in re.findall(r"(?:failures|errors)=(\d+)", verdict))
    bad = bad or (1 if process.returncode else 0)
    print(f"{'FAILED' if bad else 'ok    '} {name}: {ran} tests, {time.monotonic() - started:.0f} s", flush=True)
    if bad:
        print(text[-6000:], flush=True)
    return max(0, ran - bad), bad


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
