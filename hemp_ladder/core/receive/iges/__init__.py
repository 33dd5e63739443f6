"""IGES 5.3."""

from pathlib import Path

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.iges.header import is_iges
from hemp_ladder.core.receive.reader import Reader
from hemp_ladder.core.receive.report import Report


def _read(path: Path, report: Report) -> Model:
    from hemp_ladder.core.receive.iges.read import read_iges

    return read_iges(path, report)


READER = Reader(
    unit_in="the global section, parameter 14",
    name="IGES", owns=lambda evidence: is_iges(evidence.head), read=_read, asked_for="IGES",
)  # fmt: skip
