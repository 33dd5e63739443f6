"""From a drawn shape to triangles: a prism over its area, a flat sheet, or a line stood up."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.chain.steps import Job
from hemp_ladder.core.drawn.area import Sheet, solid_area
from hemp_ladder.core.drawn.caps import capped
from hemp_ladder.core.drawn.curves import Points
from hemp_ladder.core.drawn.flatten import Fineness, flatten_measured
from hemp_ladder.core.drawn.shape import Shape, read_drawn
from hemp_ladder.core.drawn.shorten import Shortened, shortened
from hemp_ladder.core.drawn.solid import Solid
from hemp_ladder.core.drawn.thin import thickened, thin_places
from hemp_ladder.core.memory import without_collector
from hemp_ladder.core.mesh.figures import Figures, Thin
from hemp_ladder.core.mesh.mesh import Mesh

if TYPE_CHECKING:
    from hemp_ladder.core.drawn.step import Solidify

Complex = NDArray[np.complex128]
#: Common practice: a corner sharper than this is meant as one, however coarse the curves are.
_SHARPEST_BEND = math.radians(50)
#: So many thin places of one part are told.
_MOST_TOLD = 50
_NOTHING = Mesh.nothing(1)


@dataclass(frozen=True)
class _Flat:
    """What is solid of a shape: its rings, the largest turn at each of their points over which light goes on, how far they
    stray from the curves, its thin places, and what was left out as too short."""

    rings: list[Points]
    solid: Solid
    bends: Points
    off: float
    thin: tuple[Thin, ...] = ()
    effects: Mapping[str, float] = field(default_factory=dict)


def make_solids(jobs: Sequence[Job[Solidify]]) -> list[Mesh]:
    """Mesh drawn parts, each within its `chord` (source coordinates) and `angle` (radians); they stand along Z.

    A shape without height is a flat sheet that faces up. Walls that are
    curved are shaded round, corners stay sharp. Areas are made one by one,
    walls all at once, which is most of the work for small shapes.
    """
    with without_collector():
        return _made(jobs)


def _made(jobs: Sequence[Job[Solidify]]) -> list[Mesh]:
    made: dict[int, Mesh] = {}
    flat: dict[int, _Flat] = {}
    for number, job in enumerate(jobs):
        shape, step = read_drawn(job.bodies[0]), job.step
        fine = Fineness(step.chord, step.angle, step.solid.segments)
        if step.solid.ribbon:
            made[number] = _ribbon(shape, step, fine)
        else:
            flat[number] = _flat(shape, job, fine)
    made |= dict(zip(flat, _prisms(list(flat.values())), strict=True))
    return [made[number] for number in range(len(jobs))]


def _flat(shape: Shape, job: Job[Solidify], fine: Fineness) -> _Flat:
    solid = job.step.solid
    sheet = Sheet(shape, solid, fine)
    area = solid_area(sheet, shape, solid, [read_drawn(item) for item in job.bodies[1:]])
    thin: tuple[Thin, ...] = ()
    if solid.nozzle > 0:
        if solid.thicken:
            area = thickened(sheet, area, solid.nozzle)
        found = thin_places(sheet, area, solid.nozzle)[:_MOST_TOLD]
        thin = tuple((place.x, place.y, place.width) for place, _ in found)
    rings, bend, off = sheet.polygons(area), _bend(fine), sheet.off / sheet.scale
    if job.step.shortest is None:
        return _Flat(rings, solid, np.full(sum(map(len, rings)), bend), off, thin)
    fewer = shortened(rings, job.step.shortest, bend, sheet.scale)
    # Of a sheet a point is a triangle, of a prism four: two of its wall, one above, one below.
    gone = _short(fewer, 4 if solid.height > 0 else 1)
    return _Flat(fewer.rings, solid, np.where(fewer.smooth, math.pi, bend), off, thin, gone)


def _short(fewer: Shortened, triangles: int) -> dict[str, float]:
    gone = {"shortest": float(fewer.gone * triangles)}
    return {**gone, "shortest.off": fewer.off} if fewer.gone else gone


def _bend(fine: Fineness) -> float:
    """The largest turn between two sides of a wall that belongs to a curve."""
    turn = max(fine.angle, 2 * math.pi / fine.segments) if fine.segments else fine.angle
    return min(1.05 * turn, _SHARPEST_BEND)


def _prisms(flats: Sequence[_Flat]) -> list[Mesh]:
    """Caps and walls of all. For each: the ring's points above, those below, and four for every side of the wall."""
    sizes = np.array([sum(map(len, flat.rings)) for flat in flats])
    if not sizes.sum():
        return [_NOTHING] * len(flats)
    sides = _sides([ring for flat in flats for ring in flat.rings], np.concatenate([flat.bends for flat in flats]))
    starts = np.cumsum(sizes) - sizes
    first, count = np.repeat(starts, sizes), np.repeat(sizes, sizes)
    low = np.repeat([flat.solid.base for flat in flats], sizes)
    high = low + np.repeat([max(flat.solid.height, 0.0) for flat in flats], sizes)
    total = len(sides.begin)
    above = 5 * first + np.arange(total)
    local = 2 * count + 4 * (np.arange(total) - first)
    at = (6 * first + local)[:, None] + np.arange(4)
    positions, normals = np.empty((6 * total, 3)), np.zeros((6 * total, 3), np.float32)
    positions[at], normals[at] = _walls(sides, low, high)
    # Which of these share a position, there is no need to look for: the point itself, and its like below.
    here, after = np.arange(total) - first, sides.after - first
    shared = np.empty(6 * total, np.int64)
    shared[above], shared[above + count] = here, here + count
    shared[at] = np.column_stack([here + count, after + count, after, here])
    for place, level, up in ((above, high, 1), (above + count, low, -1)):
        positions[place] = np.column_stack([sides.begin.real, sides.begin.imag, level])
        normals[place] = 0, 0, up
    walls = (local[:, None, None] + _QUAD).astype(np.int32)
    made = []
    told = zip(flats, capped([flat.rings for flat in flats]), starts.tolist(), sizes.tolist(), strict=True)
    for flat, caps, start, size in told:
        if not size:
            made.append(_NOTHING)
            continue
        if flat.solid.height <= 0:
            run = slice(6 * start, 6 * start + size)
            triangles = caps
        else:
            run = slice(6 * start, 6 * (start + size))
            wall = walls[start : start + size].reshape(-1, 3)
            triangles = np.concatenate([caps, caps[:, ::-1] + np.int32(size), wall])
        faces = np.array([0, len(triangles)])
        figures = Figures(off_by=flat.off, thin=flat.thin, faceted=_faceted(flat.off), effects=flat.effects)
        made.append(Mesh.of(positions[run], normals[run], triangles, faces, figures, places=shared[run]))
    return made


class _Sides(NamedTuple):
    """The sides of rings, as complex numbers (n,): where each begins and ends, and its normals there; and which side
    goes on where it ends."""

    begin: Complex
    end: Complex
    first: Complex
    last: Complex
    after: NDArray[np.int64]

    def only(self, kept: NDArray[np.bool_]) -> _Sides:
        return _Sides(self.begin[kept], self.end[kept], self.first[kept], self.last[kept], self.after[kept])


def _sides(rings: Sequence[Points], bends: Points, closed: bool = True) -> _Sides:
    """The sides of all rings. At a corner that bends less than its `bend` both sides share the mean of their normals."""
    at = np.ascontiguousarray(np.concatenate(rings)).view(np.complex128)[:, 0]
    sizes = np.array([len(ring) for ring in rings])
    starts = np.cumsum(sizes) - sizes
    after, before = np.arange(1, len(at) + 1), np.arange(-1, len(at) - 1)
    after[starts + sizes - 1], before[starts] = starts, starts + sizes - 1
    end = at[after]
    out = -1j * _unit(end - at)
    previous = out[before]
    smooth = (out * previous.conj()).real > np.cos(bends)
    if not closed:
        smooth[starts] = smooth[starts + sizes - 1] = False
    mean = _unit(out + previous)
    return _Sides(at, end, np.where(smooth, mean, out), np.where(smooth[after], mean[after], out), after)


def _unit(vectors: Complex) -> Complex:
    return vectors / np.maximum(np.abs(vectors), 1e-300)


def _faceted(off: float) -> dict[str, float]:
    """A wall over a curve strays by what its side does, both ways."""
    return {"back": off, "there": off}


_QUAD = np.array([[0, 1, 2], [0, 2, 3]])


def _walls(sides: _Sides, low: Points | float, high: Points | float) -> tuple[Points, NDArray[np.float32]]:
    """Four positions and normals a side, both (n, 4, 3): where it begins and ends below, then back above."""
    positions, normals = np.empty((len(sides.begin), 4, 3)), np.zeros((len(sides.begin), 4, 3), np.float32)
    for corners, at, facing in (((0, 3), sides.begin, sides.first), ((1, 2), sides.end, sides.last)):
        for corner in corners:
            positions[:, corner, 0], positions[:, corner, 1] = at.real, at.imag
            positions[:, corner, 2] = low if corner < 2 else high
            normals[:, corner, 0], normals[:, corner, 1] = facing.real, facing.imag
    return positions, normals


def _ribbon(shape: Shape, step: Solidify, fine: Fineness) -> Mesh:
    """A line stood up: a surface with two edges, no solid."""
    solid, bend = step.solid, _bend(fine)
    lines: list[Points] = []
    off = 0.0
    for path in shape.on_sheet:
        points, strays = flatten_measured(path, fine)
        off = max(off, strays)
        if len(points) > 1:
            lines.append(np.concatenate([points, points[:1]]) if path.closed else points)
    if not lines:
        return _NOTHING
    effects: dict[str, float] = {}
    bends = np.full(sum(map(len, lines)), bend)
    if step.shortest is not None:
        fewer = shortened(lines, step.shortest, bend, 1.0, closed=False)
        lines, bends, effects = fewer.rings, np.where(fewer.smooth, math.pi, bend), _short(fewer, 2)
    sides = _sides(lines, bends, closed=False)
    inner = np.ones(len(sides.begin), dtype=bool)
    inner[np.cumsum([len(line) for line in lines]) - 1] = False
    sides = sides.only(inner)
    positions, normals = _walls(sides, solid.base, solid.base + solid.height)
    triangles = (4 * np.arange(len(positions))[:, None, None] + _QUAD).reshape(-1, 3)
    return Mesh.of(
        positions.reshape(-1, 3), normals.reshape(-1, 3), triangles.astype(np.int32), np.array([0, len(triangles)]),
        Figures(off_by=off, faceted=_faceted(off), effects=effects),
    )  # fmt: skip
