"""Drawings."""

from pathlib import Path

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.dxf.header import is_dxf
from hemp_ladder.core.receive.reader import Reader
from hemp_ladder.core.receive.report import Report


def _read(path: Path, report: Report) -> Model:
    from hemp_ladder.core.receive.dxf.read import read_dxf

    return read_dxf(path, report)


READER = Reader(
    unit_in="$INSUNITS in the header",
    name="DXF", owns=lambda evidence: is_dxf(evidence.head), read=_read, asked_for="DXF", names=False,
)  # fmt: skip
