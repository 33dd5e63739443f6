"""The shape of a mesh in a few numbers, and how its outline compares with another's."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mend.normals import edges_of
from hemp_ladder.core.mesh.edges import Edges
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.seams import rings
from hemp_ladder.core.mesh.triangles import lengths

#: The picture that outlines are compared in: so many points along each side of the box, from so many directions.
_POINTS = 64
#: So many points of boxes are looked at in one go.
_AT_ONCE = 2_000_000
_WAYS = np.array([(1, 0, 0), (0, 1, 0), (0, 0, 1), (1, 1, 1), (1, -1, 1), (-1, 1, 1), (1, 1, -1)], float)
_WAYS /= np.linalg.norm(_WAYS, axis=1)[:, None]


@dataclass(frozen=True)
class Shape:
    """Of one mesh, in source coordinates.

    shells   what hangs together
    handles  holes that go through it, by Euler's number; of what is not closed none; -1 where that cannot be told
    rings    where its surface ends
    border   how long those are
    volume   signed, where it is closed; else 0
    area     of all triangles
    """

    shells: int
    handles: int
    rings: int
    border: float
    volume: float
    area: float

    @staticmethod
    def of(mesh: Mesh) -> "Shape":
        edges = edges_of(mesh)
        shells, _ = edges.shells
        borders = len(edges.borders)
        closed = not borders and not np.count_nonzero(edges.balance)
        spots = np.zeros((int(edges.places.max()) + 1, 3))
        spots[edges.places.reshape(-1)] = mesh.positions[mesh.triangles.reshape(-1)]
        border = lengths(spots[edges.end(edges.borders)] - spots[edges.start(edges.borders)]).sum() if borders else 0.0
        return Shape(
            shells, _handles(edges, shells) if closed else 0, rings(edges)[0] if borders else 0, float(border),
            mesh.volume() if closed else 0.0, mesh.area(),
        )  # fmt: skip


def _handles(edges: Edges, shells: int) -> int:
    """Of closed shells: V - E + F = 2 (shells - handles); -1 where surfaces touch in an edge, and it says nothing."""
    if (edges.uses != 2).any():
        return -1
    spots = int(np.count_nonzero(np.bincount(edges.places.reshape(-1))))
    faces = len(edges.sides) // 3
    return int(max(0, shells - (spots - len(edges.uses) + faces) // 2))


class Outlines:
    """What of the picture a mesh covers, seen from seven sides."""

    def __init__(self, mesh: Mesh) -> None:
        low, high = mesh.positions.min(axis=0), mesh.positions.max(axis=0)
        self._middle, self._radius = (low + high) / 2, float(np.linalg.norm(high - low)) / 2 or 1.0
        spots = self._placed(mesh)
        self._screens = [_Screen.over(spots, way) for way in _WAYS]
        self._seen = self._taken(spots, mesh)

    def changed(self, light: Mesh) -> float:
        """The largest share of an outline that is another for a lighter mesh: what only one of them covers, over what the
        full one covers."""
        shares = [
            np.count_nonzero(full != now) / np.count_nonzero(full)
            for full, now in zip(self._seen, self._taken(self._placed(light), light), strict=True) if full.any()
        ]  # fmt: skip
        return float(max(shares, default=0.0))

    def _placed(self, mesh: Mesh) -> NDArray[np.float64]:
        """Its points, (3, n): numpy is several times quicker along rows than down columns."""
        return np.ascontiguousarray(((mesh.positions - self._middle) / self._radius).T)

    def _taken(self, spots: NDArray[np.float64], mesh: Mesh) -> list[NDArray[np.bool_]]:
        return [screen.covered(spots, mesh.triangles) for screen in self._screens]


@dataclass(frozen=True, eq=False)
class _Screen:
    """A grid of points in a plane, and the plane's two directions in units of the grid: (2, 3), with where it begins, (2,)."""

    axes: NDArray[np.float64]
    low: NDArray[np.float64]

    @staticmethod
    def over(spots: NDArray[np.float64], way: NDArray[np.float64]) -> "_Screen":
        """A grid over points (3, n) as they are seen along a way, a little wider."""
        side = np.cross(way, (0, 0, 1) if abs(way[2]) < 0.9 else (1, 0, 0))
        side /= np.linalg.norm(side)
        axes = np.stack([side, np.cross(side, way)])
        flat = np.einsum("ij,jn->in", axes, spots)
        low, high = flat.min(axis=1), flat.max(axis=1)
        room = 0.01 * (high - low)
        step = np.maximum((high - low + 2 * room) / _POINTS, 1e-12)
        # Off the middle of cells, so that no point lies on an edge of something regular.
        return _Screen(axes / step[:, None], (low - room) / step + 0.4931)

    def covered(self, spots: NDArray[np.float64], triangles: NDArray[np.integer]) -> NDArray[np.bool_]:
        """Which of its points (k * k,) lie behind or before a triangle of points (3, n)."""
        seen = np.zeros(_POINTS * _POINTS, bool)
        flat = np.einsum("ij,jn->in", self.axes, spots) - self.low[:, None]
        cells = np.ceil(flat).clip(0, _POINTS).astype(np.int16)
        some = triangles
        for k in range(2):
            # Most triangles of a fine mesh lie between two rows of points, which whole numbers of few bytes tell fast.
            a, b, c = (cells[k][some[:, corner]] for corner in range(3))
            some = some[(a != b) | (b != c)]
        x, y = flat[0][some], flat[1][some]
        (left, down), (right, up) = (
            [way(way(item[:, 0], item[:, 1]), item[:, 2]).astype(np.int64) for item in (cells[0][some], cells[1][some])]
            for way in (np.minimum, np.maximum)
        )  # fmt: skip
        wide, high = right - left, up - down
        room = np.cumsum(wide * high)
        for start in range(0, int(room[-1]) if len(room) else 0, _AT_ONCE):
            # The points in the boxes of triangles in one row, and so many of them at once.
            entry = np.arange(start, min(start + _AT_ONCE, int(room[-1])))
            own = np.searchsorted(room, entry, side="right")
            entry -= room[own] - wide[own] * high[own]
            column, row = left[own] + entry % wide[own], down[own] + entry // wide[own]
            at = column * _POINTS + row
            fresh = np.flatnonzero(~seen[at])
            a, b, c = ((x[own[fresh], k] - column[fresh], y[own[fresh], k] - row[fresh]) for k in range(3))
            turns = [one[0] * two[1] - one[1] * two[0] for one, two in ((a, b), (b, c), (c, a))]
            inside = ((turns[0] > 0) == (turns[1] > 0)) & ((turns[1] > 0) == (turns[2] > 0))
            seen[at[fresh[inside]]] = True
        return seen
