"""Quads where two triangles make a good one: nearly flat and well shaped.

Pairs are taken greedily, the best first, by how far their corners are from right angles and how much they bend; what is left
then gets a neighbour along a path of three where that sets two free triangles right. Strips over cylinders, cones and tori
come out regular, because the two halves of a cell are flatter and squarer together than either is with its neighbour. A
matching that is the largest takes a thousand times as long and finds no more (measured).
"""

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.edges import Edges, Numbers
from hemp_ladder.core.mesh.triangles import cross, dot, lengths

Floats = NDArray[np.float64]

#: Corners of a quad lie within this of a right angle, in degrees; its halves lean by so much at the most.
_SKEW, _LEAN = 65.0, 20.0
#: Loose triangles for which a path is looked for.
_MOST = 300_000


def quads_of(positions: Floats, triangles: NDArray[np.int32]) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """The quads (q, 4) that triangles (m, 3) make where they share vertices, wound alike, the first corner on the edge that
    divided it; and the triangles that are left."""
    if len(triangles) < 2:
        return np.zeros((0, 4), np.int32), triangles
    one, two = Edges.of(triangles).pairs
    rings = _rings(triangles, one, two)
    cost = _costs(positions, rings)
    good = np.flatnonzero(np.isfinite(cost))
    owners = np.stack([one[good] // 3, two[good] // 3], axis=1)
    mate = _greedy(owners, cost[good], len(triangles))
    _lengthened(owners, mate)
    taken = np.unique(mate[mate >= 0])
    left = triangles[mate < 0]
    return rings[good[taken]].astype(np.int32), left


def _rings(triangles: NDArray[np.int32], one: Numbers, two: Numbers) -> NDArray[np.integer]:
    """For each pair of sides (p,) the four corners around both triangles, from the edge between them."""

    def corner(side: Numbers, step: int) -> NDArray[np.integer]:
        return np.asarray(triangles[side // 3, (side % 3 + step) % 3])

    return np.stack([corner(one, 0), corner(two, 2), corner(one, 1), corner(one, 2)], axis=1)


def _costs(positions: Floats, rings: NDArray[np.integer]) -> Floats:
    """How bad each quad is, (p,); infinite for one that is none."""
    corners = positions[rings]
    after = np.roll(corners, -1, axis=1) - corners
    long = np.linalg.norm(after, axis=2)
    before = np.roll(after, 1, axis=1)
    size = np.maximum(long * np.roll(long, 1, axis=1), 1e-300)
    angles = np.degrees(np.arccos(np.clip(-np.einsum("pki,pki->pk", after, before) / size, -1, 1)))
    skew = np.abs(angles - 90).max(axis=1)
    a, b, c, d = corners.transpose(1, 0, 2)
    first, second = cross(c - a, d - a), cross(b - a, c - a)
    lean = np.degrees(np.arctan2(lengths(cross(first, second)), dot(first, second)))
    # All four corners turn the same way, seen along the mean of both halves.
    mean = first / np.maximum(lengths(first), 1e-300)[:, None] + second / np.maximum(lengths(second), 1e-300)[:, None]
    turns = np.einsum("pki,pi->pk", np.cross(before, after), mean)
    bad = (skew > _SKEW) | (lean > _LEAN) | (turns <= 0).any(axis=1) | (long <= 0).any(axis=1)
    return np.where(bad, np.inf, skew / 90 + 2 * np.radians(lean))


def _greedy(owners: NDArray[np.integer], cost: Floats, count: int) -> Numbers:
    """For each triangle the pair it is in, -1 for none: in each round whatever is the best of both its triangles."""
    mate = np.full(count, -1, np.int64)
    # No two alike, so that there is a best everywhere.
    rank = np.empty(len(cost), np.int64)
    rank[np.argsort(cost, kind="stable")] = np.arange(len(cost))
    left = np.arange(len(cost))
    while len(left):
        best = np.full(count, len(cost), np.int64)
        for side in (0, 1):
            np.minimum.at(best, owners[left, side], rank[left])
        won = left[(best[owners[left, 0]] == rank[left]) & (best[owners[left, 1]] == rank[left])]
        mate[owners[won, 0]] = mate[owners[won, 1]] = won
        left = left[(mate[owners[left]] < 0).all(axis=1)]
    return mate


def _lengthened(owners: NDArray[np.integer], mate: Numbers) -> None:
    """Pair loose triangles over a pair that lies between them: that one is parted, both of its halves find another. Changes
    `mate`."""
    loose = np.flatnonzero(mate < 0)
    if not len(loose) or len(loose) > _MOST:
        return
    near: dict[int, list[tuple[int, int]]] = {}
    for pair, (a, b) in enumerate(owners.tolist()):
        near.setdefault(a, []).append((pair, b))
        near.setdefault(b, []).append((pair, a))
    for start in loose.tolist():
        if mate[start] >= 0:
            continue
        for out, middle in near.get(start, ()):
            between = mate[middle]
            if between < 0:
                mate[start] = mate[middle] = out
                break
            a, b = owners[between].tolist()
            other = b if a == middle else a
            end = next((item for item in near.get(other, ()) if mate[item[1]] < 0 and item[1] != start), None)
            if end is not None:
                mate[start] = mate[middle] = out
                mate[other] = mate[end[1]] = end[0]
                break
