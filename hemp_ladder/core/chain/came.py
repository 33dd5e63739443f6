"""Triangles that a file brings as they are: kept as a body, and the step that makes a mesh of them."""

import io
from collections.abc import Sequence
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.chain.steps import First, Job
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import cross

_MAGIC = b"meshed/1\n"


def write_meshed(positions: NDArray[np.float64], triangles: NDArray[np.integer]) -> bytes:
    """Positions (n, 3) and triangles (m, 3) as bytes; the same again for the same arrays."""
    stream = io.BytesIO()
    np.save(stream, np.ascontiguousarray(positions, dtype="<f8"), allow_pickle=False)
    np.save(stream, np.ascontiguousarray(triangles, dtype="<i4"), allow_pickle=False)
    return _MAGIC + stream.getvalue()


def read_meshed(data: bytes) -> Mesh:
    """The triangles that `write_meshed` wrote, each with its own flat normal. Those without area are left out."""
    stream = io.BytesIO(data[len(_MAGIC) :])
    positions, triangles = np.load(stream, allow_pickle=False), np.load(stream, allow_pickle=False)
    corners = positions[triangles]
    normals = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    lengths = np.linalg.norm(normals, axis=1)
    good = lengths > 0
    corners, normals = corners[good], normals[good] / lengths[good, None]
    count = len(corners)
    return Mesh.of(
        corners.reshape(-1, 3),
        np.repeat(normals, 3, axis=0).astype(np.float32),
        np.arange(3 * count, dtype=np.int32).reshape(-1, 3),
        np.array([0, count]),
    )


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
