"""PLY: the polygon file format, text and binary."""

from pathlib import Path

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.reader import Reader
from hemp_ladder.core.receive.report import Report


def _read(path: Path, report: Report) -> Model:
    from hemp_ladder.core.receive.ply.read import read_ply

    return read_ply(path, report)


READER = Reader(
    name="PLY", owns=lambda evidence: evidence.head[:4] in (b"ply\n", b"ply\r"), read=_read, asked_for="PLY",
    names=False, units=("m", "mm", "cm", "in", "ft"),
)  # fmt: skip
