"""Tori covered by regular cells: whole rings, and bends of pipes, whose rims their neighbours share.

The kernel steps both ways of a torus within the chord error, so that a cell strays by both together, and refining divides
every other one: as many triangles as a grid that is even finer, and none of them regular. Here the ways share the error.
A rim's points are its edge's; where it is given half the error, the other half is left for the way along the bend.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from hemp_ladder.core.facet.patch import Floats, Integers, Patch
from hemp_ladder.core.facet.surface import TrueSurface
from hemp_ladder.core.facet.surface.face import Ring

#: Distance is measured at a few places, and is a little larger between.
_GOAL = 0.97
#: Of the chord error, what the way along must be left at the least.
_LEAST = 0.2
#: Of a step, how far lines may shift from rim to rim.
_LEAN = 0.5
#: Parameters that are the same.
_SAME = 1e-9


def with_grids(patch: Patch, surfaces: Sequence[TrueSurface], chord: float, angle: float) -> Patch:
    """The patch with its rings and bends in regular cells, within a chord error (source coordinates) and an angle
    (radians)."""
    numbers = [number for number, surface in enumerate(surfaces) if surface.ring is not None]
    if not numbers:
        return patch
    found = []
    for number, rows in zip(numbers, patch.rows_of(numbers), strict=True):
        ring = surfaces[number].ring
        if ring is not None and len(rows):
            lines = _lines(patch, rows, ring, chord * _GOAL, angle)
            if lines is not None:
                found.append(_covered(patch, rows, number, surfaces[number], ring, *lines))
    return _with(patch, found) if found else patch


@dataclass(frozen=True)
class _Grid:
    """What replaces a face's triangles: vertices (n, ...), and triangles (m, 3) of them."""

    face: int
    points: Floats
    normals: Floats
    uv: Floats
    triangles: Integers


def _with(patch: Patch, grids: Sequence[_Grid]) -> Patch:
    """With all triangles and vertices of the grids' faces replaced by theirs."""
    gone = np.isin(patch.face, [grid.face for grid in grids])
    index = np.cumsum(~gone) - 1
    triangles: list[Integers] = [index[patch.triangles[~gone[patch.triangles[:, 0]]]]]
    count = int((~gone).sum())
    for grid in grids:
        triangles.append(grid.triangles + count)
        count += len(grid.points)
    whole = np.concatenate(triangles).astype(np.int32)
    sizes = [len(grid.points) for grid in grids]
    return replace(
        patch,
        positions=np.concatenate([patch.positions[~gone], *(grid.points for grid in grids)]),
        normals=np.concatenate([patch.normals[~gone], *(grid.normals.astype(np.float32) for grid in grids)]),
        uv=np.concatenate([patch.uv[~gone], *(grid.uv for grid in grids)]),
        face=np.concatenate([patch.face[~gone], np.repeat([grid.face for grid in grids], sizes).astype(np.int32)]),
        free=np.concatenate([patch.free[~gone], np.zeros((sum(sizes), 2), bool)]),
        triangles=whole, sides=np.full((len(whole), 3), np.nan), middles=np.full(len(whole), np.nan),
    )  # fmt: skip


def _lines(patch: Patch, rows: Integers, ring: Ring, chord: float, angle: float) -> tuple[Floats, Floats] | None:
    """Where the lines of a grid run: u (n + 1,), and v (2, m + 1) at its first and at its last; None where the border is
    none that a grid fits."""
    if not ring.whole_v:
        return None
    border = _border(patch, rows)
    u, v = patch.uv[border].T
    inside = np.min(np.abs(u[:, None] - ring.u), axis=1) >= _SAME
    on_seam = np.min(np.abs(v[:, None] - ring.v), axis=1) < _SAME
    if (inside & ~on_seam).any():
        return None  # something is cut out of it
    if ring.whole_u:
        across = min(angle, _turn(ring.tube, chord / 2))
        left = chord - ring.tube * (1 - math.cos(across / 2))
        along = min(angle, _turn(ring.reach, left))
        # What the angle leaves over is the other way's.
        across = min(angle, _turn(ring.tube, chord - ring.reach * (1 - math.cos(along / 2))))
        lines = _even(*ring.v, across)
        return _even(*ring.u, along), np.stack([lines, lines])
    rims = [np.sort(v[np.abs(u - end) < _SAME]) for end in ring.u]
    if len(rims[0]) < 4 or len(rims[0]) != len(rims[1]):
        return None
    both = np.stack(rims)
    steps = np.diff(both, axis=1)
    widest = float(steps.max())
    # An edge may begin elsewhere on one rim, and the cells lean a little.
    if steps.min() <= _SAME or np.abs(both[0] - both[1]).max() > _LEAN * widest:
        return None
    left = chord - ring.tube * (1 - math.cos(widest / 2))
    if left < _LEAST * chord:
        return None
    return _even(*ring.u, min(angle, _turn(ring.reach, left))), both


def _turn(radius: float, off: float) -> float:
    """The angle of a segment that is off by so much (sagitta of a circular arc)."""
    return 2 * math.acos(max(-1.0, 1 - min(off / radius, 2.0)))


def _even(start: float, end: float, step: float) -> Floats:
    """Ends and as many places between as no step is larger, at least three of a whole turn."""
    count = max(
        math.ceil((end - start) / max(step, 1e-6) - 1e-9), math.ceil(3 * (end - start) / (2 * math.pi) - 1e-9), 1
    )
    return np.linspace(start, end, count + 1)


def _border(patch: Patch, rows: Integers) -> Integers:
    """Vertices on the border of triangles."""
    own = patch.triangles[rows]
    start, end = own.reshape(-1).astype(np.int64), own[:, [1, 2, 0]].reshape(-1).astype(np.int64)
    codes = np.minimum(start, end) << 32 | np.maximum(start, end)
    _, inverse, uses = np.unique(codes, return_inverse=True, return_counts=True)
    once = uses[inverse] == 1
    return np.asarray(np.unique(np.concatenate([start[once], end[once]])))


def _covered(
    patch: Patch, rows: Integers, number: int, surface: TrueSurface, ring: Ring, u: Floats, v: Floats
) -> _Grid:
    """Two triangles for each cell between lines, for a face that has the triangles `rows`."""
    share = np.linspace(0, 1, len(u))[:, None]
    across = (1 - share) * v[0] + share * v[1]
    uv = np.stack([np.repeat(u, v.shape[1]), across.reshape(-1)], axis=1)
    points, normals = surface.at(uv)
    points = points.reshape(len(u), v.shape[1], 3)
    if ring.whole_u:
        points[-1] = points[0]
    else:
        # What neighbours share is the very same.
        border = _border(patch, rows)
        for row, end in ((0, ring.u[0]), (-1, ring.u[1])):
            rim = border[np.abs(patch.uv[border, 0] - end) < _SAME]
            points[row] = patch.positions[rim[np.argsort(patch.uv[rim, 1], kind="stable")]]
    points[:, -1] = points[:, 0]
    points = points.reshape(-1, 3)
    wide = v.shape[1]
    a = (np.arange(len(u) - 1)[:, None] * wide + np.arange(wide - 1)).reshape(-1)
    b, c, d = a + wide, a + wide + 1, a + 1
    fresh = np.concatenate([np.stack([a, b, c], axis=1), np.stack([a, c, d], axis=1)])
    corners = points[fresh]
    facing = np.einsum("ij,ij->i", np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]),
                       normals[fresh[:, 0]])  # fmt: skip
    if facing.sum() < 0:
        fresh = fresh[:, ::-1]
    return _Grid(number, points, normals, uv, fresh)
