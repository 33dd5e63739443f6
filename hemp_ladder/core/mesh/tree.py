"""`Tree`: the place on a mesh that is nearest to a point, and points spread over it."""

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import cross, lengths

#: Among vertices and points spread by area, the share of the first.
_VERTICES = 0.5


class Tree:
    """A mesh that distances are measured to, with its tree. Raises ValueError where it has no triangle, over which the
    library's tree ends the process."""

    def __init__(self, mesh: Mesh) -> None:
        from igl import AABB

        if not len(mesh.triangles):
            raise ValueError("a mesh without triangles is near to nothing")
        self.mesh = mesh
        self.positions = np.ascontiguousarray(mesh.positions, np.float64)
        self.triangles = np.ascontiguousarray(mesh.triangles, np.int64)
        self._tree = AABB()
        self._tree.init(self.positions, self.triangles)

    def nearest(
        self, points: NDArray[np.float64]
    ) -> tuple[NDArray[np.float64], NDArray[np.int64], NDArray[np.float64]]:
        """Of points (n, 3): how far the surface is, the triangle that is nearest, and the place on it."""
        squares, triangles, places = self._tree.squared_distance(self.positions, self.triangles, points)
        return np.sqrt(squares), np.asarray(triangles, np.int64), np.asarray(places)

    def points(self, count: int) -> tuple[NDArray[np.float64], NDArray[np.int64], int]:
        """Points on it, as `spread_points` gives them."""
        return spread_points(self.mesh, count)


def spread_points(mesh: Mesh, count: int) -> tuple[NDArray[np.float64], NDArray[np.int64], int]:
    """Points on a mesh, always the same: half of them vertices, half spread by area; the triangle of each; how many of them
    are vertices, which come first."""
    corners = mesh.corners
    dice = np.random.default_rng(5)
    used = np.asarray(mesh.triangles, np.int64).reshape(-1)
    first = np.full(len(mesh.positions), -1, np.int64)
    first[used[::-1]] = np.arange(len(used))[::-1]
    sides = first[first >= 0]
    if len(sides) > count * _VERTICES:
        sides = dice.permutation(sides)[: int(count * _VERTICES)]
    area = lengths(cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]))
    total = np.cumsum(area)
    left = max(count - len(sides), 1)
    chosen = np.searchsorted(total, dice.random(left) * total[-1], side="right").clip(0, len(area) - 1)
    one, two = dice.random((2, left))
    over = one + two > 1
    one[over], two[over] = 1 - one[over], 1 - two[over]
    a, b, c = corners[chosen].transpose(1, 0, 2)
    inside = a + one[:, None] * (b - a) + two[:, None] * (c - a)
    points = np.concatenate([mesh.positions[used[sides]], inside])
    return points, np.concatenate([sides // 3, chosen]), len(sides)
