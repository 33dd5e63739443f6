"""Arrays of triangles and points: products, boxes, places shared by points, edges that stay open."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

#: Finding the convex hull of points takes about as long as placing them this often.
_MANY = 40
#: So many placed points are looked at in one go.
_AT_ONCE = 100_000


def cross(first: NDArray[np.floating], second: NDArray[np.floating]) -> NDArray[np.float64]:
    """Cross products of vectors (n, 3), either of which may be one vector (3,); several times quicker than numpy's."""
    ax, ay, az = first[..., 0], first[..., 1], first[..., 2]
    bx, by, bz = second[..., 0], second[..., 1], second[..., 2]
    return np.stack([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx], axis=-1)


def dot(first: NDArray[np.float64], second: NDArray[np.float64]) -> NDArray[np.float64]:
    """Inner products of vectors (n, 3), (n,)."""
    return np.asarray(np.einsum("ij,ij->i", first, second))


def lengths(vectors: NDArray[np.float64]) -> NDArray[np.float64]:
    """Lengths of vectors (n, 3), (n,); several times quicker than numpy's norm along so short an axis."""
    return np.asarray(np.sqrt(np.einsum("ij,ij->i", vectors, vectors)))


def count_open_edges(triangles: NDArray[np.integer]) -> int:
    """Edges of triangles (m, 3) of position numbers that are not run along as often each way.

    Closed parts that touch along an edge keep it even, where the stricter
    "exactly two triangles an edge" would call both open.
    """
    a, b, c = triangles.T
    kept = triangles[(a != b) & (b != c) & (c != a)].astype(np.int64)
    if not len(kept):
        return 0
    if _balanced(kept):
        return 0
    start, end = kept.reshape(-1), kept[:, [1, 2, 0]].reshape(-1)
    step = int(kept.max()) + 1
    up, down = start < end, start > end
    there = start[up] * step + end[up]
    back = end[down] * step + start[down]
    edges, inverse = np.unique(np.concatenate([there, back]), return_inverse=True)
    signs = np.repeat([1, -1], [len(there), len(back)])
    return int(np.count_nonzero(np.bincount(inverse, weights=signs, minlength=len(edges))))


def _balanced(triangles: NDArray[np.int64]) -> bool:
    """Whether every edge of triangles with three different corners is run along as often each way: then, and but once in
    2^64 only then, the mixes of all edges' numbers, taken off where an edge is run along downwards, add up to nothing. A
    third of the time of sorting them."""
    total = 0
    for k in range(3):
        start, end = triangles[:, k], triangles[:, (k + 1) % 3]
        mixed = _mixed([np.minimum(start, end), np.maximum(start, end)])
        up = start < end
        total += 2 * int(np.sum(mixed[up], dtype=np.uint64)) - int(np.sum(mixed, dtype=np.uint64))
    return total % (1 << 64) == 0


def placed_box(
    positions: NDArray[np.float64], matrices: Sequence[NDArray[np.float64]] | NDArray[np.float64]
) -> NDArray[np.float64]:
    """Lowest and highest corner, (2, 3), of all positions (n, 3) at all places, each (4, 4)."""
    if len(matrices) > _MANY:
        positions = _extreme_points(positions)
    box = np.array([[np.inf] * 3, [-np.inf] * 3])
    # Several places at once, rows of coordinates behind one another: that is how numpy finds extremes quickly.
    step = max(1, _AT_ONCE // max(1, len(positions)))
    for start in range(0, len(matrices), step):
        some = np.asarray(matrices[start : start + step])
        placed = (some[:, :3, :3] @ positions.T).reshape(-1, len(positions))
        for row, extreme, keep in ((0, placed.min, np.min), (1, placed.max, np.max)):
            found = extreme(axis=1).reshape(-1, 3) + some[:, :3, 3]
            box[row] = keep([box[row], keep(found, axis=0)], axis=0)
    return box


def means(corners: NDArray[np.floating]) -> NDArray[np.float64]:
    """Mean of the three corners of triangles (m, 3, k), (m, k); several times quicker than numpy's along so short an axis."""
    return np.asarray((corners[:, 0].astype(np.float64) + corners[:, 1] + corners[:, 2]) / 3)


def _extreme_points(positions: NDArray[np.float64]) -> NDArray[np.float64]:
    """Few points with the same convex hull, so that placing them gives the box of placing all."""
    from scipy.spatial import ConvexHull, QhullError

    try:
        return np.asarray(positions[ConvexHull(positions).vertices])
    except (QhullError, ValueError):
        return positions


def weld_tolerance(positions: NDArray[np.float64]) -> float:
    """A millionth of the box: above the rounding of curve points, below any detail a mesh shows."""
    if not len(positions):
        return 0.0
    return float(np.ptp(positions, axis=0).max()) * 1e-6 or 1e-12


def weld_indices(positions: NDArray[np.float64], tolerance: float) -> NDArray[np.int64]:
    """Number positions so that those nearer than `tolerance` share a number.

    Identical positions fold first (a sort), so that the KD-tree sees each
    place once; pairs within the tolerance are then joined as connected
    components, which cannot miss a pair at a cell border as rounding does.
    """
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import cKDTree

    inverse, places = folded(positions)
    if not len(places):
        return inverse
    pairs = cKDTree(places).query_pairs(tolerance, output_type="ndarray")
    if not len(pairs):
        return inverse
    ones = np.ones(len(pairs), dtype=bool)
    graph = coo_array((ones, (pairs[:, 0], pairs[:, 1])), shape=(len(places), len(places)))
    _, label = connected_components(graph, directed=False)
    return np.asarray(label[inverse], dtype=np.int64)


def folded(positions: NDArray[np.float64]) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """For each position (n, 3) the number of its place, and the places: the same position is the same place."""
    plain = np.ascontiguousarray(positions, np.float64) + 0.0  # no negative zero
    number, first = numbered(list(plain.view(np.int64).T))
    return number, plain[first]


def numbered(columns: Sequence[NDArray[np.integer]]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Rows given as columns of whole numbers, each (n,): for each row the number of its like, and where the first of
    each stands. Equal rows have equal numbers, in the order in which they are met.

    Rows are sorted by a mix of their numbers with where they stand in its lowest bits: numbers alone sort several times
    as fast as places by them. Those that mix to the same and differ are told apart by their numbers.
    """
    count = len(columns[0])
    low = np.uint64(max(1, count - 1).bit_length())
    packed = (_mixed(columns) >> low << low) | np.arange(count, dtype=np.uint64)
    packed.sort()
    order = (packed & ((np.uint64(1) << low) - np.uint64(1))).astype(np.int64)
    packed >>= low
    fresh = np.ones(count, bool)
    np.not_equal(packed[1:], packed[:-1], out=fresh[1:])
    number, first = np.empty(count, np.int64), order[fresh]
    number[order] = np.cumsum(fresh) - 1
    strays = np.zeros(count, bool)
    for column in columns:
        strays |= column[first][number] != column
    if strays.any():
        rows = np.flatnonzero(strays)
        own, met = _by_rank([column[rows] for column in columns])
        number[rows] = len(first) + own
        first = np.concatenate([first, rows[met]])
    return _as_met(number, first)


def _as_met(number: NDArray[np.int64], first: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """The same groups in the order in which their first ones stand, so that what was near stays near."""
    leads = np.zeros(len(number), bool)
    leads[first] = True
    rank = np.cumsum(leads) - 1
    return rank[first][number], np.flatnonzero(leads)


def _by_rank(columns: Sequence[NDArray[np.integer]]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """The same of rows by the ranks of their numbers, column by column: slow, and never mistaken."""
    whole = np.zeros(len(columns[0]), np.int64)
    for column in columns:
        rank = np.unique(column, return_inverse=True)[1]
        whole = np.unique(whole * (int(rank.max(initial=0)) + 1) + rank, return_inverse=True)[1]
    _, first, number = np.unique(whole, return_index=True, return_inverse=True)
    return number, first


def in_use(numbers: NDArray[np.integer], count: int) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Of so many things those that are numbered among `numbers`, and for every number of a thing its number among them."""
    used = np.zeros(count, bool)
    used[numbers.reshape(-1)] = True
    return np.flatnonzero(used), np.cumsum(used) - 1


def _mixed(columns: Sequence[NDArray[np.integer]]) -> NDArray[np.uint64]:
    """One number for each row: columns multiplied, shifted and added in turn, with odd constants near the golden ratio
    and that of MurmurHash3's finisher (A. Appleby, public domain)."""
    mixed = np.zeros(len(columns[0]), np.uint64)
    for column in columns:
        mixed += np.ascontiguousarray(column, np.int64).view(np.uint64)
        mixed *= np.uint64(0xFF51AFD7ED558CCD)
        mixed ^= mixed >> np.uint64(32)
    mixed *= np.uint64(0x9E3779B97F4A7C15)
    return mixed


def facing_as_wound(
    positions: NDArray[np.float64], normals: NDArray[np.float32], triangles: NDArray[np.int32]
) -> tuple[NDArray[np.float64], NDArray[np.float32], NDArray[np.int32]]:
    """The same triangles, where no corner's normal looks away from the side that the winding shows.

    Across a tight bend, as on a thread or a thin blade's edge, a facet that keeps its chord error can lean further
    than a right angle from the surface's normal at one of its corners; such a corner gets a vertex of its own with
    the triangle's normal. The new vertices stand last.
    """
    flat = cross(*(positions[triangles[:, k]] - positions[triangles[:, 0]] for k in (1, 2)))
    length = np.linalg.norm(flat, axis=1)
    against = np.einsum("ij,ikj->ik", flat, normals[triangles]) <= 1e-3 * length[:, None]
    rows, corners = np.nonzero(against & (length > 0)[:, None])
    if not len(rows):
        return positions, normals, triangles
    old = triangles[rows, corners]
    changed = triangles.copy()
    changed[rows, corners] = len(positions) + np.arange(len(rows), dtype=np.int32)
    own = (flat[rows] / length[rows, None]).astype(np.float32)
    return np.concatenate([positions, positions[old]]), np.concatenate([normals, own]), changed
