"""`Ruler`: how far edges and middles of triangles lie from the true surface."""

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.facet.patch import Floats, Integers, Patch, decoded, edge_codes
from hemp_ladder.core.facet.surface import TrueSurface

#: Distance is measured at edges and middles; on surfaces curved both ways it can be a little larger between.
_GOAL = 0.98


class Ruler:
    """Measures a part's triangles against its faces' surfaces.

    limits  (f,) the distance each face is held to
    """

    def __init__(self, surfaces: Sequence[TrueSurface], chord: float) -> None:
        self._surfaces = surfaces
        self.limits = np.array([chord * (1 if surface.straight else _GOAL) for surface in surfaces])

    def measure_sides(self, patch: Patch, rows: Integers) -> Patch:
        """The patch with every side of the triangles `rows` (k,) measured."""
        rows = rows[np.isnan(patch.sides[rows]).any(axis=1)]
        if not len(rows):
            return patch
        sides = patch.sides[rows]
        unknown = np.isnan(sides)
        codes, inverse = np.unique(edge_codes(patch.triangles[rows])[unknown], return_inverse=True)
        sides[unknown] = self.edges(patch, decoded(codes))[inverse]
        whole = patch.sides.copy()
        whole[rows] = sides
        return replace(patch, sides=whole)

    def edges(self, patch: Patch, pairs: Integers) -> Floats:
        """Distance of the edges between vertices (k, 2): in the middle, and at the quarters where they bend both ways."""
        worst = self._at_share(patch, pairs, 0.5)
        bent = np.flatnonzero(bends_both_ways(patch, pairs))
        for share in (0.25, 0.75):
            worst[bent] = np.maximum(worst[bent], self._at_share(patch, pairs[bent], share))
        return worst

    def middles(self, patch: Patch, rows: Integers) -> Floats:
        """Distance of the middles of triangles `rows` (k,)."""
        corners = patch.triangles[rows]
        uv = patch.uv_at(corners, (1 / 3, 1 / 3, 1 / 3))
        return self._distance(patch.face[corners[:, 0]], patch.positions[corners].mean(axis=1), uv)

    def at(self, face: Integers, uv: Floats) -> tuple[Floats, Floats]:
        """(n, 3) points and (n, 3) outward normals on faces (n,) at uv (n, 2)."""
        points, normals = np.empty((len(uv), 3)), np.empty((len(uv), 3))
        for number, rows in by_face(face):
            points[rows], normals[rows] = self._surfaces[number].at(uv[rows])
        return points, normals

    def still(self, face: Integers, uv: Floats) -> NDArray[np.bool_]:
        """Where a step of u or of v moves nothing, (n, 2)."""
        still = np.zeros((len(uv), 2), dtype=bool)
        for number, rows in by_face(face):
            still[rows] = self._surfaces[number].still(uv[rows])
        return still

    def _at_share(self, patch: Patch, pairs: Integers, share: float) -> Floats:
        """The distance a share of the way along each edge."""
        start, end = patch.positions[pairs[:, 0]], patch.positions[pairs[:, 1]]
        uv = patch.uv_at(pairs, (1 - share, share))
        return self._distance(patch.face[pairs[:, 0]], start + share * (end - start), uv)

    def _distance(self, face: Integers, points: Floats, uv: Floats) -> Floats:
        out = np.empty(len(points))
        for number, rows in by_face(face):
            out[rows] = self._surfaces[number].distance(points[rows], uv[rows], self.limits[number])
        return out


def by_face(face: Integers) -> Iterator[tuple[int, Integers | slice]]:
    """Each face number in `face` (n,), with the rows that have it."""
    if not len(face):
        return
    if face[0] == face[-1] and (face == face[0]).all():
        yield int(face[0]), slice(None)
        return
    order = np.argsort(face, kind="stable")
    ranked = face[order]
    starts = np.flatnonzero(np.concatenate([[True], ranked[1:] != ranked[:-1]]))
    for start, rows in zip(starts, np.split(order, starts[1:]), strict=True):
        yield int(ranked[start]), rows


def bends_both_ways(patch: Patch, pairs: Integers) -> NDArray[np.bool_]:
    """Whether the surface leaves the edge further at a quarter than in the middle, by the slopes at its ends.

    Where a curve changes sides, its middle may lie on the chord while its
    quarters do not. The cubic with the slopes of both ends (Hermite) stands
    off by (9 s0 - 3 s1) / 64 and (3 s0 - 9 s1) / 64 at the quarters and by
    (s0 - s1) / 8 in the middle.
    """
    start, end = pairs.T
    along = patch.positions[end] - patch.positions[start]
    rise = np.einsum("ij,ij->i", patch.normals[start], along)
    fall = np.einsum("ij,ij->i", patch.normals[end], along)
    quarters = np.maximum(np.abs(9 * rise - 3 * fall), np.abs(3 * rise - 9 * fall)) / 64
    return np.asarray(quarters > 1.2 * np.abs(rise - fall) / 8)


