"""STL, binary and text: triangles alone."""

import struct
from pathlib import Path

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.reader import Evidence, Reader
from hemp_ladder.core.receive.report import Report


def is_stl(evidence: Evidence) -> bool:
    """Binary when the size is what the count says, however the header begins; text by its first words."""
    head = evidence.head
    if len(head) >= 84 and evidence.size == 84 + 50 * struct.unpack_from("<I", head, 80)[0]:
        return True
    text = head.lstrip()[:4096].lower()
    if text.startswith(b"solid") and (b"facet" in text or b"endsolid" in text):
        return True
    # One that was cut short has only its name left to tell.
    return evidence.name.lower().endswith(".stl") and evidence.size > 84 + 50


def _read(path: Path, report: Report) -> Model:
    from hemp_ladder.core.receive.stl.read import read_stl

    return read_stl(path, report)


READER = Reader(name="STL", owns=is_stl, read=_read, asked_for="STL", names=False)
