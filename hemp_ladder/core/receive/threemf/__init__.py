"""3MF: XML in a ZIP, for printing (3MF Consortium, core specification 1.3)."""

from pathlib import Path

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.reader import Evidence, Reader
from hemp_ladder.core.receive.report import Report


def is_3mf(evidence: Evidence) -> bool:
    """A ZIP with a model part in its folder, which is named in one of the first entries."""
    head = evidence.head
    if head[:4] != b"PK\x03\x04":
        return False
    return (b"3D/" in head and b".model" in head) or evidence.name.lower().endswith(".3mf")


def _read(path: Path, report: Report) -> Model:
    from hemp_ladder.core.receive.threemf.read import read_3mf

    return read_3mf(path, report)


READER = Reader(name="3MF", owns=is_3mf, read=_read, asked_for="3MF", unit_in="unit of <model>")
