"""Whole processes, measured from outside: wall time, processor time, and the peak of the largest process."""

import os
import subprocess
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Run:
    """Seconds of wall and of processor over all processes; MB of the largest one; what it printed."""

    wall: float
    cpu: float
    peak: float
    output: str


def run(command: list[str], cwd: Path) -> Run:
    """Run to the end, watching every descendant fifty times a second."""
    with tempfile.TemporaryFile("w+") as told:
        started = time.monotonic()
        process = subprocess.Popen(command, cwd=cwd, stdout=told, stderr=subprocess.STDOUT)
        peak, ticks = 0, dict[int, int]()
        while process.poll() is None:
            for number in _family(process.pid):
                size, used = _usage(number)
                peak = max(peak, size)
                ticks[number] = max(used, ticks.get(number, 0))
            time.sleep(0.02)
        wall = time.monotonic() - started
        told.seek(0)
        output = told.read()
    # 4 is a conversion whose receipt failed: it is measured, and the report says so.
    if process.returncode not in (0, 4):
        raise SystemExit(f"{' '.join(command[:3])} ended with {process.returncode}: {output[-1500:]}")
    return Run(wall, sum(ticks.values()) / os.sysconf("SC_CLK_TCK"), peak / 1024, output)


def _family(root: int) -> list[int]:
    found, waiting = [], [root]
    while waiting:
        number = waiting.pop()
        found.append(number)
        for task in Path(f"/proc/{number}/task").glob("*/children"):
            try:
                waiting += [int(child) for child in task.read_text().split()]
            except OSError:
                continue
    return found


def _usage(number: int) -> tuple[int, int]:
    """Peak resident size in kB, and ticks of processor time."""
    try:
        status = Path(f"/proc/{number}/status").read_text()
        fields = Path(f"/proc/{number}/stat").read_text().rpartition(")")[2].split()
    except OSError:
        return 0, 0
    peak = next((int(row.split()[1]) for row in status.splitlines() if row.startswith("VmHWM")), 0)
    return peak, int(fields[11]) + int(fields[12])
