"""Receiving a source in a child process, so that a file that kills its reader ends as a finding."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from hemp_ladder.core.errors import Cancelled, UnreadableSource
from hemp_ladder.core.findings import Finding, finding
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.model.references import name_parts
from hemp_ladder.core.receive.bundle import Bundle
from hemp_ladder.core.receive.review import review
from hemp_ladder.work.children import ChildDied, Crew

#: So many single entities may bring their reader down before the whole file is given up.
_MOST_DEATHS = 4
#: What reading a file may take of processor time: so many seconds, so many more for each of its first megabytes,
#: and fewer for each beyond: large files are plain ones.
_LEAST_SECONDS, _PER_MEGABYTE, _FIRST, _PER_FURTHER = 60.0, 30.0, 20, 5.0
#: So often a reader that was ended from outside, as by a system short of memory, begins again.
_MOST_KILLED = 2
#: Beside a second a megabyte, how long a single entity may hold the reader up, in seconds of processor time: in the fast reading,
#: where it only makes the reader more careful, and in the careful one, where it is left out.
_SECONDS_FAST, _SECONDS_CAREFUL = 2.0, 3.5


def _allowed(size: int) -> float:
    """Seconds of processor for reading so many bytes."""
    megabytes = size / 1e6
    return _LEAST_SECONDS + _PER_MEGABYTE * min(megabytes, _FIRST) + _PER_FURTHER * max(0.0, megabytes - _FIRST)


class SourceRefused(UnreadableSource):
    """A source that gives no model, with the finding that says why."""

    def __init__(self, found: Finding) -> None:
        super().__init__(found.message, found.remedy)
        self.finding = found


def _unheard(*_: Any) -> None:
    pass


@dataclass(frozen=True)
class Ears:
    """Who hears what is found: blobs by kind and name, stages with a count, the structure; some parts before it is known
    what they are called and where they stand; the name of the file that is read, with those of files in the bundle that
    stand for themselves."""

    blob: Callable[[str, str, bytes], None] = _unheard
    stage: Callable[[str, int], None] = _unheard
    skeleton: Callable[[Model], None] = _unheard
    ahead: Callable[[Model], None] = _unheard
    opened: Callable[[str, list[str]], None] = _unheard


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
        # In a child too: what is packed, recoded or looked through for references can grow to anything.
        size = sum(path.stat().st_size for _, path in files)
        bundle: Bundle = crew.run(
            "open", files, str(folder), root, cancelled=cancelled, seconds=lambda *_: _allowed(size)
        )
        ears.opened(bundle.name, bundle.others)
        model = name_parts(_read(bundle.root, crew, ears, cancelled))
    except UnreadableSource as error:
        raise SourceRefused(finding("unreadable-source", names, error.message, error.remedy)) from error
    except ChildDied as error:
        code = "reader-limit" if error.limit else "reader-crashed"
        raise SourceRefused(finding(code, names, error.message)) from error
    model.findings = [*bundle.findings, *review(model)]
    return model


def _read(path: Path, crew: Crew, ears: Ears, cancelled: Callable[[], bool]) -> Model:
    """Read it; where one entity brings the reader down or holds it up, read it again without that one.

    The first time it goes all at once and fast. After a fall it goes one by
    one, so that the next fall has a name.
    """
    skip: set[int] = set()
    careful = False
    killed = 0
    size = path.stat().st_size / 1e6
    while True:
        suspect, since, stuck = 0, 0.0, False
        allowed = size + (_SECONDS_CAREFUL if careful else _SECONDS_FAST)

        def on_report(word: str, values: tuple[Any, ...]) -> None:
            nonlocal suspect, since
            if word == "about":
                suspect, since = values[0], crew.processor_time()
            else:
                getattr(ears, word)(*values)

        def ended() -> bool:
            nonlocal stuck
            stuck = bool(suspect) and crew.processor_time() - since > allowed  # noqa: B023
            return stuck or cancelled()

        try:
            model: Model = crew.run(
                "receive", str(path), frozenset(skip), careful, on_report=on_report, cancelled=ended,
                seconds=lambda *_: _allowed(path.stat().st_size),
            )  # fmt: skip
            return model
        except (ChildDied, Cancelled) as error:
            if isinstance(error, Cancelled) and not stuck:
                raise
            if isinstance(error, ChildDied) and error.killed and killed < _MOST_KILLED:
                killed += 1
                continue
            if isinstance(error, ChildDied) and (error.limit or error.killed or not suspect):
                raise
            if careful:
                if suspect in skip or len(skip) >= _MOST_DEATHS:
                    message = f"More than {_MOST_DEATHS} of its entities bring the reader down or hold it up."
                    raise ChildDied(message, limit=stuck) from error
                skip.add(suspect)
            careful = True
