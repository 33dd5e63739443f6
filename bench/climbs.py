"""Climbs in one process: the first, the second with nothing changed, and after single decisions."""

import tempfile
import time
from pathlib import Path

from hemp_ladder.core.climb import climb, plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.work.children import Crew
from hemp_ladder.work.meshing.shelf import MemoryShelf
from hemp_ladder.work.receiving.reading import Ears, receive_files


def climbs(path: Path) -> tuple[float, float, float, int]:
    """Seconds of the first climb and the second, of a changed rule, and meshes made for one part's own setting."""
    decisions = Decisions.model_validate({"facet": {"chord": {"kind": "absolute", "metres": 5e-4}, "degrees": 28}})
    shapes: dict[str, bytes] = {}
    made = 0

    def progress(done: int, total: int) -> None:
        nonlocal made
        made = total

    with Crew() as crew, tempfile.TemporaryDirectory() as folder:
        crew.warm()
        began = time.monotonic()
        model = receive_files(
            [(path.name, path)], Path(folder), crew, Ears(blob=lambda kind, name, data: shapes.__setitem__(name, data))
        )
        shelf = MemoryShelf(shapes, crew, progress)
        climb(model, decisions, shelf)
        first = time.monotonic() - began
        began = time.monotonic()
        climb(model, decisions, shelf)
        second = time.monotonic() - began
        ruled = decisions.model_validate(
            {**decisions.model_dump(), "sort": {"rules": [{"by": "name", "match": "Wheel*", "material": "brass"}]}}
        )
        began = time.monotonic()
        plan(model, ruled)
        rule = time.monotonic() - began
        own = {model.parts[0].ref: {"chord": {"kind": "absolute", "metres": 1e-4}}}
        finer = decisions.model_validate(
            {**decisions.model_dump(), "facet": {**decisions.facet.model_dump(), "parts": own}}
        )
        climb(model, finer, shelf)
    return first, second, rule, made
