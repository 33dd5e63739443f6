"""AMF, additive manufacturing files (ISO/ASTM 52915), plain or in a ZIP."""

from pathlib import Path

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.meshed.xml import root_name
from hemp_ladder.core.receive.reader import Evidence, Reader
from hemp_ladder.core.receive.report import Report


def is_amf(evidence: Evidence) -> bool:
    if evidence.head[:4] == b"PK\x03\x04":
        return evidence.name.lower().endswith(".amf") or b".amf" in evidence.head[:300]
    return root_name(evidence.head) == "amf"


def _read(path: Path, report: Report) -> Model:
    from hemp_ladder.core.receive.amf.read import read_amf

    return read_amf(path, report)


READER = Reader(name="AMF", owns=is_amf, read=_read, asked_for="AMF", unit_in="unit of <amf>")
