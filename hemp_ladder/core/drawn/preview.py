"""Drawn parts as lines on a plan: few points, all parts of a model in one block of bytes."""

import io
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.drawn.curves import Points

#: Points over all parts; what does not fit shows as its box.
MOST_POINTS = 500_000


@dataclass(frozen=True)
class Preview:
    """Rings one after the other, in the coordinates of the part each belongs to.

    of      (r,) int32, the part
    count   (r,) int32, its points
    closed  (r,) bool
    points  (n, 2) float32
    """

    of: NDArray[np.int32]
    count: NDArray[np.int32]
    closed: NDArray[np.bool_]
    points: NDArray[np.float32]


def write_preview(rings: Sequence[Sequence[tuple[Points, bool]]]) -> bytes:
    """For each part its rings, each with whether it is closed."""
    of, count, closed, points, total = [], [], [], [np.zeros((0, 2))], 0
    for part, lines in enumerate(rings):
        for line, shut in lines:
            if total + len(line) > MOST_POINTS:
                low, high = line.min(axis=0), line.max(axis=0)
                line, shut = np.array([low, [high[0], low[1]], high, [low[0], high[1]]]), True
            of.append(part)
            count.append(len(line))
            closed.append(shut)
            points.append(line)
            total += len(line)
    stream = io.BytesIO()
    np.savez_compressed(
        stream, of=np.array(of, np.int32), count=np.array(count, np.int32), closed=np.array(closed, bool),
        points=np.concatenate(points).astype(np.float32),
    )  # fmt: skip
    return stream.getvalue()


def read_preview(data: bytes) -> Preview:
    """The lines that `write_preview` wrote."""
    with np.load(io.BytesIO(data), allow_pickle=False) as found:
        return Preview(found["of"], found["count"], found["closed"], found["points"])
