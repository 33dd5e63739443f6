"""Vector art."""

from pathlib import Path

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.reader import Reader
from hemp_ladder.core.receive.report import Report
from hemp_ladder.core.receive.svg.header import is_svg


def _clean(path: Path) -> bytes:
    from hemp_ladder.core.receive.svg.clean import clean_svg

    return clean_svg(path)


def _read(path: Path, report: Report) -> Model:
    from hemp_ladder.core.receive.svg.read import read_svg

    return read_svg(path, report)


READER = Reader(
    unit_in="width and height beside the viewBox",
    name="SVG", owns=lambda evidence: is_svg(evidence.head), read=_read, asked_for="SVG",
    names=False, units=("px", "mm", "pt", "cm", "in"), clean=_clean,
)  # fmt: skip
