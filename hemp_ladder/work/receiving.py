"""Receiving a source in a child process, so that a file that kills its reader ends as a finding."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import Finding, finding
from hemp_ladder.core.model import Model
from hemp_ladder.core.receive.bundle import open_bundle
from hemp_ladder.core.receive.review import review
from hemp_ladder.work.children import ChildDied, Crew

#: So many single entities may bring their reader down before the whole file is given up.
_MOST_DEATHS = 4


class SourceRefused(UnreadableSource):
    """A source that gives no model, with the finding that says why."""

    def __init__(self, found: Finding) -> None:
        super().__init__(found.message, found.remedy)
        self.finding = found


def _unheard(*_: Any) -> None:
    pass


@dataclass(frozen=True)
class Ears:
    """Who hears what is found: shapes by key, stages with a count, the structure, blocks of properties,
    and the names of files in the bundle that stand for themselves."""

    shape: Callable[[str, bytes], None] = _unheard
    stage: Callable[[str, int], None] = _unheard
    outline: Callable[[Model], None] = _unheard
    details: Callable[[int, bytes], None] = _unheard
    others: Callable[[list[str]], None] = _unheard


def receive_files(
    files: list[tuple[str, Path]],
    folder: Path,
    crew: Crew,
    ears: Ears,
    cancelled: Callable[[], bool] = lambda: False,
    root: str | None = None,
) -> Model:
    """Read files, given as (name, path), laying what must lie side by side in `folder`; `root` names the one to read.

    Raises SourceRefused when there is no model to be had.
    """
    names = ", ".join(name for name, _ in files[:3])
    try:
        bundle = open_bundle(files, folder, root)
        if bundle.others:
            ears.others(bundle.others)
        model = _read(bundle.root, crew, ears, cancelled)
    except UnreadableSource as error:
        raise SourceRefused(finding("unreadable-source", names, error.message, error.remedy)) from error
    except ChildDied as error:
        code = "reader-limit" if error.limit else "reader-crashed"
        raise SourceRefused(finding(code, names, error.message)) from error
    model.findings = [*bundle.findings, *review(model)]
    return model


def _read(path: Path, crew: Crew, ears: Ears, cancelled: Callable[[], bool]) -> Model:
    """Read it; where one entity brings the reader down, read it again without that one."""
    skip: set[int] = set()
    while True:
        suspect, blocks = 0, 0

        def on_report(word: str, values: tuple[Any, ...]) -> None:
            nonlocal suspect, blocks
            if word == "about":
                suspect = values[0]
            elif word == "details":
                ears.details(blocks, values[0])
                blocks += 1
            else:
                getattr(ears, word)(*values)

        try:
            model: Model = crew.run("receive", str(path), frozenset(skip), on_report=on_report, cancelled=cancelled)
            return model
        except ChildDied as error:
            if error.limit or not suspect or suspect in skip or len(skip) >= _MOST_DEATHS:
                raise
            skip.add(suspect)
