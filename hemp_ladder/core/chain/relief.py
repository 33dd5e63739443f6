"""Heights over a grid: kept as a body, and the step that makes triangles of them."""

import io
from collections.abc import Sequence
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hemp_ladder.core.chain.steps import First, Job
from hemp_ladder.core.mesh.mesh import Mesh


def write_heights(heights: NDArray[np.floating]) -> bytes:
    """Heights (rows, columns), the first row along X at the lowest Y, as bytes; NaN where there is no ground."""
    stream = io.BytesIO()
    np.save(stream, np.ascontiguousarray(heights, dtype="<f4"), allow_pickle=False)
    return stream.getvalue()


class Relief(First):
    """Two triangles a cell of the grid, shaded by the slopes of the heights."""

    version: ClassVar[int] = 1
    does: Literal["relief"] = "relief"
    low: tuple[float, float] = Field(description="X and Y of the first height, in source coordinates")
    high: tuple[float, float] = Field(description="X and Y of the last")

    @classmethod
    def make(cls, jobs: Sequence[Job["Relief"]]) -> list[Mesh]:
        return [_mesh(np.load(io.BytesIO(job.bodies[0]), allow_pickle=False), job.step) for job in jobs]

    def seconds(self, faces: int) -> float:
        return 0.5


def _mesh(heights: NDArray[np.float32], step: Relief) -> Mesh:
    """Cells with a corner without ground are left out. Slopes are central differences, one-sided at the border."""
    rows, columns = heights.shape
    xs, ys = (np.linspace(step.low[axis], step.high[axis], count) for axis, count in ((0, columns), (1, rows)))
    z = heights.astype(np.float64)
    positions = np.stack([*np.meshgrid(xs, ys), z], axis=-1).reshape(-1, 3)
    along_y, along_x = np.gradient(z, ys, xs) if min(rows, columns) > 1 else (np.zeros_like(z), np.zeros_like(z))
    normals = np.stack([-along_x, -along_y, np.ones_like(z)], axis=-1).reshape(-1, 3)
    normals = np.nan_to_num(normals / np.linalg.norm(normals, axis=1, keepdims=True), nan=0.0)
    number = np.arange(rows * columns).reshape(rows, columns)
    a, b, c, d = number[:-1, :-1], number[:-1, 1:], number[1:, 1:], number[1:, :-1]
    triangles = np.concatenate([np.stack([a, b, c], axis=-1), np.stack([a, c, d], axis=-1)], axis=-1).reshape(-1, 3)
    ground = np.isfinite(positions[:, 2])
    triangles = triangles[ground[triangles].all(axis=1)]
    used, index = np.unique(triangles, return_inverse=True)
    kept = index.reshape(-1, 3).astype(np.int32)
    return Mesh.of(positions[used], normals[used].astype(np.float32), kept, np.array([0, len(kept)]))
