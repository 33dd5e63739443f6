"""Triangles that a file brings as they are: kept as a body, and the step that makes a mesh of them."""

import io
import json
from collections.abc import Mapping, Sequence
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.chain.steps import First, Job
from hemp_ladder.core.mesh.mesh import Mesh, Runs
from hemp_ladder.core.mesh.triangles import cross

#: Positions and triangles alone, and with groups and what hangs on vertices.
_PLAIN, _DRESSED = b"meshed/1\n", b"meshed/2\n"


def write_meshed(
    positions: NDArray[np.float64],
    triangles: NDArray[np.integer],
    starts: NDArray[np.integer] | None = None,
    attributes: Mapping[str, NDArray[np.float32]] | None = None,
) -> bytes:
    """Positions (n, 3) and triangles (m, 3) as bytes; the same again for the same arrays.

    Where groups are given, `starts` (g + 1,) is the first triangle of each and m; `attributes` as in `Mesh`.
    """
    stream = io.BytesIO()
    arrays: list[NDArray[np.generic]] = [
        np.ascontiguousarray(positions, dtype="<f8"), np.ascontiguousarray(triangles, dtype="<i4"),
    ]  # fmt: skip
    told = dict(sorted((attributes or {}).items()))
    dressed = starts is not None
    if dressed:
        stream.write(json.dumps(list(told)).encode() + b"\n")
        arrays += [np.asarray(starts, "<i8"), *(np.ascontiguousarray(values, "<f4") for values in told.values())]
    for array in arrays:
        np.save(stream, array, allow_pickle=False)
    return (_DRESSED if dressed else _PLAIN) + stream.getvalue()


def read_meshed(data: bytes) -> Mesh:
    """The triangles that `write_meshed` wrote; those without area are left out. Where the file gave no normals, each has
    its own flat one."""
    stream = io.BytesIO(data[len(_PLAIN) :])
    dressed = data.startswith(_DRESSED)
    names: list[str] = json.loads(stream.readline()) if dressed else []
    positions, triangles = np.load(stream, allow_pickle=False), np.load(stream, allow_pickle=False)
    starts = np.load(stream, allow_pickle=False) if dressed else np.array([0, len(triangles)])
    attributes = {name: np.load(stream, allow_pickle=False) for name in names}
    groups = np.repeat(np.arange(len(starts) - 1), np.diff(starts))
    corners = positions[triangles]
    normals = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    lengths = np.linalg.norm(normals, axis=1)
    good = lengths > 0
    triangles, groups = triangles[good], groups[good]
    faces = Runs.each(np.searchsorted(groups, np.arange(len(starts))))
    if "normal" in attributes:
        return Mesh(positions, np.ascontiguousarray(triangles), attributes, {"face": faces})
    corners, normals = corners[good], normals[good] / lengths[good, None]
    split = {name: values[triangles.reshape(-1)] for name, values in attributes.items()}
    split["normal"] = np.repeat(normals, 3, axis=0).astype(np.float32)
    count = len(corners)
    return Mesh(corners.reshape(-1, 3), np.arange(3 * count, dtype=np.int32).reshape(-1, 3), split, {"face": faces})


class AsItCame(First):
    """Triangles are taken as the file brought them."""

    version: ClassVar[int] = 4
    kept: ClassVar[bool] = False
    does: Literal["came"] = "came"

    @classmethod
    def make(cls, jobs: Sequence[Job["AsItCame"]]) -> list[Mesh]:
        return [read_meshed(job.bodies[0]) for job in jobs]

    def seconds(self, faces: int) -> float:
        return 1e-2
