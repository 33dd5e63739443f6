"""`python -m bench.added FILE CHORD ANGLE`: receive and facet in one process, the kernel's calls timed apart from ours."""

import json
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from hemp_ladder.core.facet import mesher
from hemp_ladder.core.facet.tessellate import tessellate
from hemp_ladder.core.receive.report import Kept
from hemp_ladder.core.receive.step import read as receive

_inside = 0.0


def timed(call: Callable[..., Any]) -> Callable[..., Any]:
    """The same call, its processor time counted as the kernel's."""

    def wrapped(*inputs: Any) -> Any:
        global _inside
        began = time.process_time()
        try:
            return call(*inputs)
        finally:
            _inside += time.process_time() - began

    return wrapped


class TimedReader(receive.STEPCAFControl_Reader):  # type: ignore[misc]
    """The kernel's reader, its two long calls timed."""

    ReadFile = timed(receive.STEPCAFControl_Reader.ReadFile)
    Transfer = timed(receive.STEPCAFControl_Reader.Transfer)


def main(path: Path, chord: float, angle: float) -> None:
    """Print seconds of the kernel and of what stands around it."""
    receive.STEPCAFControl_Reader = TimedReader
    mesher.BRepMesh_IncrementalMesh = timed(mesher.BRepMesh_IncrementalMesh)
    began = time.process_time()
    kept = Kept()
    receive.read_step(path, kept)
    read = time.process_time() - began
    inside_reading = _inside
    for data in kept.shapes.values():
        tessellate(data, chord, angle)
    whole = time.process_time() - began
    json.dump(
        {
            "kernel": round(_inside, 2), "ours": round(whole - _inside, 2), "reading ours": round(read - inside_reading, 2),
            "facetting ours": round(whole - read - (_inside - inside_reading), 2),
        },
        sys.stdout,
    )  # fmt: skip


if __name__ == "__main__":
    main(Path(sys.argv[1]), float(sys.argv[2]), float(sys.argv[3]))
