"""Shelves: where a climb finds its meshes, or has them made by children."""

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from hemp_ladder.core.facet import MeshRequest
from hemp_ladder.core.mesh import Mesh
from hemp_ladder.work.children import Crew

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
    end. A part whose child dies has an empty mesh with every face failed:
    the rest goes on.
    """
    shapes = {request.part_key: shape_of(request.part_key) for request in requests}
    ordered = sorted(requests, key=lambda request: -len(shapes[request.part_key]))
    inputs = ((shapes[request.part_key], request.chord, request.angle, request.cut) for request in ordered)
    for number, outcome in crew.map("facet", inputs, cancelled=cancelled):
        request = ordered[number]
        keep(request, no_mesh(request) if isinstance(outcome, Exception) else outcome)


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
