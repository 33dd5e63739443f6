"""Installing what is missing: Debian's packages, the Python environment, the front end."""

import hashlib
import os
import shutil
import subprocess
from pathlib import Path

from house.places import HOUSE, PYTHON, ROOT, VENV, WEB, Trouble, say

_POSTGRES = Path("/usr/lib/postgresql/15/bin/postgres")
_UV = "uv==0.13.9"
#: Without a window, menus and services of its own it takes two thirds of the time of the whole browser.
BROWSER = "chromium-headless-shell"


def ensure_debian(*, browser: bool = False, database: bool = True) -> None:
    """Install PostgreSQL, and Chromium without its windows for tests, where they are missing."""
    missing = []
    if database and not _POSTGRES.exists():
        missing.append("postgresql-15")
    if browser and shutil.which(BROWSER) is None:
        missing.append(BROWSER)
    _apt(missing)


def _apt(missing: list[str]) -> None:
    if not missing:
        return
    if os.geteuid() != 0:
        raise Trouble(f"Debian's {' and '.join(missing)} must be installed, which needs root. Run this as root once.")
    say(f"Installing {', '.join(missing)} …")
    quiet = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    # A server that the package would start by itself is not ours.
    HOUSE.mkdir(parents=True, exist_ok=True)
    for command in (
        ["apt-get", "update", "-qq"],
        ["apt-get", "install", "-y", "-qq", "--no-install-recommends", *missing],
    ):
        run(command, env=quiet)


def run(command: list[str], cwd: Path = ROOT, env: dict[str, str] | None = None) -> None:
    """Run quietly; on failure show what it said last."""
    done = subprocess.run(
        command, cwd=cwd, env=env, stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
    )
    if done.returncode:
        tail = "\n".join(done.stdout.splitlines()[-25:])
        raise Trouble(f"{tail}\n`{' '.join(command[:4])} …` failed with code {done.returncode}.")


def _unchanged(stamp: Path, *inputs: Path) -> str | None:
    """None when `stamp` holds the hash of the inputs, else the hash to put there."""
    digest = hashlib.sha256()
    for path in inputs:
        digest.update(str(path.relative_to(ROOT)).encode())
        digest.update(path.read_bytes())
    found = digest.hexdigest()
    return None if stamp.is_file() and stamp.read_text() == found else found


def ensure_python() -> None:
    """The virtual environment with exactly what requirements.txt locks, by hash."""
    lock, stamp = ROOT / "requirements.txt", VENV / "installed"
    mark = _unchanged(stamp, lock)
    if mark is None:
        return
    say("Setting up Python …")
    if not PYTHON.exists():
        made = subprocess.run(["python3", "-m", "venv", str(VENV)], capture_output=True, text=True)
        if made.returncode:
            shutil.rmtree(VENV, ignore_errors=True)
            _apt(["python3-venv"])
            run(["python3", "-m", "venv", str(VENV)])
    run([str(PYTHON), "-m", "pip", "install", "-q", "--disable-pip-version-check", _UV])
    run(
        [
            str(VENV / "bin" / "uv"),
            "pip",
            "install",
            "-q",
            "--compile-bytecode",
            "--python",
            str(PYTHON),
            "--require-hashes",
            "-r",
            str(lock),
        ]
    )
    stamp.write_text(mark)


def ensure_node() -> None:
    """The front end's packages as the lock file has them."""
    lock, stamp = WEB / "package-lock.json", WEB / "node_modules" / ".installed"
    mark = _unchanged(stamp, lock, WEB / "package.json")
    if mark is None:
        return
    if shutil.which("npm") is None:
        raise Trouble("Node 20 with npm is needed and was not found. Install it and start again.")
    say("Setting up the front end's packages …")
    run(["npm", "ci", "--no-audit", "--no-fund", "--ignore-scripts"], cwd=WEB)
    stamp.write_text(mark)


def ensure_front_end() -> None:
    """The built front end, rebuilt when its sources changed."""
    ensure_node()
    sources = sorted(
        path
        for pattern in ("src/**/*", "public/**/*", "*.html", "*.ts", "*.json")
        for path in WEB.glob(pattern)
        if path.is_file()
    )
    stamp = WEB / "dist" / ".built"
    mark = _unchanged(stamp, *sources)
    if mark is None:
        return
    say("Building the front end …")
    run(["npm", "run", "-s", "build"], cwd=WEB)
    stamp.write_text(mark)
