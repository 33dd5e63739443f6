"""The shortest edge: what is divided finer than that is made coarser, whatever body it came from.

A vertex moves onto a neighbour that is too near, and the triangles between them go (half-edge collapse). What a surface is
made of stays: corners stay, a vertex on the line where faces meet moves along that line, one inside a face never onto
another; what is closed stays closed (the link condition of Dey, Edelsbrunner and others, 1999), and nothing folds over.
"""

from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hemp_ladder.core.chain.steps import Operation
from hemp_ladder.core.lengths import Metres
from hemp_ladder.core.mesh.edges import Edges
from hemp_ladder.core.mesh.mesh import Mesh, Runs
from hemp_ladder.core.mesh.tree import Tree
from hemp_ladder.core.mesh.triangles import cross, dot, lengths
from hemp_ladder.core.settings import Range

#: A line that turns more than this at a vertex has a corner there (cosine of 75 degrees).
_CORNER = 0.2588
#: A triangle turns by no more than this (cosine of about 78 degrees), and its corners are lit from its own side.
_TURNED, _LIT = 0.2, 0.05
#: No side becomes longer than so many times what is asked for; where it is, it grows by so much at the most.
_FAR, _GROWN = 2.0, 1.05
#: In each round vertices far from one another move.
_ROUNDS = 200
#: A round that takes less than one in so many triangles away is the last.
_FEW = 1000

Numbers = NDArray[np.int64]
Mask = NDArray[np.bool_]


class Shortest(Operation):
    """How short a side of a triangle may be, where form does not need it."""

    version: ClassVar[int] = 1
    ranges: ClassVar[Mapping[str, Range]] = {"edge": Range(1e-4, 1, 0.01)}
    optional: ClassVar[bool] = True
    does: Literal["shortest"] = "shortest"
    edge: Annotated[Metres, Field(gt=0, le=1e12)]

    def in_coordinates(self, metres: float) -> Self:
        return self.model_copy(update={"edge": self.edge / metres})

    def apply(self, mesh: Mesh) -> Mesh:
        return thinned(mesh, self.edge)


def thinned(mesh: Mesh, edge: float) -> Mesh:
    """The mesh with as few sides shorter than an edge (in its coordinates) as its form allows. `effects` has by how many
    triangles it is less (`shortest`), and how far it lies from what it was, measured (`shortest.off`)."""
    triangles, owner = mesh.triangles.astype(np.int64), np.arange(len(mesh.triangles))
    for _ in range(_ROUNDS):
        if not len(triangles):
            break
        onto = _Round(mesh, triangles, edge).onto()
        if onto is None:
            break
        triangles = onto[triangles]
        before, places = len(triangles), mesh.same[triangles]
        kept = (places != np.roll(places, 1, axis=1)).all(axis=1)
        triangles, owner = triangles[kept], owner[kept]
        if (before - len(triangles)) * _FEW < before:
            break  # what is left would take as many rounds again
    if len(triangles) == len(mesh.triangles):
        return replace(mesh, figures=replace(mesh.figures, effects={**mesh.figures.effects, "shortest": 0.0}))
    used = np.zeros(len(mesh.positions), bool)
    used[triangles] = True
    index = np.cumsum(used) - 1
    after = replace(
        mesh, positions=mesh.positions[used], triangles=index[triangles].astype(np.int32), places=None,
        attributes={name: values[used] for name, values in mesh.attributes.items()},
        runs={name: Runs.labelled(runs.labels[owner], runs.count) for name, runs in mesh.runs.items()},
    )  # fmt: skip
    effects = {
        **mesh.figures.effects, "shortest": float(len(mesh.triangles) - len(triangles)),
        "shortest.off": _apart(mesh, after),
    }  # fmt: skip
    return replace(after, figures=replace(mesh.figures, open_edges=None, effects=effects))


def _apart(before: Mesh, after: Mesh) -> float:
    """The largest distance found between two meshes, either way: from vertices and the middles of sides and triangles."""
    largest = 0.0
    for one, two in ((before, after), (after, before)):
        corners = one.corners
        points = np.concatenate(
            [one.positions, (corners + np.roll(corners, -1, axis=1)).reshape(-1, 3) / 2, corners.mean(axis=1)]
        )
        largest = max(largest, float(Tree(two).nearest(points)[0].max(initial=0)))
    return largest


class _Round:
    """Which vertices can move at once, on triangles (m, 3) of a mesh's vertices."""

    def __init__(self, mesh: Mesh, triangles: Numbers, edge: float) -> None:
        self.mesh, self.triangles, self.edge = mesh, triangles, edge
        self.same = mesh.same
        self.places = self.same[triangles]
        self.count = int(self.same.max()) + 1
        self.spots = np.zeros((self.count, 3))
        self.spots[self.same] = mesh.positions
        self.edges = Edges.of(self.places)

    def onto(self) -> Numbers | None:
        """For each vertex the one it becomes, (n,); None where nothing is to be done."""
        start, end = self._ways()
        one, two, on_border = self._moves(start, end)
        linked = self._linked(one, two, on_border)
        one, two = one[linked], two[linked]
        holds = self._holds(one, two)
        one, two = one[holds], two[holds]
        won = self._apart(one, two)
        if not len(won):
            return None
        goes = np.full(self.count, -1, np.int64)
        goes[one[won]] = two[won]
        onto = np.arange(len(self.same))
        moved = goes[self.same[start]] == self.same[end]
        onto[start[moved][::-1]] = end[moved][::-1]
        return onto

    def _moves(self, start: Numbers, end: Numbers) -> tuple[Numbers, Numbers, Mask]:
        """From which place a short side leads to which, (k,) each, where what a surface is made of stays; and whether that
        is along a border."""
        # All vertices of a place, one for each face that meets there, are to be beside one of the other's.
        _, first = np.unique(start * self.count + self.same[end], return_index=True)
        place, other = self.same[start[first]], self.same[end[first]]
        _, at, beside = np.unique(place * self.count + other, return_index=True, return_counts=True)
        one, two = place[at], other[at]
        vertices = np.bincount(self.same[np.unique(self.triangles)], minlength=self.count)
        border, crowded = self._kinds()
        codes = np.minimum(one, two) << 31 | np.maximum(one, two)
        on_border = np.asarray(self.edges.uses[np.searchsorted(self.edges.codes, codes)] == 1)
        along = (beside == vertices[one]) & (~border[one] | on_border)
        lines = (vertices > 1) | border
        good = along & (lengths(self.spots[one] - self.spots[two]) < self.edge * (1 - 1e-9))
        good &= ~crowded[one] & ~crowded[two] & (~lines[one] | self._passes(one, two, along & lines[one])[one])
        return one[good], two[good], on_border[good]

    def _ways(self) -> tuple[Numbers, Numbers]:
        """Every side of every triangle, both ways, as vertices."""
        start, end = self.triangles.reshape(-1), self.triangles[:, [1, 2, 0]].reshape(-1)
        return np.concatenate([start, end]), np.concatenate([end, start])

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
        low, high = self.edges.codes >> 31, self.edges.codes & 0x7FFFFFFF
        start, end = np.concatenate([low, high]), np.concatenate([high, low])
        order = np.argsort(start, kind="stable")
        return _listed(places, start[order], end[order])

    def _linked(self, one: Numbers, two: Numbers, on_border: Mask) -> Mask:
        """Where both ends have no neighbours in common but those across from their edge."""
        row, near = self._rings(one)
        other = two[row]
        codes = np.minimum(near, other) << 31 | np.maximum(near, other)
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
        far = _FAR * self.edge
        grown = away[1] > np.where(away[0] > far, _GROWN * away[0], far)
        bad |= grown.reshape(-1, 3).any(axis=1)
        lit = self.mesh.normals[self.triangles[side // 3]].astype(np.float64)
        was = np.einsum("kci,ki->kc", lit, before) > 0
        bad |= (was & (np.einsum("kci,ki->kc", lit, after) < _LIT * size[:, None])).any(axis=1)
        return np.asarray(np.bincount(row[bad], minlength=len(one)) == 0)

    def _apart(self, one: Numbers, two: Numbers) -> Numbers:
        """Of moves, those that are the shortest of all that touch what they touch, so that none knows of another."""
        rank = np.empty(len(one), np.int64)
        # Of about the same length whichever, always the same: in order they would wait for one another.
        about = np.log2(np.maximum(lengths(self.spots[one] - self.spots[two]) / self.edge, 1e-9)).round(1)
        rank[np.lexsort((np.random.default_rng(7).permutation(len(one)), about))] = np.arange(len(one))
        row, near = self._rings(one)
        best = np.full(self.count, len(one), np.int64)
        np.minimum.at(best, one, rank)
        np.minimum.at(best, near, rank[row])
        lost = np.bincount(row[best[near] < rank[row]], minlength=len(one)) > 0
        return np.flatnonzero(~lost & (best[one] == rank))


def _listed(wanted: Numbers, keys: Numbers, values: Numbers) -> tuple[Numbers, Numbers]:
    """All values whose key, in sorted `keys`, is one of `wanted` (k,): which of the k, and the value."""
    first, last = np.searchsorted(keys, wanted), np.searchsorted(keys, wanted, side="right")
    count = last - first
    row = np.repeat(np.arange(len(wanted)), count)
    within = np.arange(len(row)) - np.repeat(np.cumsum(count) - count, count)
    return row, values[first[row] + within]
