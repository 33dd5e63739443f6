"""The glTF validator of the format's makers, in Node: one process a file, which can be loaded before there is one."""

import json
import subprocess
from contextlib import suppress
from pathlib import Path
from typing import Any

from hemp_ladder.core.ship.format import Verdict

_SCRIPT = Path(__file__).with_name("validate.mjs")
_WEB = Path(__file__).resolve().parents[3] / "web"
_NAME = "glTF validator errors"
#: Seconds that one file may take.
_PATIENCE = 600
#: Those that have loaded, or are about to, and wait for a file.
_waiting: list[subprocess.Popen[str]] = []


def load_early() -> None:
    """Have a validator load beside what the caller does, unless one waits from before. It ends with this process where no
    file comes."""
    # One that cannot run is told when there is a file.
    with suppress(OSError):
        if not _waiting:
            _waiting.append(_started())


def validate(path: Path) -> Verdict:
    """What it finds in the file; one that cannot run has found a fault."""
    try:
        told = _said_by(_next(), path)
    except (OSError, subprocess.SubprocessError, ValueError) as error:
        return Verdict(_NAME, f"could not run: {type(error).__name__}")
    if told["errors"]:
        return Verdict(_NAME, f"{told['errors']}: {told['messages'][0].get('message', '')}"[:200])
    return Verdict(_NAME, 0)


def _next() -> subprocess.Popen[str]:
    """One that waits, or a new one; those that were ended while they waited are passed over."""
    while True:
        try:
            process = _waiting.pop()
        except IndexError:
            return _started()
        if process.poll() is None:
            return process
        process.communicate()


def _said_by(process: subprocess.Popen[str], path: Path) -> dict[str, Any]:
    with process:
        try:
            said, _ = process.communicate(json.dumps(str(path.absolute())), timeout=_PATIENCE)
        except BaseException:
            process.kill()
            raise
    if process.returncode:
        raise subprocess.CalledProcessError(process.returncode, "node")
    told: dict[str, Any] = json.loads(said)
    return told


def _started() -> subprocess.Popen[str]:
    return subprocess.Popen(
        ["node", "--max-old-space-size=4096", str(_SCRIPT), str(_WEB)],
        # Where the caller is now may be gone, or not be where it is, when there is a file.
        cwd=_WEB, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True,
    )  # fmt: skip
