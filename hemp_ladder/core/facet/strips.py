"""Cones and extrusions covered by strips from rim to rim.

The kernel puts rows of points inside of cones, whose rims it steps differently: three times the triangles of a strip; and of
extruded splines, at every knot: fifty times as many. Both are straight along their rulings and unroll into a plane without
stretching, so that the triangles between the points on their border alone, as even as can be in that plane, are the strip;
where a wide one strays, refining divides it.
"""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.facet.patch import Floats, Integers, Patch
from hemp_ladder.core.facet.surface import TrueSurface

#: Angles in radians that are the same.
_ROUND = 1e-9


def with_strips(patch: Patch, surfaces: Sequence[TrueSurface]) -> Patch:
    """The patch with every such face that has points inside of it covered from its border alone, where that is fewer triangles."""
    numbers = [number for number, surface in enumerate(surfaces) if surface.unrolls]
    if not numbers:
        return patch
    dropped = np.zeros(len(patch.triangles), bool)
    fresh: list[Integers] = []
    tips: list[tuple[int, Floats]] = []
    count = len(patch.positions)
    for number, rows in zip(numbers, patch.rows_of(numbers), strict=True):
        surface, own = surfaces[number], patch.triangles[rows]
        loops = [_without_seam(np.array(loop), patch.uv[loop], surface.turn) for loop in _loops(own)]
        rim = _rim_of_tip(loops, patch)
        if rim is not None:
            if len(rim) - 1 < len(own):
                dropped[rows] = True
                fresh.append(np.stack([rim[:-1], rim[1:], count + np.arange(len(rim) - 1)], axis=1))
                tips.append((number, (patch.uv[rim[:-1]] + patch.uv[rim[1:]]) / 2))
                count += len(rim) - 1
            continue
        found = _covered(loops, _split(surface.unrolled(patch.uv[np.concatenate(loops)]), loops)) if loops else None
        if found is not None and len(found) < len(own):
            dropped[rows] = True
            fresh.append(found)
    if not fresh:
        return patch
    patch = _with_tips(patch, surfaces, tips)
    triangles = np.concatenate([patch.triangles[~dropped], *fresh]).astype(np.int32)
    used = np.zeros(len(patch.positions), bool)
    used[triangles] = True
    index = np.cumsum(used) - 1
    return replace(
        patch, positions=patch.positions[used], normals=patch.normals[used], uv=patch.uv[used], face=patch.face[used],
        free=patch.free[used], triangles=index[triangles].astype(np.int32), sides=np.full((len(triangles), 3), np.nan),
        middles=np.full(len(triangles), np.nan),
    )  # fmt: skip


def _rim_of_tip(loops: list[Integers], patch: Patch) -> Integers | None:
    """Of a cone that ends in its tip, with nothing else on its border than one rim: that, in the triangles' direction."""
    if len(loops) != 1:
        return None
    (loop,) = loops
    tip = patch.free[loop, 0]
    if not tip.any() or tip.all():
        return None
    # Begin behind the tip, which is met once.
    starts = np.flatnonzero(tip & ~np.roll(tip, -1))
    if len(starts) != 1:
        return None
    loop = np.roll(loop, -int(starts[0]) - 1)
    rim = loop[~patch.free[loop, 0]]
    height = patch.uv[rim, 1]
    return rim if len(rim) > 2 and np.ptp(height) < 1e-9 * max(float(np.abs(height).max()), 1.0) else None


def _with_tips(patch: Patch, surfaces: Sequence[TrueSurface], tips: Sequence[tuple[int, Floats]]) -> Patch:
    """With a vertex at the tip for each triangle of a fan, which is lit as the ruling in its middle is, given by where that
    meets the rim."""
    for number, uv in tips:
        at_tip = np.flatnonzero((patch.face == number) & patch.free[:, 0])[0]
        normals = surfaces[number].at(uv)[1].astype(np.float32)
        where = np.column_stack([uv[:, 0], np.full(len(uv), patch.uv[at_tip, 1])])
        patch = replace(
            patch, positions=np.concatenate([patch.positions, np.repeat(patch.positions[[at_tip]], len(uv), axis=0)]),
            normals=np.concatenate([patch.normals, normals]), uv=np.concatenate([patch.uv, where]),
            face=np.concatenate([patch.face, np.full(len(uv), number, np.int32)]),
            free=np.concatenate([patch.free, np.tile([True, False], (len(uv), 1))]),
        )  # fmt: skip
    return patch


def _covered(loops: list[Integers], flat: list[Floats]) -> NDArray[np.integer] | None:
    """Triangles of the vertices of loops that lie so in a plane, wound as the outer one; None where they are no polygon with
    holes. By constrained Delaunay triangulation (general-purpose geometry library)."""
    import shapely

    if not loops or any(len(loop) < 3 for loop in loops) or not all(np.isfinite(ring).all() for ring in flat):
        return None
    areas = [_area(ring) for ring in flat]
    outer = int(np.argmax(np.abs(areas)))
    # Only what turns against the outer ring is a hole.
    if any((area > 0) == (areas[outer] > 0) for n, area in enumerate(areas) if n != outer):
        return None
    polygon = shapely.Polygon(flat[outer], [ring for n, ring in enumerate(flat) if n != outer])
    if not polygon.is_valid:
        return None
    known = {tuple(spot): vertex for loop, ring in zip(loops, flat, strict=True)
             for vertex, spot in zip(loop.tolist(), ring.tolist(), strict=True)}  # fmt: skip
    count = sum(map(len, loops))
    spots = shapely.get_coordinates(shapely.constrained_delaunay_triangles(polygon)).reshape(-1, 4, 2)[:, :3]
    if len(known) != count or len(spots) != count + 2 * (len(loops) - 1) - 2:
        return None
    found = np.array([[known.get(tuple(spot), -1) for spot in corners] for corners in spots.tolist()])
    if (found < 0).any():
        return None
    a, b, c = spots.transpose(1, 0, 2)
    turn = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    against = (turn > 0) != (areas[outer] > 0)
    found[against] = found[against, ::-1]
    return None if (turn == 0).any() else found


def _split(values: Floats, loops: list[Integers]) -> list[Floats]:
    """The rows of each loop, one after the other."""
    return np.split(values, np.cumsum([len(loop) for loop in loops])[:-1])


def _without_seam(loop: Integers, uv: Floats, turn: float) -> Integers:
    """A loop without points along the seam of what goes once around: nobody else shares those."""
    u = uv[:, 0]
    low, high = u.min(), u.max()
    if not abs(high - low - turn) <= _ROUND * turn < np.inf:
        return loop
    along = np.minimum(np.abs(u - low), np.abs(u - high)) < _ROUND
    still = (np.abs(u - np.roll(u, 1)) < _ROUND) & (np.abs(u - np.roll(u, -1)) < _ROUND)
    return np.asarray(loop[~(along & still)])


def _loops(triangles: Integers) -> list[list[int]]:
    """The border as loops of vertices in the triangles' direction; none where a vertex is met twice."""
    start, end = triangles.reshape(-1), triangles[:, [1, 2, 0]].reshape(-1)
    codes = np.minimum(start, end).astype(np.int64) << 32 | np.maximum(start, end)
    _, inverse, uses = np.unique(codes, return_inverse=True, return_counts=True)
    once = uses[inverse] == 1
    after = dict(zip(start[once].tolist(), end[once].tolist(), strict=True))
    if len(after) != np.count_nonzero(once):
        return []
    loops: list[list[int]] = []
    while after:
        first = next(iter(after))
        loop, at = [first], after.pop(first)
        while at != first:
            loop.append(at)
            if at not in after:
                return []
            at = after.pop(at)
        loops.append(loop)
    return loops


def _area(ring: Floats) -> float:
    x, y = ring[:, 0] - ring[0, 0], ring[:, 1] - ring[0, 1]
    return float(x[:-1] @ y[1:] - x[1:] @ y[:-1]) / 2
