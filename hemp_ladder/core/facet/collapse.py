"""Half-edge collapse: vertices of a mesh move onto near neighbours, many at once, as far as its form stays."""

from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.edges import Edges
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import cross, dot, lengths

#: A line that turns more than this at a vertex has a corner there (cosine of 75 degrees).
_CORNER = 0.2588
#: A triangle turns by no more than this (cosine of about 78 degrees), and its corners are lit from its own side.
_TURNED, _LIT = 0.2, 0.05
#: No side becomes longer than so many times what is asked for, or grows by more than so much at once.
_FAR, _GROWN = 2.0, 1.05
#: So often is looked for more that can move in the same round.
_PICKS = 8

Numbers = NDArray[np.int64]
Mask = NDArray[np.bool_]


class Collapse:
    """The triangles (m, 3) of a mesh while they become fewer, and from which each came, (m,).

    What was found not to do is not tried again until something changes near it, so that rounds become as small as what
    is left to do.
    """

    def __init__(self, mesh: Mesh, edge: float) -> None:
        self.mesh, self.edge = mesh, edge
        # Sides without any length go first.
        places = mesh.same[mesh.triangles]
        self.owner = np.flatnonzero((places != places[:, [1, 2, 0]]).all(axis=1))
        self.triangles = mesh.triangles[self.owner].astype(np.int64)
        self.count = int(mesh.same.max(initial=-1)) + 1
        self.spots = np.zeros((self.count, 3))
        self.spots[mesh.same] = mesh.positions
        #: Which sides may still give way: from its start onto its end, and the other way.
        self.open = np.ones((2, len(self.triangles), 3), bool)

    def round(self) -> int:
        """Move what can move at once. How many moves were made or found not to do; 0 where nothing is left."""
        places = self.mesh.same[self.triangles]
        ends = places[:, [1, 2, 0]]
        sides = lengths((self.spots[places] - self.spots[ends]).reshape(-1, 3)).reshape(-1, 3)
        self.open &= sides < self.edge * (1 - 1e-9)
        open_ = self.open.any(axis=0)
        near = np.zeros(self.count, bool)
        near[places[open_]] = near[ends[open_]] = True
        # All that a move depends on lies around its two ends.
        around = np.flatnonzero(near[places].any(axis=1))
        if not len(around):
            return 0
        one, two, shut = _Round(self, self.triangles[around]).moves(self.open[:, around], near)
        first, second = places[around], ends[around]
        self.open[0, around] &= ~np.isin(_pairs(first, second), shut)
        self.open[1, around] &= ~np.isin(_pairs(second, first), shut)
        self._move(one, two, places, ends)
        return len(one) + len(shut)

    def _move(self, one: Numbers, two: Numbers, places: Numbers, ends: Numbers) -> None:
        goes = np.full(self.count, -1, np.int64)
        goes[one] = two
        moves = goes[places] >= 0
        touched = np.zeros(self.count, bool)
        touched[places[moves.any(axis=1)]] = True
        # A vertex becomes the one that it has a side with at the other place.
        onto = np.arange(len(self.mesh.same))
        start, end = self.triangles, self.triangles[:, [1, 2, 0]]
        for here, there, low, high in ((start, end, places, ends), (end, start, ends, places)):
            along = goes[low] == high
            onto[here[along][::-1]] = there[along][::-1]
        self.triangles = onto[self.triangles]
        after = self.mesh.same[self.triangles]
        following = after[:, [1, 2, 0]]
        kept = (after != following).all(axis=1)
        self.open |= touched[after] | touched[following]
        self.triangles, self.owner, self.open = self.triangles[kept], self.owner[kept], self.open[:, kept]


def _pairs(one: Numbers, two: Numbers) -> Numbers:
    """Two numbers of places in one."""
    return one << 31 | two


class _Round:
    """Which vertices can move at once, on triangles (m, 3) that hold all around them."""

    def __init__(self, whole: Collapse, triangles: Numbers) -> None:
        self.mesh, self.triangles, self.edge = whole.mesh, triangles, whole.edge
        self.same, self.count, self.spots = whole.mesh.same, whole.count, whole.spots
        self.places = self.same[triangles]
        self.edges = Edges.of(self.places)

    def moves(self, open_: Mask, near: Mask) -> tuple[Numbers, Numbers, Numbers]:
        """From which places (k,) to which (k,) vertices move, and the pairs of places for which that will not do.

        open_ (2, m, 3) says of which sides is not known that they will not do; near, which places such sides end at.
        """
        one, two, on_border, good, asked = self._candidates(open_, near)
        shut = [_pairs(one[asked & ~good], two[asked & ~good])]
        one, two, on_border = one[asked & good], two[asked & good], on_border[asked & good]
        won = self._apart(one, two)
        one, two, on_border = one[won], two[won], on_border[won]
        does = self._linked(one, two, on_border)
        does[does] = self._holds(one[does], two[does])
        shut.append(_pairs(one[~does], two[~does]))
        return one[does], two[does], np.concatenate(shut)

    def _candidates(self, open_: Mask, near: Mask) -> tuple[Numbers, Numbers, Mask, Mask, Mask]:
        """Ways from place to place, (k,) each; whether that is along a border, whether what a surface is made of would
        stay, and whether it is asked for."""
        start, end = self.triangles.reshape(-1), self.triangles[:, [1, 2, 0]].reshape(-1)
        start, end = np.concatenate([start, end]), np.concatenate([end, start])
        here = near[self.same[start]]
        start, end, asked = start[here], end[here], open_.reshape(-1)[here]
        # All vertices of a place, one for each face that meets there, are to be beside one of the other's.
        _, first = np.unique(start * self.count + self.same[end], return_index=True)
        place, other = self.same[start[first]], self.same[end[first]]
        _, at, beside = np.unique(place * self.count + other, return_index=True, return_counts=True)
        one, two, asked = place[at], other[at], asked[first][at]
        vertices = np.bincount(self.same[np.unique(self.triangles)], minlength=self.count)
        border, crowded = self._kinds()
        codes = _pairs(np.minimum(one, two), np.maximum(one, two))
        on_border = np.asarray(self.edges.uses[np.searchsorted(self.edges.codes, codes)] == 1)
        along = (beside == vertices[one]) & (~border[one] | on_border)
        lines = (vertices > 1) | border
        good = along & ~crowded[one] & ~crowded[two]
        good &= ~lines[one] | self._passes(one, two, along & lines[one])[one]
        return one, two, on_border, good, asked

    def _kinds(self) -> tuple[Mask, Mask]:
        """Which places lie on a border, and at which more than two triangles share an edge."""
        border, crowded = np.zeros(self.count, bool), np.zeros(self.count, bool)
        for mask, which in ((border, self.edges.uses == 1), (crowded, self.edges.uses > 2)):
            ends = self.edges.codes[which]
            mask[ends >> 31] = mask[ends & 0x7FFFFFFF] = True
        return border, crowded

    def _passes(self, one: Numbers, two: Numbers, along: Mask) -> Mask:
        """At which places a line goes through without a corner: just two ways go on along it."""
        one, two = one[along], two[along]
        order = np.argsort(one, kind="stable")
        one, two = one[order], two[order]
        passes = np.zeros(self.count, bool)
        first = np.flatnonzero(np.concatenate([[True], one[1:] != one[:-1]])) if len(one) else np.zeros(0, np.int64)
        twice = first[np.diff(np.append(first, len(one))) == 2]
        here, before, after = self.spots[one[twice]], self.spots[two[twice]], self.spots[two[twice + 1]]
        size = lengths(here - before) * lengths(after - here)
        passes[one[twice]] = dot(here - before, after - here) > _CORNER * size
        return passes

    def _rings(self, places: Numbers) -> tuple[Numbers, Numbers]:
        """The neighbours of places (k,): which of the k each belongs to, and the neighbour."""
        return _listed(places, *self._beside)

    @cached_property
    def _beside(self) -> tuple[Numbers, Numbers]:
        """Every place, in order, with each of its neighbours."""
        low, high = self.edges.codes >> 31, self.edges.codes & 0x7FFFFFFF
        start, end = np.concatenate([low, high]), np.concatenate([high, low])
        order = np.argsort(start, kind="stable")
        return start[order], end[order]

    def _linked(self, one: Numbers, two: Numbers, on_border: Mask) -> Mask:
        """Where both ends have no neighbours in common but those across from their edge."""
        row, near = self._rings(one)
        other = two[row]
        codes = _pairs(np.minimum(near, other), np.maximum(near, other))
        at = np.searchsorted(self.edges.codes, codes).clip(max=len(self.edges.codes) - 1)
        common = np.bincount(row[(self.edges.codes[at] == codes) & (near != other)], minlength=len(one))
        return np.asarray(common == np.where(on_border, 1, 2))

    def _holds(self, one: Numbers, two: Numbers) -> Mask:
        """Where no triangle around folds over, vanishes, or turns from the light its corners are in."""
        corner = np.argsort(self.places.reshape(-1), kind="stable")
        row, side = _listed(one, self.places.reshape(-1)[corner], corner)
        own = self.places[side // 3]
        stays = (own != two[row][:, None]).all(axis=1)
        row, side, own = row[stays], side[stays], own[stays]
        now = self.spots[own]
        then = now.copy()
        then[np.arange(len(side)), side % 3] = self.spots[two[row]]
        before = cross(now[:, 1] - now[:, 0], now[:, 2] - now[:, 0])
        after = cross(then[:, 1] - then[:, 0], then[:, 2] - then[:, 0])
        size = np.maximum(lengths(after), 1e-300)
        bad = dot(before, after) <= _TURNED * lengths(before) * size
        longest = np.max([lengths(then[:, k] - then[:, k - 1]) for k in range(3)], axis=0)
        bad |= size < 1e-6 * longest * longest
        # Nor does a side grow much beyond what is asked for: what has taken a neighbour in is not to move on for ever.
        away = [
            lengths(sides[np.arange(len(side)), side % 3][:, None].repeat(3, 1).reshape(-1, 3) - sides.reshape(-1, 3))
            for sides in (now, then)
        ]
        grown = away[1] > np.maximum(_GROWN * away[0], _FAR * self.edge)
        bad |= grown.reshape(-1, 3).any(axis=1)
        lit = self.mesh.normals[self.triangles[side // 3]].astype(np.float64)
        was = np.einsum("kci,ki->kc", lit, before) > 0
        bad |= (was & (np.einsum("kci,ki->kc", lit, after) < _LIT * size[:, None])).any(axis=1)
        return np.asarray(np.bincount(row[bad], minlength=len(one)) == 0)

    def _apart(self, one: Numbers, two: Numbers) -> Numbers:
        """Of moves, as many as touch nothing in common, from the shortest on, so that none knows of another (after
        M. Luby, "A simple parallel algorithm for the maximal independent set problem", 1986)."""
        rank = np.empty(len(one), np.int64)
        rank[self._order(one, two)] = np.arange(len(one))
        best = np.full(self.count, len(one), np.int64)
        np.minimum.at(best, one, rank)
        left = np.flatnonzero(best[one] == rank)
        taken, won = np.zeros(self.count, bool), []
        row, near = self._rings(one[left])
        row, near = np.concatenate([row, np.arange(len(left))]), np.concatenate([near, one[left]])
        for _ in range(_PICKS):
            best[:] = len(one)
            np.minimum.at(best, near, rank[left[row]])
            wins = np.bincount(row[best[near] < rank[left[row]]], minlength=len(left)) == 0
            won.append(left[wins])
            taken[near[wins[row]]] = True
            free = np.bincount(row[taken[near]], minlength=len(left)) == 0
            if not free.any():
                break
            index, kept = np.cumsum(free) - 1, free[row]
            left, row, near = left[free], index[row[kept]], near[kept]
        return np.concatenate(won)

    def _order(self, one: Numbers, two: Numbers) -> Numbers:
        """Moves (k,) from the shortest on. Of about the same length whichever, but always the same: in order they would wait
        for one another."""
        short = np.maximum(lengths(self.spots[one] - self.spots[two]) / self.edge, 1e-9)
        return np.lexsort((np.random.default_rng(7).permutation(len(one)), np.log2(short).round(1)))


def _listed(wanted: Numbers, keys: Numbers, values: Numbers) -> tuple[Numbers, Numbers]:
    """All values whose key, in sorted `keys`, is one of `wanted` (k,): which of the k, and the value."""
    first, last = np.searchsorted(keys, wanted), np.searchsorted(keys, wanted, side="right")
    count = last - first
    row = np.repeat(np.arange(len(wanted)), count)
    within = np.arange(len(row)) - np.repeat(np.cumsum(count) - count, count)
    return row, values[first[row] + within]
