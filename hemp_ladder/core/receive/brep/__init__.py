"""The kernel's own exact shapes."""

from pathlib import Path

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.brep.header import is_brep
from hemp_ladder.core.receive.reader import Reader
from hemp_ladder.core.receive.report import Report


def _read(path: Path, report: Report) -> Model:
    from hemp_ladder.core.receive.brep.read import read_brep

    return read_brep(path, report)


READER = Reader(
    name="BREP", owns=lambda evidence: is_brep(evidence.head), read=_read, asked_for="BREP", names=False,
)  # fmt: skip
