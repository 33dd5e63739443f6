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
#: Modules that take long are begun first, so that none is left to run alone at the end.
_LONG = {
    "tests.test_cli", "tests.work.test_bad_input", "tests.api.test_bench",
}  # fmt: skip
#: Modules to a process, by folder: what they import, the house they run in and the browser take longer than most tests.
_TOGETHER = {"api": 4, "core": 8, "browser": 4}
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
    """Two processes at a time; browser tests at the end and one at a time: each draws on all processors."""
    with throwaway_cluster() as server:
        # Compiled once for the hundreds of processes that the tests start, and not into the source tree.
        environment = {**os.environ, "HEMP_LADDER_TEST_SERVER": server, "PYTHONPYCACHEPREFIX": str(HOUSE / "compiled")}
        environment.pop("PYTHONDONTWRITEBYTECODE", None)
        browser = [name for name in modules if ".browser." in name]
        passed = failed = 0
        for waiting, width in ((_shares([name for name in modules if name not in browser]), 2), (_shares(browser), 1)):
            running = []
            while waiting or running:
                while waiting and len(running) < width:
                    running.append(_begin(waiting.pop(0), environment))
                for item in [item for item in running if item[1].poll() is not None]:
                    running.remove(item)
                    good, bad = _end(*item)
                    passed, failed = passed + good, failed + bad
                time.sleep(0.05)
    return passed, failed


def _shares(modules: list[str]) -> list[list[str]]:
    """Modules that share a process, in the order in which they begin."""
    rest = [name for name in modules if name not in _LONG]
    shares = [[name] for name in modules if name in _LONG]
    for folder, size in _TOGETHER.items():
        some = [name for name in rest if name.startswith(f"tests.{folder}.")]
        shares += [some[k : k + size] for k in range(0, len(some), size)]
    together = {name for share in shares for name in share}
    return shares + [[name] for name in rest if name not in together]


def _begin(names: list[str], environment: dict[str, str]) -> tuple[list[str], subprocess.Popen[bytes], Path, float]:
    log = Path(f"/tmp/{names[0]}.{os.getpid()}.log")
    with log.open("wb") as out:
        process = subprocess.Popen(
            [str(PYTHON), "-m", "unittest", "-v", *names], cwd=ROOT, env=environment, stdout=out, stderr=out
        )
    return names, process, log, time.monotonic()


def _end(names: list[str], process: subprocess.Popen[bytes], log: Path, started: float) -> tuple[int, int]:
    text = log.read_text(errors="replace")
    log.unlink()
    ran = int((re.findall(r"^Ran (\d+) test", text, re.MULTILINE) or ["0"])[-1])
    verdict = (re.findall(r"^FAILED \((.*)\)", text, re.MULTILINE) or [""])[-1]
    bad = sum(int(count) for count in re.findall(r"(?:failures|errors)=(\d+)", verdict))
    bad = bad or (1 if process.returncode else 0)
    told = f"{ran} tests, {time.monotonic() - started:.0f} s"
    print(f"{'FAILED' if bad else 'ok    '} {', '.join(names)}: {told}", flush=True)
    if bad:
        print(text[-6000:], flush=True)
    return max(0, ran - bad), bad


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
