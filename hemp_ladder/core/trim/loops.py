"""Outlines of regions of triangles: closed loops of corners, thinned where they go straight, and covered anew."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.edges import Edges, Mask, Numbers, components, following
from hemp_ladder.core.mesh.triangles import lengths, numbered
from hemp_ladder.core.trim.prepare import Prepared
from hemp_ladder.core.trim.regions import Regions, frame_of


@dataclass(frozen=True, eq=False)
class Loops:
    """The borders of all regions as entries, those of one loop in a row, in the order in which they are run along.

    vertex   (e,) the prepared vertex that each begins at
    region   (e,) whose outline it is
    loop     (e,) the number of its loop, rising
    region_of_triangle  (m,)
    """

    vertex: Numbers
    region: Numbers
    loop: Numbers
    region_of_triangle: Numbers
    regions: int

    @cached_property
    def starts(self) -> Numbers:
        """Where each loop begins, and the number of entries."""
        fresh = np.concatenate([[True], self.loop[1:] != self.loop[:-1]])[: len(self.loop)]
        return np.append(np.flatnonzero(fresh), len(self.loop))

    @cached_property
    def after(self) -> Numbers:
        """The next entry of the same loop."""
        found = np.arange(1, len(self.vertex) + 1)
        found[self.starts[1:] - 1] = self.starts[:-1]
        return found

    @cached_property
    def before(self) -> Numbers:
        found = np.empty(len(self.vertex), np.int64)
        found[self.after] = np.arange(len(self.vertex))
        return found

    @cached_property
    def count_by_region(self) -> Numbers:
        """How many loops each region has, (r,)."""
        return np.bincount(self.region[self.starts[:-1]], minlength=self.regions)

    def worst_between(self, keep: Mask, spots: NDArray[np.float64], tolerance: float) -> Numbers:
        """Of the entries between two kept ones of a loop the one that lies farthest from the straight piece between them,
        where that is too far; of loops with fewer than three kept, an entry more."""
        kept = np.flatnonzero(keep)
        counts = np.add.reduceat(keep.astype(np.int64), self.starts[:-1]) if len(self.vertex) else np.zeros(0, np.int64)
        poor = np.flatnonzero(counts < 3)
        more = [self._spread(loop, keep, spots) for loop in poor.tolist()]
        some = np.asarray([item for item in more if item >= 0], np.int64)
        gone = np.flatnonzero(~keep & (counts >= 3)[self.loop]) if len(self.vertex) else np.zeros(0, np.int64)
        if not len(gone):
            return some
        at = np.searchsorted(kept, gone)
        first, last = self.starts[self.loop[gone]], self.starts[self.loop[gone] + 1] - 1
        low, high = np.searchsorted(kept, first), np.searchsorted(kept, last, side="right") - 1
        one = kept[np.where(at - 1 >= low, at - 1, high)]
        two = kept[np.where(at <= high, np.minimum(at, len(kept) - 1), low)]
        here, a, b = (spots[self.vertex[entries]] for entries in (gone, one, two))
        along, across = b - a, here - a
        square = np.maximum(np.einsum("ij,ij->i", along, along), 1e-300)
        share = np.clip(np.einsum("ij,ij->i", along, across) / square, 0, 1)
        off = lengths(across - share[:, None] * along)
        far = off > tolerance
        if not far.any():
            return some
        gone, one, off = gone[far], one[far], off[far]
        worst = np.full(len(self.vertex), -1, np.int64)
        order = np.argsort(off, kind="stable")
        worst[one[order]] = gone[order]
        return np.concatenate([some, worst[worst >= 0]])

    def _spread(self, loop: int, keep: Mask, spots: NDArray[np.float64]) -> int:
        """An entry of a loop that is far from those it keeps; -1 where it has none left."""
        entries = np.arange(self.starts[loop], self.starts[loop + 1])
        free = entries[~keep[entries]]
        if not len(free):
            return -1
        held = entries[keep[entries]]
        if not len(held):
            return int(free[0])
        apart = np.min([lengths(spots[self.vertex[free]] - spots[self.vertex[item]]) for item in held.tolist()], axis=0)
        return int(free[int(apart.argmax())])

    def outlines(self, keep: Mask, wanted: Numbers, ready: Prepared, regions: Regions) -> "list[Outline | None]":
        """The outline of each wanted region in its plane, of its kept corners; None where it is none."""
        by_region = np.argsort(self.region[self.starts[:-1]], kind="stable")
        first = np.searchsorted(self.region[self.starts[:-1]][by_region], np.arange(self.regions + 1))
        found: list[Outline | None] = []
        for number in wanted.tolist():
            loops = by_region[first[number] : first[number + 1]]
            frame = frame_of(regions.normal[number])
            rings: list[tuple[Numbers, NDArray[np.float64], float]] = []
            for loop in loops.tolist():
                entries = np.arange(self.starts[loop], self.starts[loop + 1])
                vertices = self.vertex[entries[keep[entries]]]
                flat = ready.positions[vertices] @ frame.T
                rings.append((vertices, flat, _area(flat)))
            outer = [ring for ring in rings if ring[2] > 0]
            if len(outer) != 1 or any(len(ring[0]) < 3 for ring in rings):
                found.append(None)
                continue
            holes = [ring for ring in rings if ring[2] <= 0]
            found.append(Outline(outer[0][1], [ring[1] for ring in holes], [outer[0][0], *(ring[0] for ring in holes)]))
        return found


@dataclass(frozen=True, eq=False)
class Outline:
    """A polygon with holes in a plane, and the vertices of its rings, the outer first."""

    shell: NDArray[np.float64]
    holes: list[NDArray[np.float64]] = field(default_factory=list)
    vertices: list[Numbers] = field(default_factory=list)


def anew(outlines: list[Outline], polygons: NDArray[Any]) -> list[Numbers | None]:
    """For each outline, given as its polygon too, triangles (n + 2 h - 2, 3) of its vertices, wound as its outer ring; None
    where that cannot be done.

    By constrained Delaunay triangulation (general-purpose geometry library), of all in one go.
    """
    import shapely

    points, of = shapely.get_coordinates(shapely.constrained_delaunay_triangles(polygons), return_index=True)
    found, of = points.reshape(-1, 4, 2)[:, :3], of[::4]
    corners = np.concatenate([np.concatenate([item.shell, *item.holes]) for item in outlines])
    vertices = np.concatenate([np.concatenate(item.vertices) for item in outlines])
    counts = np.array([sum(map(len, item.vertices)) for item in outlines])
    holes = np.array([len(item.holes) for item in outlines])
    owner = np.repeat(np.arange(len(outlines)), counts)
    # Both in one list, so that a corner of a triangle gets the number of the corner of its outline that it is.
    spots = np.concatenate([corners, found.reshape(-1, 2)]) + 0.0
    number, first = numbered([np.concatenate([owner, np.repeat(of, 3)]), *np.ascontiguousarray(spots.T).view(np.int64)])
    good: Mask = np.asarray(np.bincount(of, minlength=len(outlines)) == counts + 2 * holes - 2)
    good[owner[first[number[: len(owner)]] != np.arange(len(owner))]] = False
    at = first[number[len(owner) :]].reshape(-1, 3)
    known: Mask = np.asarray((at < len(owner)).all(axis=1))
    a, b, c = found.transpose(1, 0, 2)
    turn = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    good[of[~known | (turn == 0)]] = False
    triangles = vertices[np.where(known[:, None], at, 0)]
    back = np.flatnonzero(turn < 0)
    triangles[back] = triangles[back, ::-1]
    ends = np.searchsorted(of, np.arange(len(outlines) + 1))
    return [triangles[ends[k] : ends[k + 1]] if ok else None for k, ok in enumerate(good.tolist())]


def loops_of(ready: Prepared, regions: Regions, edges: Edges) -> Loops:
    """The outlines of all regions. After a border comes the one that is met by turning about its end through the triangles
    of the region: so outlines that touch in a corner stay two."""
    other = np.full(3 * len(ready.triangles), -1, np.int64)
    one, two = edges.pairs
    joined = (regions.of[one // 3] == regions.of[two // 3]) & (edges.start(one) == edges.end(two))
    other[one[joined]], other[two[joined]] = two[joined], one[joined]
    for there, back in _crowded(regions, edges):
        other[there], other[back] = back, there
    sides = np.sort(edges.sides[other[edges.sides] < 0])
    after = following(sides)
    while True:
        inner = np.flatnonzero(other[after] >= 0)
        if not len(inner):
            break
        after[inner] = following(other[after[inner]])
    number = np.full(len(other), -1, np.int64)
    number[sides] = np.arange(len(sides))
    nxt, region = number[after], regions.of[sides // 3]
    count, loop = components(len(sides), np.arange(len(sides)), nxt)
    rows = np.lexsort((_along(nxt, loop, count), loop))
    vertices = _well_shaded(ready, regions, edges, sides)
    return Loops(vertices[rows], region[rows], loop[rows], regions.of, regions.count)


def _crowded(regions: Regions, edges: Edges) -> Iterator[tuple[int, int]]:
    """At edges of more than two sides, which slivers of no height make: pairs of a region's that run along them opposite
    ways. What is left over of it there is its border."""
    for edge in np.flatnonzero(edges.uses > 2).tolist():
        at = slice(edges.first[edge], edges.first[edge + 1])
        sides, forward = edges.sides[at].tolist(), edges.forward[at].tolist()
        waiting: dict[tuple[int, bool], list[int]] = {}
        for side, way in zip(sides, forward, strict=True):
            region = int(regions.of[side // 3])
            opposite = waiting.get((region, not way))
            if opposite:
                yield opposite.pop(), side
            else:
                waiting.setdefault((region, way), []).append(side)


def _well_shaded(ready: Prepared, regions: Regions, edges: Edges, sides: Numbers) -> Numbers:
    """The vertex that each side starts from; of a sliver's, whose shading means nothing, that of another triangle of the
    region in the same place."""
    flat = ready.triangles.reshape(-1).astype(np.int64)
    vertices = flat[sides]
    poor = np.flatnonzero(regions.sliver[sides // 3])
    good = np.flatnonzero(np.repeat(~regions.sliver, 3))
    if not len(poor) or not len(good):
        return vertices
    span = int(edges.places.max()) + 1
    places = edges.places.reshape(-1)
    codes = regions.of[good // 3] * span + places[good]
    order = np.argsort(codes)
    wanted = regions.of[sides[poor] // 3] * span + places[sides[poor]]
    at = np.minimum(np.searchsorted(codes[order], wanted), len(order) - 1)
    there = codes[order[at]] == wanted
    vertices[poor[there]] = flat[good[order[at[there]]]]
    return vertices


def _along(nxt: Numbers, loop: Numbers, count: int) -> Numbers:
    """For every entry how many steps it is from the first of its loop, by doubling the steps (pointer jumping)."""
    first = np.full(count, len(nxt), np.int64)
    np.minimum.at(first, loop, np.arange(len(nxt)))
    # Steps until the loop's first entry is reached; there the chain ends in itself.
    jump = nxt.copy()
    steps = np.ones(len(nxt), np.int64)
    ends = first[loop]
    done = jump == ends
    jump[done] = ends[done]
    steps[first] = 0
    jump[first] = first
    while True:
        moving = jump != ends
        if not moving.any():
            break
        steps[moving] += steps[jump[moving]]
        jump[moving] = jump[jump[moving]]
    size = np.bincount(loop, minlength=count)
    return np.asarray((size[loop] - steps) % size[loop])


def _area(flat: NDArray[np.float64]) -> float:
    if len(flat) < 3:
        return 0.0
    x, y = flat[:, 0] - flat[0, 0], flat[:, 1] - flat[0, 1]
    return float(x[:-1] @ y[1:] - x[1:] @ y[:-1]) / 2
