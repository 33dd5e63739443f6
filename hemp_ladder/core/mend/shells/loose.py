"""Loose shells of a mesh as they can be told to a person, with a point on each that finds it again."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mend.normals import edges_of
from hemp_ladder.core.mesh.counts import shell_boxes
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.nearest import Point
from hemp_ladder.core.mesh.triangles import cross, lengths, means


@dataclass(frozen=True)
class Shell:
    """One loose shell: a point on it, its triangles, its area, and its box; in source coordinates."""

    at: Point
    triangles: int
    area: float
    low: Point
    high: Point


def shells_of(mesh: Mesh, most: int = 1000) -> list[Shell]:
    """The shells, the largest by area first, so many at the most. The point is in the middle of the largest triangle."""
    if not len(mesh.triangles):
        return []
    count, label = edges_of(mesh).shells
    corners = mesh.corners
    area = lengths(cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])) / 2
    total, triangles = np.bincount(label, area, count), np.bincount(label, minlength=count)
    order = np.lexsort((-area, label))
    first = order[np.searchsorted(label[order], np.arange(count))]
    points = means(corners[first])
    low, high = shell_boxes(corners, label, count)
    return [
        Shell(_point(points[i]), int(triangles[i]), float(total[i]), _point(low[i]), _point(high[i]))
        for i in np.argsort(-total, kind="stable")[:most].tolist()
    ]


def _point(values: NDArray[np.float64]) -> Point:
    x, y, z = values.tolist()
    return x, y, z
