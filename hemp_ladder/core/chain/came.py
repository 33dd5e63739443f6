"""Triangles that a file brings as they are: kept as a body, and the step that makes a mesh of them."""

import io
import json
from collections.abc import Mapping, Sequence
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.chain.steps import First, Job
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.mesh.mesh import Mesh, Runs
from hemp_ladder.core.mesh.triangles import cross, dot, lengths, numbered

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
        told = Figures(bad_normals=_bad_normals(positions, triangles, attributes, normals[good]))
        return Mesh(positions, np.ascontiguousarray(triangles), attributes, {"face": faces}, told)
    corners, normals = corners[good], normals[good] / lengths[good, None]
    split = {name: values[triangles.reshape(-1)] for name, values in attributes.items()}
    split["normal"] = np.repeat(normals, 3, axis=0).astype(np.float32)
    count = len(corners)
    told = Figures(bad_normals={"missing": len(positions)} if count else {})
    loose = np.arange(3 * count, dtype=np.int32).reshape(-1, 3)
    return Mesh(corners.reshape(-1, 3), loose, split, {"face": faces}, told)


def _bad_normals(
    positions: NDArray[np.float64], triangles: NDArray[np.int32], attributes: Mapping[str, NDArray[np.float32]],
    across: NDArray[np.float64],
) -> dict[str, int]:  # fmt: skip
    """What is wrong with the normals that a file brought: how many vertices have none (`zero`), one that is not of length
    one (`long`), one that looks away from the side that a triangle shows (`against`), or are the like of an earlier one
    (`split`). Lengths are put right as they come in."""
    given = attributes["normal"].astype(np.float64)
    length = lengths(given)
    zero = length < 1e-6
    away = dot(given[triangles.reshape(-1)], np.repeat(across, 3, axis=0)) < 0
    rows = list(np.ascontiguousarray(positions + 0.0).view(np.int64).T)
    for name, values in sorted(attributes.items()):
        step = 1e3 if name == "normal" else 1e6
        rows += list(np.round(values.astype(np.float64) * step).astype(np.int64).T)
    used = np.zeros(len(positions), bool)
    used[triangles] = True
    found: dict[str, Any] = {
        "zero": np.count_nonzero(zero & used),
        "long": np.count_nonzero(~zero & used & (np.abs(length - 1) > 1e-2)),
        "against": len(np.unique(triangles.reshape(-1)[away])),
        "split": np.count_nonzero(used) - len(numbered([row[used] for row in rows])[1]) if used.any() else 0,
    }
    return {name: int(count) for name, count in found.items() if count}


class AsItCame(First):
    """Triangles are taken as the file brought them."""

    version: ClassVar[int] = 5
    faulty: ClassVar[bool] = True
    kept: ClassVar[bool] = False
    does: Literal["came"] = "came"

    @classmethod
    def make(cls, jobs: Sequence[Job["AsItCame"]]) -> list[Mesh]:
        return [read_meshed(job.bodies[0]) for job in jobs]

    def seconds(self, faces: int) -> float:
        return 1e-2
