"""The triangle nearest to a point."""

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import dot, lengths

Point = tuple[float, float, float]


def nearest_triangle(mesh: Mesh, point: Point) -> int:
    """The number of the triangle that a point is nearest to; the first of several. The mesh has triangles.

    C. Ericson, "Real-Time Collision Detection" (2005), 5.1.5, for all triangles at once: the foot of the point on the
    plane where it lies inside, else the nearest place on the sides.
    """
    at = np.asarray(point, np.float64)
    a, b, c = mesh.corners.transpose(1, 0, 2)
    distance = np.min([_to_segment(at, p, q) for p, q in ((a, b), (b, c), (c, a))], axis=0)
    normal = np.cross(b - a, c - a)
    square = dot(normal, normal)
    inside = square > 0
    for p, q in ((a, b), (b, c), (c, a)):
        inside &= dot(np.cross(q - p, at - p), normal) >= 0
    height = np.abs(dot(at - a, normal)) / np.sqrt(np.where(square > 0, square, 1.0))
    return int(np.where(inside, np.minimum(height, distance), distance).argmin())


def _to_segment(at: NDArray[np.float64], p: NDArray[np.float64], q: NDArray[np.float64]) -> NDArray[np.float64]:
    along = q - p
    square = dot(along, along)
    share = np.clip(dot(at - p, along) / np.where(square > 0, square, 1.0), 0, 1)
    return lengths(p + share[:, None] * along - at)
