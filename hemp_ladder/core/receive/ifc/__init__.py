"""Buildings: IFC2x3, IFC4, IFC4x3 as exchange files."""

from pathlib import Path

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.ifc.header import is_ifc
from hemp_ladder.core.receive.reader import Reader
from hemp_ladder.core.receive.report import Report


def _read(path: Path, report: Report) -> Model:
    from hemp_ladder.core.receive.ifc.read import read_ifc

    return read_ifc(path, report)


READER = Reader(
    unit_in="IfcUnitAssignment",
    name="IFC", owns=lambda evidence: is_ifc(evidence.head), read=_read, asked_for="IFC",
)  # fmt: skip
