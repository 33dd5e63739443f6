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
    sides   (k,) sides that have a length, those of one edge together. Side 3 t + c runs from corner c of triangle t
            to the next one
    first   (e + 1,) where the sides of each edge begin, and k

    Sides are sorted by the numbers of their ends packed into 64 bits: a quarter of a second for a million triangles.
    """

    places: Numbers
    sides: Numbers
    first: Numbers

    @staticmethod
    def of(places: NDArray[np.integer]) -> "Edges":
        start, end = places.reshape(-1).astype(np.int64), places[:, [1, 2, 0]].reshape(-1).astype(np.int64)
        codes = np.minimum(start, end) * (int(places.max(initial=0)) + 1) + np.maximum(start, end)
        order = np.argsort(codes)
        order = order[start[order] != end[order]]
        ranked = codes[order]
        fresh = np.flatnonzero(np.concatenate([[True], ranked[1:] != ranked[:-1]])) if len(order) else np.zeros(0, int)
        return Edges(np.asarray(places, np.int64), order, np.append(fresh, len(order)))

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
        of their first triangles."""
        ends = self.sides // 3
        joined = np.ones(max(len(ends) - 1, 0), bool)
        joined[self.first[1:-1] - 1] = False
        return components(len(self.places), ends[:-1][joined], ends[1:][joined])


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
