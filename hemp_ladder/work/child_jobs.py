"""The jobs that run in children: the only module of `work` that imports the kernel."""

import importlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

from hemp_ladder.core import kernel  # noqa: F401  (imported here so that the fork server has it)
from hemp_ladder.core.mesh import Mesh
from hemp_ladder.core.model import Model
from hemp_ladder.core.receive import reader_of

Report = Callable[..., None]


def receive(path: str, report: Report) -> Model:
    """Read the source at `path`; reports ("shape", key, bytes) for every part and ("stage", name, count)."""
    source = Path(path)
    return reader_of(source)(
        source,
        lambda key, data: report("shape", key, data),
        lambda stage, count: report("stage", stage, count),
    )


def facet(shape: bytes, chord: float, angle: float, report: Report) -> Mesh:
    """Mesh one exact shape; chord in source coordinates, angle in radians."""
    from hemp_ladder.core.facet.tessellate import tessellate

    return tessellate(shape, chord, angle)


def at_leisure() -> None:
    """Import what only some jobs need, while there is none to do."""
    for name in ("hemp_ladder.core.facet.tessellate", "scipy.interpolate", "scipy.spatial", "scipy.sparse.csgraph"):
        importlib.import_module(name)


JOBS: dict[str, Callable[..., Any]] = {"receive": receive, "facet": facet}
