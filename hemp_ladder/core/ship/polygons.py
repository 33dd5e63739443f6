"""Triangles as larger faces: what is flat as few convex ones, and pairs that make good quads. Every reader cuts them up again."""

import math

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.edges import Edges, following
from hemp_ladder.core.mesh.triangles import cross, dot, lengths
from hemp_ladder.core.ship.quads import quads_of

#: Cosine of the angle that neighbours of one polygon lean by at the most.
_FLAT = 1 - 1e-9
#: Sine of the turn at a corner below which it goes straight on.
_TURN = 1e-6


def polygons_of(
    positions: NDArray[np.float64], triangles: NDArray[np.int32]
) -> tuple[list[list[int]], NDArray[np.int32]]:
    """The polygons that triangles (m, 3) make where they share vertices, each as its vertices in order, and the triangles
    that are left. A polygon of n corners stands for n - 2 triangles, all of it seen from its first corner: it is convex,
    turns at every corner, and has no hole. What is flat and is not so, or has holes, becomes a few that are.

    Sides between triangles are taken away, the longest first, wherever what is left stays convex: no more than four times
    the fewest pieces (S. Hertel and K. Mehlhorn, "Fast triangulation of simple polygons", 1983).
    """
    corners = positions[triangles]
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    long = lengths(across)
    normal = np.divide(across, long[:, None], out=np.zeros_like(across), where=long[:, None] > 0)
    one, two = Edges.of(triangles).pairs
    level = dot(normal[one // 3], normal[two // 3]) > _FLAT
    one, two = one[level], two[level]
    ways = positions[triangles.reshape(-1)[following(one)]] - positions[triangles.reshape(-1)[one]]
    order = np.argsort(-lengths(ways), kind="stable")
    # Neighbours of neighbours may lean more: all of a polygon lies flat with the first of it.
    pieces = _Pieces(positions, triangles, normal)
    for first, second in zip(one[order].tolist(), two[order].tolist(), strict=True):
        pieces.join(first, second)
    rings = pieces.rings()
    left = np.array([ring for ring in rings if len(ring) == 3], np.int32).reshape(-1, 3)
    return [ring for ring in rings if len(ring) > 3], left


class _Pieces:
    """Convex pieces that triangles are joined to, by the sides that run around each."""

    def __init__(
        self, positions: NDArray[np.float64], triangles: NDArray[np.int32], normal: NDArray[np.float64]
    ) -> None:
        sides = np.arange(triangles.size)
        # One number after the other is looked at here, which lists are quicker for than arrays.
        self._flat: list[int] = triangles.reshape(-1).tolist()
        self._spots: list[list[float]] = positions[triangles.reshape(-1)].tolist()
        self._normal: list[list[float]] = normal.tolist()
        self._after: list[int] = following(sides).tolist()
        self._before: list[int] = following(following(sides)).tolist()
        self._of = list(range(len(triangles)))
        self._gone = bytearray(triangles.size)

    def join(self, first: int, second: int) -> None:
        """Take the side away that is `first` in one piece and `second` in another, where that leaves one that is convex."""
        one, two = self._root(first // 3), self._root(second // 3)
        if one == two:
            return
        (ax, ay, az), (bx, by, bz) = self._normal[one], self._normal[two]
        if ax * bx + ay * by + az * bz <= _FLAT:
            return
        after, before = self._after, self._before
        # At either end of the side one piece comes in and the other goes out.
        if not (self._turns(before[first], after[second], one) and self._turns(before[second], after[first], one)):
            return
        for start, end in ((before[first], after[second]), (before[second], after[first])):
            after[start], before[end] = end, start
        self._gone[first] = self._gone[second] = 1
        self._of[two] = one

    def _root(self, piece: int) -> int:
        while self._of[piece] != piece:
            self._of[piece] = self._of[self._of[piece]]
            piece = self._of[piece]
        return piece

    def _turns(self, into: int, out: int, piece: int) -> bool:
        """Whether the way turns to the left where one side ends and another begins."""
        fx, fy, fz = self._spots[into]
        mx, my, mz = self._spots[out]
        tx, ty, tz = self._spots[self._after[out]]
        ax, ay, az, bx, by, bz = mx - fx, my - fy, mz - fz, tx - mx, ty - my, tz - mz
        nx, ny, nz = self._normal[piece]
        turn = (ay * bz - az * by) * nx + (az * bx - ax * bz) * ny + (ax * by - ay * bx) * nz
        size = math.sqrt((ax * ax + ay * ay + az * az) * (bx * bx + by * by + bz * bz))
        return turn > _TURN * size

    def rings(self) -> list[list[int]]:
        """The vertices around every piece, from its lowest side on."""
        met = bytearray(self._gone)
        found = []
        for side in range(len(met)):
            if met[side]:
                continue
            ring, at = [], side
            while not met[at]:
                met[at] = 1
                ring.append(self._flat[at])
                at = self._after[at]
            least = ring.index(min(ring))
            found.append(ring[least:] + ring[:least])
        return found


def fanned(
    positions: NDArray[np.float64], triangles: NDArray[np.int32], flats: bool = True, quads: bool = False
) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """The triangles face by face, each cut up from its first corner as readers cut it, and how many corners each face has:
    flat regions as few convex faces where `flats` says so, of the rest two triangles as one where `quads` does and they
    make a good one."""
    rings: list[list[int]] = []
    if flats:
        rings, triangles = polygons_of(positions, triangles)
    found = [triangles]
    if quads:
        good, found[0] = quads_of(positions, triangles)
        found.append(good)
    by_size: dict[int, list[list[int]]] = {}
    for ring in rings:
        by_size.setdefault(len(ring), []).append(ring)
    found += [np.array(alike, np.int32) for _, alike in sorted(by_size.items())]
    sizes = [np.full(len(faces), faces.shape[1], np.int32) for faces in found]
    fans = [
        np.stack([np.broadcast_to(faces[:, :1], faces[:, 1:-1].shape), faces[:, 1:-1], faces[:, 2:]], axis=-1)
        for faces in found
    ]
    return np.concatenate([item.reshape(-1, 3) for item in fans]).astype(np.int32), np.concatenate(sizes)


def faces_in(triangles: NDArray[np.int32], sizes: NDArray[np.int32] | None) -> list[NDArray[np.int32]]:
    """The faces that `fanned` cut up, in their order, (f, n) for each stretch of as many corners; the triangles themselves
    where nothing was. A mirrored place runs around every face the other way, from the same corner."""
    if sizes is None:
        return [triangles]
    found = []
    changes = np.flatnonzero(np.diff(sizes)) + 1
    start = 0
    for stretch in np.split(sizes, changes):
        if not len(stretch):
            continue
        count, corners = len(stretch), int(stretch[0])
        fans = triangles[start : start + count * (corners - 2)].reshape(count, corners - 2, 3)
        start += count * (corners - 2)
        if corners > 3 and fans[0, 0, 2] != fans[0, 1, 1]:
            fans = fans[:, ::-1]
        found.append(np.concatenate([fans[:, 0, :2], fans[:, :, 2]], axis=1))
    return found
