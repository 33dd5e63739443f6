"""Polygons to triangles: convex ones as fans, others by constrained triangulation."""

from collections.abc import Iterator
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.triangles import cross, lengths

#: Polygons of more corners than this are not looked at for dents one count at a time.
_MOST_ALIKE = 64


def triangulated(
    positions: NDArray[np.float64], corners: NDArray[np.integer], counts: NDArray[np.integer]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Triangles of polygons given one behind another: `corners` are indices of positions, `counts` how many each has.

    Returns (m, 3) places in `corners`, so that whatever hangs on corners goes along, and (m,) the polygon of each, in
    the order of polygons. Those of fewer than three corners give none.
    """
    if not len(positions):
        return np.zeros((0, 3), np.int64), np.zeros(0, np.int64)
    starts = np.concatenate([[0], np.cumsum(counts)])[:-1].astype(np.int64)
    if not len(counts) or (counts == 3).all():
        return np.arange(len(corners), dtype=np.int64).reshape(-1, 3), np.arange(len(counts), dtype=np.int64)
    triangles, owners = [], []
    for count in np.unique(counts):
        if count < 3:
            continue
        which = np.flatnonzero(counts == count)
        if count <= _MOST_ALIKE:
            dented = _dented(positions[corners[starts[which, None] + np.arange(count)]])
        else:
            dented = np.ones(len(which), bool)
        plain = which[~dented]
        steps = np.arange(1, count - 1)
        fan = np.stack([np.zeros_like(steps), steps, steps + 1], axis=1)
        triangles.append((starts[plain, None, None] + fan).reshape(-1, 3))
        owners.append(np.repeat(plain, count - 2))
        for polygon in which[dented]:
            own = starts[polygon] + _cut(positions[corners[starts[polygon] : starts[polygon] + count]])
            triangles.append(own)
            owners.append(np.full(len(own), polygon))
    if not triangles:
        return np.zeros((0, 3), np.int64), np.zeros(0, np.int64)
    owner = np.concatenate(owners)
    order = np.argsort(owner, kind="stable")
    return np.concatenate(triangles)[order], owner[order]


def _normals(rings: NDArray[np.float64]) -> NDArray[np.float64]:
    """By M. E. Newell's method, (k, n, 3) to (k, 3); as published in I. Sutherland et al., "A characterization of ten
    hidden-surface algorithms", 1974."""
    around = rings - rings.mean(axis=1, keepdims=True)
    return np.asarray(np.cross(around, np.roll(around, -1, axis=1)).sum(axis=1))


def _dented(rings: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Whether a polygon has a corner that turns the other way, (k, n, 3) to (k,)."""
    along = np.roll(rings, -1, axis=1) - rings
    turns = np.cross(np.roll(along, 1, axis=1), along)
    bend = np.einsum("kni,ki->kn", turns, _normals(rings))
    return np.asarray((bend < -1e-12 * np.abs(bend).max(axis=1, keepdims=True)).any(axis=1))


def _cut(ring: NDArray[np.float64]) -> NDArray[np.int64]:
    """One polygon (n, 3) to (n - 2, 3), seen from where it is largest; as a fan where it crosses itself."""
    import manifold3d

    fan = np.array([(0, k, k + 1) for k in range(1, len(ring) - 1)], dtype=np.int64)
    normal = _normals(ring[None])[0]
    axis = int(np.abs(normal).argmax())
    if not normal[axis] or not np.isfinite(ring).all():
        return fan
    flat = np.ascontiguousarray(ring[:, [(axis + 1) % 3, (axis + 2) % 3]])
    if normal[axis] < 0:
        flat = np.ascontiguousarray(flat[:, ::-1])
    try:
        found = np.asarray(manifold3d.triangulate([flat.astype(np.float32)], -1.0, True), dtype=np.int64)
    except (RuntimeError, ValueError):
        return fan
    return found if len(found) == len(fan) else fan


def strips(index: NDArray[np.integer], fan: bool) -> NDArray[np.int64]:
    """Triangles (m, 3) of a strip or a fan of indices (glTF 2.0, 3.7.2.1)."""
    count = len(index) - 2
    if count < 1:
        return np.zeros((0, 3), np.int64)
    at = np.arange(count)
    if fan:
        return np.stack([index[at + 1], index[at + 2], np.broadcast_to(index[0], count)], axis=1).astype(np.int64)
    odd = at % 2
    return np.stack([index[at], index[at + 1 + odd], index[at + 2 - odd]], axis=1).astype(np.int64)


def pieces(labels: NDArray[np.integer]) -> Iterator[tuple[int, NDArray[np.int64]]]:
    """For each label, in order of first use, where it stands."""
    if not len(labels):
        return
    order = np.argsort(labels, kind="stable")
    ranked = labels[order]
    cuts = np.flatnonzero(ranked[1:] != ranked[:-1]) + 1
    runs = np.split(order, cuts)
    for run in sorted(runs, key=lambda item: int(item[0])):
        yield int(labels[run[0]]), run


def uv_tiles(
    positions: NDArray[np.float64],
    triangles: NDArray[np.integer],
    starts: NDArray[np.integer],
    uv: NDArray[np.float32] | None,
) -> tuple[tuple[float, float], ...]:
    """For each group of triangles, `starts` being the first of each and their number: how long a picture that fills the
    unit square of UV lies on it, the root of area by area, and how often it repeats across; zeros where it has no extent.
    """
    if uv is None:
        return ()
    first, second, third = (triangles[:, k] for k in range(3))
    at = positions[first]
    area = lengths(cross(positions[second] - at, positions[third] - at))
    flat = uv.astype(np.float64)
    (a, b), (c, d) = ((flat[other] - flat[first]).T for other in (second, third))
    pictured = np.abs(a * d - b * c)
    told = []
    for begin, end in pairwise(starts.tolist()):
        real, laid = float(area[begin:end].sum()), float(pictured[begin:end].sum())
        if not real > 0 or not laid > 0:
            told.append((0.0, 0.0))
            continue
        span = np.ptp(flat[triangles[begin:end]].reshape(-1, 2), axis=0)
        told.append((float(f"{(real / laid) ** 0.5:.6g}"), round(float(span.max()), 4)))
    return tuple(told)
