"""`Ruler`: how far edges and middles of triangles lie from the true surface."""

from collections.abc import Sequence
from dataclasses import replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.facet.patch import Floats, Integers, Patch, decoded, edge_codes, encoded
from hemp_ladder.core.facet.sag import bulge
from hemp_ladder.core.facet.surface import TrueSurface
from hemp_ladder.core.facet.surface.many import by_face, distances, points_and_normals

#: Distance is measured at a few places; on most surfaces it can be a little larger between.
_GOAL = 0.98
#: So many times its limit by the slopes at its ends, and an edge strays whatever a measurement would say.
_FAR = 2.0

#: Where along a side that cannot be moved it is measured.
_PLACES = np.arange(1, 10) / 10


class Ruler:
    """Measures a part's triangles against its faces' surfaces.

    limits  (f,) the distance each face is held to, from the chord errors (f,) it is given
    """

    def __init__(self, surfaces: Sequence[TrueSurface], chords: Floats, patch: Patch) -> None:
        self._surfaces = surfaces
        self._first = patch.triangles
        self.limits = chords * np.array([1 if surface.even else _GOAL for surface in surfaces])

    @cached_property
    def _borders(self) -> Integers:
        """Codes of the edges along the borders of faces, which are never split or turned, so that they stay what they are."""
        codes, uses = np.unique(edge_codes(self._first), return_counts=True)
        return codes[uses == 1]

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
        """Distance of the edges between vertices (k, 2).

        Measured in the middle and carried to where the slopes at the ends
        put the peak; at the quarters where the surface changes sides.
        """
        lean, rise = _lean(patch, pairs)
        peak = _peak(lean)
        worst = rise / 8 * peak
        # What the slopes put far beyond the limit will be divided or turned anyway, and is not asked about.
        far = (worst > _FAR * self.limits[patch.face[pairs[:, 0]]]) & (np.abs(lean) < 0.5)
        far[far] = ~self.on_border(encoded(pairs[far]))
        near, crossing = np.flatnonzero(~far), np.flatnonzero(np.abs(lean) > 1)
        asked = np.concatenate([near, crossing, crossing])
        shares = np.repeat([0.5, 0.25, 0.75], [len(near), len(crossing), len(crossing)])
        found = self._at_share(patch, pairs[asked], shares)
        found[: len(near)] *= peak[near]
        worst[near] = 0
        np.maximum.at(worst, asked, found)
        return worst

    def on_border(self, codes: NDArray[np.int64]) -> NDArray[np.bool_]:
        """Which edges, by their codes (k,), run along the border of a face."""
        if not len(self._borders):
            return np.zeros(len(codes), dtype=bool)
        place = np.searchsorted(self._borders, codes).clip(max=len(self._borders) - 1)
        return np.asarray(self._borders[place] == codes)

    def astray(self, patch: Patch, rows: Integers) -> NDArray[np.bool_]:
        """Which sides of triangles (k,) stray and could be moved, (k, 3)."""
        limits = self.limits[patch.face[patch.triangles[rows, 0]]]
        beyond = patch.sides[rows] > limits[:, None]
        beyond[beyond] = ~self.on_border(edge_codes(patch.triangles[rows])[beyond])
        return beyond

    def measure_middles(self, patch: Patch, rows: Integers) -> Patch:
        """The patch with the insides of the triangles `rows` (k,) measured where no side is astray."""
        rows = rows[np.isnan(patch.middles[rows])]
        rows = rows[~self.astray(patch, rows).any(axis=1)]
        corners = patch.triangles[rows]
        shares = bulge(patch.sides[rows])
        points = np.einsum("kj,kjc->kc", shares, patch.positions[corners])
        middles = patch.middles.copy()
        middles[rows] = self._distance(patch.face[corners[:, 0]], points, patch.uv_at(corners, shares))
        return replace(patch, middles=middles)

    def measure_borders(self, patch: Patch, rows: Integers) -> Patch:
        """The patch with the sides along borders that seem to stray, of the triangles `rows` (k,), held against the surface
        at several places: nothing can be done about them here, so what was carried from their middles does not do."""
        codes = edge_codes(patch.triangles[rows])
        beyond = patch.sides[rows] > self.limits[patch.face[patch.triangles[rows, 0]]][:, None]
        beyond[beyond] = self.on_border(codes[beyond])
        if not beyond.any():
            return patch
        pairs = decoded(codes[beyond])
        shares = np.repeat(_PLACES, len(pairs))
        found = self._at_share(patch, np.tile(pairs, (len(_PLACES), 1)), shares).reshape(len(_PLACES), -1)
        sides = patch.sides[rows]
        sides[beyond] = found.max(axis=0)
        whole = patch.sides.copy()
        whole[rows] = sides
        return replace(patch, sides=whole)

    def at(self, face: Integers, uv: Floats) -> tuple[Floats, Floats]:
        """(n, 3) points and (n, 3) outward normals on faces (n,) at uv (n, 2)."""
        return points_and_normals(self._surfaces, face, uv)

    def still(self, face: Integers, uv: Floats) -> NDArray[np.bool_]:
        """Where a step of u or of v moves nothing, (n, 2)."""
        still = np.zeros((len(uv), 2), dtype=bool)
        for number, rows in by_face(face):
            still[rows] = self._surfaces[number].still(uv[rows])
        return still

    def _at_share(self, patch: Patch, pairs: Integers, share: Floats) -> Floats:
        """The distance a share (k,) of the way along each edge (k, 2)."""
        start, end = patch.positions[pairs[:, 0]], patch.positions[pairs[:, 1]]
        uv = patch.uv_at(pairs, np.stack([1 - share, share], axis=1))
        return self._distance(patch.face[pairs[:, 0]], start + share[:, None] * (end - start), uv)

    def _distance(self, face: Integers, points: Floats, uv: Floats) -> Floats:
        return distances(self._surfaces, face, points, uv, self.limits[face])


def _lean(patch: Patch, pairs: Integers) -> tuple[Floats, Floats]:
    """How unevenly the surface rises over edges (k, 2): 0 where both ends rise alike, beyond 1 where it changes sides.
    And by how much it rises and falls again, eight times what it stands off in the middle.

    Between ends with slopes a and -b, the cubic (Hermite) stands off by
    (a + b) / 8 (1 - x^2) (1 + q x) for x from -1 to 1, with the lean q = (b - a) / (b + a).
    """
    start, end = pairs.T
    along = patch.positions[end] - patch.positions[start]
    rise = -np.einsum("ij,ij->i", patch.normals[start], along)
    fall = np.einsum("ij,ij->i", patch.normals[end], along)
    both = fall + rise
    lean = np.divide(
        fall - rise, both, out=np.zeros(len(pairs)), where=np.abs(both) > 1e-12 * np.abs(along).max(axis=1)
    )
    return lean, np.abs(both)


def _peak(lean: Floats) -> Floats:
    """The largest value of (1 - x^2) (1 + q x) for a lean q up to 1: 1 without lean, 1.19 at 1."""
    q = np.abs(lean).clip(1e-9, 1)
    x = (np.sqrt(1 + 3 * q * q) - 1) / (3 * q)
    return np.asarray((1 - x * x) * (1 + q * x))
