"""STEP: AP203, AP214, AP242."""

from pathlib import Path

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.reader import Reader
from hemp_ladder.core.receive.report import Report
from hemp_ladder.core.receive.step.header import is_step
from hemp_ladder.core.receive.step.references import cut_down, references


def _read(path: Path, report: Report) -> Model:
    from hemp_ladder.core.receive.step.read import read_step

    return read_step(path, report)


READER = Reader(
    unit_in="units of its geometric contexts (ISO 10303-41)",
    name="STEP", owns=lambda evidence: is_step(evidence.head), read=_read, asked_for="STEP (AP203, AP214, AP242)",
    refers=references, cut_down=cut_down,
)  # fmt: skip
