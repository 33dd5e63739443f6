"""Edges between triangles: which sides of triangles lie on each, and what hangs together across them."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Numbers = NDArray[np.int64]
Mask = NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class Edges:
    """The edges of triangles, by the numbers of the places that their corners lie in.

    places  (m, 3) number of the place of every corner
    sides   (k,) sides of triangles with three different places, those of one edge together. Side 3 t + c runs from
            corner c of triangle t to the next one
    first   (e + 1,) where the sides of each edge begin, and k
    codes   (e,) the ends of each edge in one number, in order

    Sides are sorted by the numbers of their ends packed into 64 bits: a quarter of a second for a million triangles.
    """

    places: Numbers
    sides: Numbers
    first: Numbers
    codes: Numbers

    @staticmethod
    def of(places: NDArray[np.integer]) -> "Edges":
        codes = _codes(places)
        order = np.argsort(codes)
        whole = _whole(places)
        if not whole.all():
            order = order[whole[order // 3]]
        ranked = codes[order]
        fresh = np.flatnonzero(np.concatenate([[True], ranked[1:] != ranked[:-1]])) if len(order) else np.zeros(0, int)
        return Edges(np.asarray(places, np.int64), order, np.append(fresh, len(order)), ranked[fresh])

    @cached_property
    def uses(self) -> Numbers:
        """How many sides lie on each edge, (e,)."""
        return np.diff(self.first)

    @cached_property
    def of_side(self) -> Numbers:
        """The edge that each of `sides` lies on, (k,)."""
        return np.asarray(np.repeat(np.arange(len(self.uses)), self.uses))

    def start(self, sides: Numbers) -> Numbers:
        """The places that sides start from."""
        return self.places.reshape(-1)[sides]

    def end(self, sides: Numbers) -> Numbers:
        """The places that sides run to."""
        return self.places.reshape(-1)[following(sides)]

    @cached_property
    def forward(self) -> Mask:
        """For each of `sides`, whether it runs from the lower number to the higher, (k,)."""
        return np.asarray(self.start(self.sides) < self.end(self.sides))

    @cached_property
    def balance(self) -> Numbers:
        """For each edge, how much oftener it is run along one way than the other, (e,)."""
        signs = np.where(self.forward, 1, -1)
        return np.asarray(np.add.reduceat(signs, self.first[:-1])) if len(self.uses) else np.zeros(0, np.int64)

    @cached_property
    def pairs(self) -> tuple[Numbers, Numbers]:
        """The two sides of every edge that has just two, each (p,)."""
        at = self.first[:-1][self.uses == 2]
        return self.sides[at], self.sides[at + 1]

    @cached_property
    def borders(self) -> Numbers:
        """Sides with no triangle on their other side, (b,)."""
        return np.asarray(self.sides[self.first[:-1][self.uses == 1]])

    @cached_property
    def shells(self) -> tuple[int, Numbers]:
        """How many shells there are, and the number of each triangle's, (m,): what hangs together by edges, in the order
        of their first triangles. A triangle with two corners in one place hangs on the edge that it lies on."""
        ends = self.sides // 3
        joined = np.ones(max(len(ends) - 1, 0), bool)
        joined[self.first[1:-1] - 1] = False
        one, two = ends[:-1][joined], ends[1:][joined]
        flat = np.flatnonzero(~_whole(self.places))
        if len(flat) and len(self.codes):
            sides = _codes(self.places[flat])
            at = np.minimum(np.searchsorted(self.codes, sides), len(self.codes) - 1)
            on = np.flatnonzero(self.codes[at] == sides)
            one, two = np.append(one, flat[on // 3]), np.append(two, ends[self.first[at[on]]])
        return components(len(self.places), one, two)


def _whole(places: NDArray[np.integer]) -> Mask:
    """Which triangles have three different places, (m,)."""
    a, b, c = places.T
    return np.asarray((a != b) & (b != c) & (c != a))


def _codes(places: NDArray[np.integer]) -> Numbers:
    """For every side of triangles (m, 3) its two ends, the lower first, in one number: (3 m,)."""
    start, end = places.reshape(-1).astype(np.int64), places[:, [1, 2, 0]].reshape(-1).astype(np.int64)
    return np.asarray((np.minimum(start, end) << 31) | np.maximum(start, end))


def following(sides: Numbers) -> Numbers:
    """The next side of the same triangle, for each side."""
    return np.asarray(np.where(sides % 3 == 2, sides - 2, sides + 1))


def components(count: int, one: NDArray[np.integer], two: NDArray[np.integer]) -> tuple[int, Numbers]:
    """What hangs together of so many things, given links between them: how many groups, and the number of each thing's."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    if not len(one):
        return count, np.arange(count)
    graph = coo_array((np.ones(len(one), bool), (one, two)), shape=(count, count))
    groups, labels = connected_components(graph, directed=False)
    return int(groups), np.asarray(labels, np.int64)
