"""Shelves: where a climb finds its meshes, or has them made by children."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

import numpy as np

from hemp_ladder.core.facet import MeshRequest
from hemp_ladder.core.mesh import Mesh
from hemp_ladder.work.children import Crew

#: Drawn parts that a child makes at once, at the most.
_TOGETHER = 128
#: Called with how many of how many meshes are made, and the part's key.
Progress = Callable[[int, int], None]


def make_meshes(
    requests: Sequence[MeshRequest],
    shape_of: Callable[[str], bytes],
    crew: Crew,
    keep: Callable[[MeshRequest, Mesh], None],
    cancelled: Callable[[], bool] = lambda: False,
) -> None:
    """Mesh every request in the crew's children and hand each to `keep` as it is made.

    The heavy ones go first, so that no child is left alone with one at the
    end; drawn ones, which take a millisecond each, go many at a time. A part
    whose child dies has an empty mesh with every face failed: the rest goes
    on.
    """
    shapes = {key: shape_of(key) for request in requests for key in request.shapes}
    ordered = sorted(requests, key=lambda request: -len(shapes[request.part_key]))
    heavy = [[request] for request in ordered if request.solid is None]
    light = [request for request in ordered if request.solid is not None]
    share = max(1, min(_TOGETHER, -(-len(light) // crew.size)))
    batches = [*heavy, *(light[i :: -(-len(light) // share)] for i in range(-(-len(light) // share)) if light)]
    while batches:
        again: list[list[MeshRequest]] = []
        inputs = (([_order(request, shapes) for request in batch],) for batch in batches)
        for number, outcome in crew.map("facet", inputs, cancelled=cancelled):
            batch = batches[number]
            if not isinstance(outcome, Exception):
                for request, mesh in zip(batch, outcome, strict=True):
                    keep(request, mesh)
            elif len(batch) == 1:
                keep(batch[0], no_mesh(batch[0]))
            else:
                again += [[request] for request in batch]
        batches = again


def _order(request: MeshRequest, shapes: Mapping[str, bytes]) -> Any:
    return [shapes[key] for key in request.shapes], request.chord, request.angle, request.cut, request.solid


def no_mesh(request: MeshRequest) -> Mesh:
    """What stands for a part that gave no triangles at all."""
    return Mesh(
        np.zeros((0, 3)), np.zeros((0, 3), np.float32), np.zeros((0, 3), np.int32),
        np.zeros(request.faces + 1, dtype=np.int64), 0.0, tuple(range(request.faces)),
    )  # fmt: skip


class MemoryShelf:
    """Keeps meshes in memory for one run of the command line."""

    def __init__(self, shapes: Mapping[str, bytes], crew: Crew, progress: Progress = lambda done, total: None) -> None:
        self._shapes = shapes
        self._crew = crew
        self._progress = progress
        self._kept: dict[str, Mesh] = {}

    def meshes(self, requests: Sequence[MeshRequest]) -> Mapping[str, Mesh]:
        missing = [request for request in requests if request.key not in self._kept]
        self._progress(0, len(missing))

        def keep(request: MeshRequest, mesh: Mesh) -> None:
            self._kept[request.key] = mesh
            done = sum(1 for item in missing if item.key in self._kept)
            self._progress(done, len(missing))

        make_meshes(missing, self._shapes.__getitem__, self._crew, keep)
        return self._kept
