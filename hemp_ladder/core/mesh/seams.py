"""Where a surface ends: its borders as rings, and ends of borders that lie on the middle of another (T-joints)."""

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.edges import Edges, Numbers, components
from hemp_ladder.core.mesh.triangles import dot, lengths

#: Beyond so many pairs of a border and a point near it, T-joints are not looked for.
_MOST_PAIRS = 20_000_000


def rings(edges: Edges) -> tuple[int, Numbers]:
    """How many rings the borders make, and the number of each border's, (b,): what hangs together by shared places."""
    ends = np.column_stack([edges.start(edges.borders), edges.end(edges.borders)])
    used, number = np.unique(ends, return_inverse=True)
    number = number.reshape(-1, 2)
    count, labels = components(len(used), number[:, 0], number[:, 1])
    return (count, labels[number[:, 0]]) if len(ends) else (0, np.zeros(0, np.int64))


def t_joints(
    edges: Edges, spots: NDArray[np.float64], reach: float
) -> tuple[Numbers, Numbers, NDArray[np.float64]] | None:
    """Places on the middle of borders that do not run through them: sides (t,), places (t,), and how far along each side
    its place lies, as a share of it (t,).

    spots (s, 3) are the places; a place is on a border that it is no farther from than `reach`. None where there are
    too many near each other to look.
    """
    from scipy.spatial import cKDTree

    borders = edges.borders
    start, end = edges.start(borders), edges.end(borders)
    places = np.unique(start)
    if not len(places):
        return np.zeros(0, np.int64), np.zeros(0, np.int64), np.zeros(0)
    tree = cKDTree(spots[places])
    from_, to = spots[start], spots[end]
    middle, radius = (from_ + to) / 2, lengths(to - from_) / 2 + reach
    near = tree.query_ball_point(middle, radius, return_length=True)
    if int(near.sum()) > _MOST_PAIRS:
        return None
    found = tree.query_ball_point(middle[near > 2], radius[near > 2])
    rows = np.repeat(np.flatnonzero(near > 2), near[near > 2])
    points = places[np.concatenate([np.asarray(item, np.int64) for item in found]) if len(found) else np.zeros(0, int)]
    along, across = to[rows] - from_[rows], spots[points] - from_[rows]
    length = lengths(along)
    share = np.divide(dot(along, across), length**2, out=np.zeros(len(rows)), where=length > 0)
    off = lengths(across - share[:, None] * along)
    on = (off <= reach) & (share * length > reach) & ((1 - share) * length > reach)
    on &= (points != start[rows]) & (points != end[rows])
    return borders[rows[on]], points[on], share[on]
