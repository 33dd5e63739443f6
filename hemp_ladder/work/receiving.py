"""Receiving a source in a child process, so that a file that kills its reader ends as a finding."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import Finding, finding
from hemp_ladder.core.model import Model
from hemp_ladder.core.receive.bundle import open_bundle
from hemp_ladder.core.receive.review import review
from hemp_ladder.work.children import ChildDied, Crew

#: A stage of reading and a count: ("reading", 0), ("translating", 0), ("parts", 17).
OnStage = Callable[[str, int], None]


class SourceRefused(UnreadableSource):
    """A source that gives no model, with the finding that says why."""

    def __init__(self, found: Finding) -> None:
        super().__init__(found.message, found.remedy)
        self.finding = found


def receive_files(
    files: list[tuple[str, Path]],
    folder: Path,
    crew: Crew,
    keep_shape: Callable[[str, bytes], None],
    on_stage: OnStage = lambda stage, count: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Model:
    """Read files, given as (name, path), laying what must lie side by side in `folder`.

    Every part's exact shape goes to `keep_shape` as it is found. Raises
    SourceRefused when there is no model to be had.
    """
    names = ", ".join(name for name, _ in files[:3])

    def on_report(word: str, values: tuple[Any, ...]) -> None:
        if word == "shape":
            keep_shape(*values)
        else:
            on_stage(*values)

    try:
        bundle = open_bundle(files, folder)
        model: Model = crew.run("receive", str(bundle.root), on_report=on_report, cancelled=cancelled)
    except UnreadableSource as error:
        raise SourceRefused(finding("unreadable-source", names, error.message, error.remedy)) from error
    except ChildDied as error:
        code = "reader-limit" if error.limit else "reader-crashed"
        raise SourceRefused(finding(code, names, error.message)) from error
    model.findings = [*bundle.findings, *review(model)]
    return model
