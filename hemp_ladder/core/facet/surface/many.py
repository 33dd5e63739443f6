"""Many faces' surfaces, asked at places on all of them at once: each surface is asked once for its places, and what is then
worked out, for all together: with a few dozen places on each, to work it out takes longer than to ask."""

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.facet.surface.face import TrueSurface, unit_normals
from hemp_ladder.core.facet.surface.swept import Floats
from hemp_ladder.core.mesh.triangles import dot, lengths

Integers = NDArray[np.integer]
#: Steps towards the foot of the perpendicular.
_STEPS = 2


def by_face(face: Integers) -> Iterator[tuple[int, Integers | slice]]:
    """Each face number in `face` (n,), with the rows that have it."""
    if not len(face):
        return
    if (face[1:] >= face[:-1]).all():
        yield from _runs(face)
        return
    order = np.argsort(face, kind="stable")
    for number, run in _runs(face[order]):
        yield number, order[run]


def _runs(face: Integers) -> Iterator[tuple[int, slice]]:
    """The same of numbers in order, (n,)."""
    if not len(face):
        return
    starts = np.flatnonzero(np.concatenate([[True], face[1:] != face[:-1]])).tolist()
    for start, end in zip(starts, [*starts[1:], len(face)], strict=True):
        yield int(face[start]), slice(start, end)


def points_on(surfaces: Sequence[TrueSurface], face: Integers, uv: Floats) -> Floats:
    """(n, 3) points on faces (n,) at uv (n, 2)."""
    points = np.empty((len(uv), 3))
    for number, rows in by_face(face):
        points[rows] = surfaces[number].points(uv[rows])
    return points


def points_and_normals(surfaces: Sequence[TrueSurface], face: Integers, uv: Floats) -> tuple[Floats, Floats]:
    """(n, 3) points and (n, 3) outward unit normals on faces (n,) at uv (n, 2); a zero normal where there is none."""
    told = np.empty((3, len(uv), 3))
    signs = np.empty(len(uv))
    for number, rows in by_face(face):
        told[0, rows], told[1, rows], told[2, rows] = surfaces[number].derived(uv[rows])
        signs[rows] = surfaces[number].sign
    return told[0], unit_normals(told[1], told[2], signs)


def distances(
    surfaces: Sequence[TrueSurface],
    face: Integers,
    points: Floats,
    uv: Floats,
    enough: Floats,
    nearby: Floats | None = None,
) -> Floats:
    """How far points (n, 3) lie from the surfaces of faces (n,) near uv (n, 2), (n,).

    Without a closed form, the distance to the surface's point at uv is too large where uv is not the nearest; whatever seems
    to exceed `enough` (n,) is settled by two steps of Gauss and Newton towards the foot of the perpendicular, the second with
    the slopes of the first (the simplified method: what it finds is a point of the surface all the same, so the distance is
    never too small). `nearby` (n, 3) are the surfaces' points at uv, where they are known.
    """
    out = np.empty(len(points))
    order = np.argsort(face, kind="stable")
    open_ = np.ones(len(order), dtype=bool)
    for number, run in _runs(face[order]):
        known = surfaces[number].off(points[order[run]])
        if known is not None:
            out[order[run]], open_[run] = known, False
    rows = order[open_]
    if not len(rows):
        return out
    face, points, uv, enough = face[rows], points[rows], uv[rows], enough[rows]
    foot = points_on(surfaces, face, uv) if nearby is None else nearby[rows]
    found = lengths(points - foot)
    unsure = np.flatnonzero(found > enough)
    if len(unsure):
        face, points, uv, foot, enough = face[unsure], points[unsure], uv[unsure], foot[unsure], enough[unsure]
        step = _Step(*_slopes(surfaces, face, uv, foot))
        for left in reversed(range(_STEPS)):
            uv = uv + step(points - foot)
            foot = points_on(surfaces, face, uv)
            nearer = np.minimum(found[unsure], lengths(points - foot))
            found[unsure] = nearer
            going = nearer > enough
            if not left or not going.any():
                break
            unsure, step = unsure[going], step.only(going)
            face, points, uv, foot, enough = face[going], points[going], uv[going], foot[going], enough[going]
    out[rows] = found
    return out


def _slopes(surfaces: Sequence[TrueSurface], face: Integers, uv: Floats, points: Floats) -> tuple[Floats, Floats]:
    """Both (n, 3) first derivatives on faces (n,) at uv (n, 2), where the points are known."""
    along_u, along_v = np.empty((2, len(uv), 3))
    for number, rows in by_face(face):
        along_u[rows], along_v[rows] = surfaces[number].slopes(uv[rows], points[rows])
    return along_u, along_v


class _Step:
    """The change of (u, v) that best explains an offset in the tangent plane of slopes (n, 3) along u and v."""

    def __init__(self, along_u: Floats, along_v: Floats) -> None:
        uu, uv, vv = dot(along_u, along_u), dot(along_u, along_v), dot(along_v, along_v)
        determinant = uu * vv - uv * uv
        good = determinant > 1e-12 * np.maximum(uu * vv, 1e-300)
        share = np.divide(1.0, determinant, out=np.zeros_like(determinant), where=good)[:, None]
        self._dual_u = (along_u * vv[:, None] - along_v * uv[:, None]) * share
        self._dual_v = (along_v * uu[:, None] - along_u * uv[:, None]) * share

    def __call__(self, offset: Floats) -> Floats:
        """(n, 2) for an offset (n, 3)."""
        return np.stack([dot(offset, self._dual_u), dot(offset, self._dual_v)], axis=1)

    def only(self, rows: NDArray[np.bool_]) -> "_Step":
        """For some of the places."""
        some = _Step.__new__(_Step)
        some._dual_u, some._dual_v = self._dual_u[rows], self._dual_v[rows]
        return some
