"""The jobs that read files, which children must be able to begin with at once, and the way to the others. With
`child_shapes` the only modules of `work` that import the kernel."""

import gc
import importlib
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from hemp_ladder.core.memory import without_collector
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.bundle import Bundle, open_bundle
from hemp_ladder.core.receive.readers import need_reader

with without_collector():
    # So that the fork server has it. A sixth of its import was looking for cycles among a hundred thousand new objects,
    # all of which stay: they are not looked over after it either.
    importlib.import_module("hemp_ladder.core.kernel.shapes")
    gc.freeze()

Report = Callable[..., None]


@dataclass(frozen=True)
class _Line:
    """A reader's `Report` through the child's pipe: each method's name and values."""

    send: Report
    skip: frozenset[int]
    careful: bool

    def __getattr__(self, word: str) -> Callable[..., None]:
        return lambda *values: self.send(word, *values)


def receive(path: str, skip: frozenset[int], careful: bool, report: Report) -> Model:
    """Read the source at `path`, leaving out the entities to skip; reports all that a reader does."""
    source = Path(path)
    line: Any = _Line(report, skip, careful)
    return need_reader(source).read(source, line)


def open_files(files: list[tuple[str, Path]], folder: str, root: str | None, report: Report) -> Bundle:
    """Lay files side by side, unpacking what is packed, and find the one to read."""
    return open_bundle(files, Path(folder), root)


def at_leisure(asked: Callable[[], bool] = lambda: False) -> None:
    """Import what only some jobs need, what most need first, until one is `asked`: it then waits for one line to end."""
    for name in (
        _OTHERS,
        "hemp_ladder.core.facet.tessellate",
        # What the evaluation of splines takes, piece by piece: in one it takes longer than to read a small file.
        "numpy.polynomial",
        "numpy.f2py",
        "scipy.linalg",
        "scipy.special",
        "scipy.spatial",
        "scipy.optimize",
        "scipy.interpolate",
        "hemp_ladder.core.drawn.make",
        "hemp_ladder.core.facet.gauge",
        "hemp_ladder.core.facet.looking",
        "hemp_ladder.core.fit.marks.exact",
        "hemp_ladder.core.fit.marks.meshed",
        "hemp_ladder.core.mend.study",
        "hemp_ladder.core.sort.inside",
        "hemp_ladder.core.trim.match",
        "scipy.sparse.csgraph",
        "hemp_ladder.core.mend.rays",
        "hemp_ladder.core.mend.repair.crossing",
        "igl.predicates",
        "wasmtime",
        "shapely",
    ):
        if asked():
            return
        importlib.import_module(name)


JOBS: dict[str, Callable[..., Any]] = {"receive": receive, "open": open_files}
_OTHERS = "hemp_ladder.work.child_shapes"


def job_called(name: str) -> Callable[..., Any]:
    """One of the jobs here, or of those whose module comes in when the first of them is asked for."""
    if name in JOBS:
        return JOBS[name]
    found: Callable[..., Any] = importlib.import_module(_OTHERS).JOBS[name]
    return found
