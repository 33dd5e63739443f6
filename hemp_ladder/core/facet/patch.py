"""`Patch`: the triangles of a part while they are being refined, with what ties them to the true surface."""

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Integers = NDArray[np.integer]


@dataclass(frozen=True)
class Patch:
    """Triangles of all faces of a part; no vertex is shared between faces.

    positions  (n, 3)
    normals    (n, 3) float32
    uv         (n, 2) parameters on the vertex's own face
    face       (n,) number of that face
    free       (n, 2) where u or v means nothing, as u at the pole of a sphere
    triangles  (m, 3) int32
    sides      (m, 3) distance from the surface of the edge from corner k to corner k + 1, NaN until it is measured
    middles    (m,) distance of a triangle's middle, NaN until it is measured
    """

    positions: Floats
    normals: NDArray[np.float32]
    uv: Floats
    face: NDArray[np.int32]
    free: NDArray[np.bool_]
    triangles: NDArray[np.int32]
    sides: Floats
    middles: Floats

    def rows_of(self, faces: Sequence[int]) -> list[Integers]:
        """Of each of some faces its triangles, by number, in one look at all."""
        of = self.face[self.triangles[:, 0]]
        order = np.argsort(of, kind="stable")
        first, last = (np.searchsorted(of[order], faces, side=side) for side in ("left", "right"))
        return [order[start:end] for start, end in zip(first.tolist(), last.tolist(), strict=True)]

    def only(self, faces: NDArray[np.bool_]) -> "Patch":
        """What of it is on some of the faces (f,), which keep their numbers; all in the same order."""
        vertices = np.flatnonzero(faces[self.face])
        rows = np.flatnonzero(faces[self.face[self.triangles[:, 0]]])
        index = np.zeros(len(self.positions), np.int32)
        index[vertices] = np.arange(len(vertices), dtype=np.int32)
        return Patch(
            self.positions[vertices], self.normals[vertices], self.uv[vertices], self.face[vertices],
            self.free[vertices], index[self.triangles[rows]], self.sides[rows], self.middles[rows],
        )  # fmt: skip

    def by_face(self) -> "Patch":
        """With vertices and triangles face by face, those of each in the same order."""
        order = np.argsort(self.face, kind="stable")
        index = np.empty(len(order), np.int32)
        index[order] = np.arange(len(order), dtype=np.int32)
        rows = np.argsort(self.face[self.triangles[:, 0]], kind="stable")
        return Patch(
            self.positions[order], self.normals[order], self.uv[order], self.face[order], self.free[order],
            index[self.triangles[rows]], self.sides[rows], self.middles[rows],
        )  # fmt: skip

    def uv_at(self, vertices: Integers, shares: Floats | tuple[float, ...]) -> Floats:
        """UV at the mean of vertices (k, j) by shares (k, j) or (j,); a free coordinate follows the others."""
        shares = np.broadcast_to(np.asarray(shares), vertices.shape)
        uv = self.uv[vertices]
        plain = np.asarray(np.einsum("kjc,kj->kc", uv, shares))
        some = np.flatnonzero(self.free[vertices].any(axis=(1, 2)))
        if len(some):
            counted = np.where(self.free[vertices[some]], 0.0, shares[some, :, None])
            total = counted.sum(axis=1)
            mean = (uv[some] * counted).sum(axis=1) / np.where(total > 0, total, 1)
            plain[some] = np.where(total > 0, mean, plain[some])
        return plain

    def off_by(self, rows: Integers) -> Floats:
        """The largest distance known of triangles (k,): at their sides, and in their middles where those are measured."""
        return np.asarray(np.fmax(self.sides[rows].max(axis=1), self.middles[rows]))

    def with_triangles(self, rows: Integers, triangles: Integers, sides: Floats) -> "Patch":
        """With other triangles in the place of `rows` (k,); their middles are to be measured again."""
        changed = replace(self, triangles=self.triangles.copy(), sides=self.sides.copy(), middles=self.middles.copy())
        changed.triangles[rows], changed.sides[rows], changed.middles[rows] = triangles, sides, np.nan
        return changed

    def split(self, pairs: Integers, points: Floats, normals: Floats, uv: Floats) -> "Patch":
        """With a new vertex on each edge in `pairs` (k, 2), low vertex first, and the triangles around it divided.

        A triangle with one, two or three split edges becomes two, three or four.
        """
        count = len(self.positions)
        codes = edge_codes(self.triangles)
        wanted = pairs[:, 0].astype(np.int64) << 32 | pairs[:, 1]
        order = np.argsort(wanted)
        place = np.searchsorted(wanted[order], codes).clip(max=len(wanted) - 1)
        middle = np.where(wanted[order][place] == codes, count + order[place], -1)
        whole = np.asarray((middle < 0).all(axis=1))
        pieces, sides = _divide(self.triangles[~whole], middle[~whole], self.sides[~whole])
        return self._grown(points, normals, uv, self.face[pairs[:, 0]], whole, pieces, sides)

    def pierce(self, rows: Integers, points: Floats, normals: Floats, uv: Floats) -> "Patch":
        """With a new vertex inside each of some triangles (k,), which become three each."""
        new = len(self.positions) + np.arange(len(rows))
        a, b, c = self.triangles[rows].astype(np.int64).T
        fans = [np.stack(fan, axis=1) for fan in ((a, b, new), (b, c, new), (c, a, new))]
        whole = np.ones(len(self.triangles), dtype=bool)
        whole[rows] = False
        sides = np.full((3 * len(rows), 3), np.nan)
        sides[:, 0] = self.sides[rows].T.reshape(-1)
        return self._grown(points, normals, uv, self.face[a], whole, np.concatenate(fans), sides)

    def _grown(
        self, points: Floats, normals: Floats, uv: Floats, face: Integers,
        whole: NDArray[np.bool_], pieces: Integers, sides: Floats,
    ) -> "Patch":  # fmt: skip
        """More vertices behind those there are; the triangles that stay whole, and the pieces of the others."""
        return Patch(
            np.concatenate([self.positions, points]),
            np.concatenate([self.normals, normals.astype(np.float32)]),
            np.concatenate([self.uv, uv]),
            np.concatenate([self.face, face.astype(np.int32)]),
            np.concatenate([self.free, np.zeros((len(points), 2), dtype=bool)]),
            np.concatenate([self.triangles[whole], pieces.astype(np.int32)]),
            np.concatenate([self.sides[whole], sides]),
            np.concatenate([self.middles[whole], np.full(len(pieces), np.nan)]),
        )


def joined(patches: Sequence[Patch], faces: Sequence[int]) -> Patch:
    """Patches of several parts with so many faces each behind one another, faces numbered on."""
    vertices = np.cumsum([0, *(len(patch.positions) for patch in patches)])
    numbers = np.cumsum([0, *faces])
    shifted = [
        replace(patch, face=patch.face + np.int32(number), triangles=patch.triangles + np.int32(vertex))
        for patch, number, vertex in zip(patches, numbers, vertices, strict=False)
    ]
    return Patch(*(np.concatenate([getattr(patch, item.name) for patch in shifted]) for item in fields(Patch)))


def apart(patch: Patch, faces: Sequence[int]) -> list[Patch]:
    """The patches that `joined` joined, with what was done to them since, in the same order within each. The patch is face
    by face."""
    numbers = np.cumsum([0, *faces])
    vertices = np.searchsorted(patch.face, numbers)
    rows = np.searchsorted(patch.face[patch.triangles[:, 0]], numbers)
    pieces = []
    for number, (v, w), (r, s) in zip(numbers, pairwise(vertices.tolist()), pairwise(rows.tolist()), strict=False):
        pieces.append(
            Patch(
                patch.positions[v:w],
                patch.normals[v:w],
                patch.uv[v:w],
                patch.face[v:w] - np.int32(number),
                patch.free[v:w],
                patch.triangles[r:s] - np.int32(v),
                patch.sides[r:s],
                patch.middles[r:s],
            )
        )
    return pieces


def edge_codes(triangles: Integers) -> NDArray[np.int64]:
    """One number for each edge of each triangle, the same from both sides: (m, 3).

    Column k belongs to the edge from corner k to corner k + 1.
    """
    ends = triangles.astype(np.int64)
    following = ends[:, [1, 2, 0]]
    return np.minimum(ends, following) << 32 | np.maximum(ends, following)


def encoded(pairs: Integers) -> NDArray[np.int64]:
    """The codes of edges between vertices (k, 2), in whichever order: (k,)."""
    ends = pairs.astype(np.int64)
    return np.minimum(ends[:, 0], ends[:, 1]) << 32 | np.maximum(ends[:, 0], ends[:, 1])


def decoded(codes: NDArray[np.int64]) -> NDArray[np.int64]:
    """The two vertices of edge codes (k,), low first: (k, 2)."""
    return np.stack([codes >> 32, codes & 0xFFFFFFFF], axis=1)


def _divide(triangles: Integers, middle: NDArray[np.int64], sides: Floats) -> tuple[NDArray[np.int64], Floats]:
    """The pieces of triangles (m, 3) at the vertices `middle` (m, 3), -1 where an edge stays whole.

    Column k of `middle` and of `sides` lies on the edge from corner k to
    corner k + 1. What is known of edges that stay goes to their pieces.
    """
    pieces: list[NDArray[np.int64]] = []
    known: list[Floats] = []

    def add(rows: NDArray[np.bool_], corners: tuple[Integers, ...], *stay: Floats | None) -> None:
        pieces.append(np.stack([corner[rows] for corner in corners], axis=1).astype(np.int64))
        of = np.full((len(pieces[-1]), 3), np.nan)
        for column, side in enumerate(stay):
            if side is not None:
                of[:, column] = side[rows]
        known.append(of)

    number = (middle >= 0).sum(axis=1)
    for turn in range(3):
        a, b, c = (triangles[:, (turn + k) % 3] for k in range(3))
        ab, bc, ca = (middle[:, (turn + k) % 3] for k in range(3))
        one = (number == 1) & (ab >= 0)
        add(one, (a, ab, c), None, None, sides[:, (turn + 2) % 3])
        add(one, (ab, b, c), None, sides[:, (turn + 1) % 3])
        two = (number == 2) & (ca < 0)
        add(two, (ab, b, bc))
        add(two, (a, ab, bc))
        add(two, (a, bc, c), None, None, sides[:, (turn + 2) % 3])
    three = number == 3
    a, b, c = triangles.T
    ab, bc, ca = middle.T
    for corners in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca)):
        add(three, corners)
    return np.concatenate(pieces), np.concatenate(known)
