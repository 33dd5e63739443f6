"""OFF, the object file format."""

import re
from pathlib import Path

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.reader import Evidence, Reader
from hemp_ladder.core.receive.report import Report

_HEAD = re.compile(rb"\s*(?:#[^\n]*\n\s*)*(ST)?(C)?(N)?OFF\b")


def is_off(evidence: Evidence) -> bool:
    return _HEAD.match(evidence.head.removeprefix(b"\xef\xbb\xbf")) is not None


def _read(path: Path, report: Report) -> Model:
    from hemp_ladder.core.receive.off.read import read_off

    return read_off(path, report)


READER = Reader(
    name="OFF", owns=is_off, read=_read, asked_for="OFF", names=False, units=("m", "cm", "mm", "in", "ft"),
)  # fmt: skip
