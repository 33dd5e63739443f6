"""Bevel: sharp convex edges of a mesh drawn back on both sides, and a strip between."""

import math
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mend.normals import edges_of, leans
from hemp_ladder.core.mend.repair.edit import changed
from hemp_ladder.core.mesh.edges import Edges, Mask, Numbers, components, following
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import cross, dot, lengths

#: How much more it counts that a corner stays in its faces than that it draws back just as far.
_STAY = 10.0
#: A corner moves so many times the width at the most.
_FARTHEST = 4.0
#: So often edges are given up whose faces would turn over, before all that are left are.
_ROUNDS = 12


def bevel(mesh: Mesh, width: float, degrees: float) -> Mesh:
    """Draw the faces at sharp convex edges back by `width` and lay a strip over each edge, a polygon over each corner.

    What meets in a corner without a sharp edge between (a fan) moves as one,
    so that it stays in its faces and lies `width` away from each of its
    sharp edges, by least squares where it cannot do both. Strips shade from
    the one face to the other, so that flats stay flat and the edge looks
    round. Edges that would run backwards, and those where a face would turn
    over, stay sharp. Effects: `round`, edges rounded; `round.sharp`, edges left sharp.
    """
    if not len(mesh.triangles):
        return mesh
    edges = edges_of(mesh)
    corners = mesh.corners
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    flat = across / np.maximum(lengths(across), 1e-300)[:, None]
    one, two = edges.pairs
    far = mesh.positions[mesh.triangles.reshape(-1)[following(following(two))]]
    near = mesh.positions[mesh.triangles.reshape(-1)[one]]
    wound = edges.start(one) == edges.end(two)
    sharp = wound & (leans(flat, one, two) > math.radians(degrees)) & (dot(far - near, flat[one // 3]) < 0)
    all_sharp = int(np.count_nonzero(sharp))
    moved: NDArray[np.float64] | None = None
    for _ in range(_ROUNDS):
        if not sharp.any():
            break
        fan = _fans(len(flat), one[~sharp & wound], two[~sharp & wound])
        moved = corners + _drawn_back(corners, flat, one[sharp], two[sharp], fan, width)[fan].reshape(-1, 3, 3)
        turned = _turned(moved, flat)
        back = sharp & (_reversed(corners, moved, one) | _reversed(corners, moved, two))
        if not turned.any() and not back.any():
            break
        # Give up the edges at the corners of faces that would turn over, and those that would run backwards.
        places = np.unique(edges.places[turned])
        bad = np.isin(edges.start(one), places) | np.isin(edges.end(one), places)
        sharp &= ~(bad | back)
        moved = None
    rounded = int(np.count_nonzero(sharp)) if moved is not None else 0
    effects = {**mesh.figures.effects, "round": float(rounded), "round.sharp": float(all_sharp - rounded)}
    if not rounded or moved is None:
        return replace(mesh, figures=replace(mesh.figures, effects=effects))
    made = _with_strips(mesh, edges, moved, one[sharp], two[sharp], fan)
    return replace(made, figures=replace(made.figures, effects=effects))


def _fans(count: int, one: Numbers, two: Numbers) -> Numbers:
    """For every corner the number of what meets there without a sharp edge between, (3 m,)."""
    return components(3 * count, np.concatenate([one, following(one)]), np.concatenate([following(two), two]))[1]


def _drawn_back(
    corners: NDArray[np.float64], flat: NDArray[np.float64], one: Numbers, two: Numbers, fan: Numbers, width: float
) -> NDArray[np.float64]:
    """How far each fan moves, (f, 3)."""
    fans = int(fan.max()) + 1
    touched = np.zeros(fans, bool)
    at = corners.reshape(-1, 3)
    left, right = np.zeros((fans, 3, 3)), np.zeros((fans, 3))
    for side in (one, two):
        along = at[following(side)] - at[side]
        along /= np.maximum(lengths(along), 1e-300)[:, None]
        into = cross(flat[side // 3], along)
        for corner in (side, following(side)):
            np.add.at(left, fan[corner], into[:, :, None] * into[:, None, :])
            np.add.at(right, fan[corner], width * into)
            touched[fan[corner]] = True
    rows = np.flatnonzero(touched[fan])
    normal = flat[rows // 3]
    np.add.at(left, fan[rows], _STAY * normal[:, :, None] * normal[:, None, :])
    found = np.zeros((fans, 3))
    some = np.flatnonzero(touched)
    found[some] = np.einsum("fij,fj->fi", np.linalg.pinv(left[some], rcond=1e-6, hermitian=True), right[some])
    size = lengths(found)
    return found * np.minimum(1.0, _FARTHEST * width / np.maximum(size, 1e-300))[:, None]


def _turned(moved: NDArray[np.float64], flat: NDArray[np.float64]) -> Mask:
    """Which triangles, with corners (m, 3, 3), face away from where they faced, (m, 3)."""
    across = cross(moved[:, 1] - moved[:, 0], moved[:, 2] - moved[:, 0])
    return np.asarray(dot(across, flat) <= 0)


def _reversed(corners: NDArray[np.float64], moved: NDArray[np.float64], sides: Numbers) -> Mask:
    """Which sides run backwards, or shrink to less than a hundredth, once their corners have moved, (s,)."""
    before, after = (at.reshape(-1, 3)[following(sides)] - at.reshape(-1, 3)[sides] for at in (corners, moved))
    return np.asarray(dot(before, after) <= 0.01 * dot(before, before))


def _with_strips(
    mesh: Mesh, edges: Edges, moved: NDArray[np.float64], one: Numbers, two: Numbers, fan: Numbers
) -> Mesh:
    """The mesh with its corners where they moved, a quad over every edge and a polygon over every corner of several."""
    old = mesh.triangles.reshape(-1)
    count = len(old)
    next_one, next_two = following(one), following(two)
    # Each strip runs against its neighbours: from the end of one side to its start, over to the other's end, and on.
    quads = np.column_stack([next_one, one, next_two, two])
    strips = np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]])
    # A strip takes its place on pictures from one of its sides: as if it were folded over.
    lies_like = np.concatenate([
        np.column_stack([next_one, one, one]), np.column_stack([next_one, one, next_one])
    ])  # fmt: skip
    polygons = _polygons(edges, one, two, fan)
    taken = np.concatenate([np.arange(count).reshape(-1, 3), strips, polygons]).reshape(-1)
    lies = np.concatenate([np.arange(count).reshape(-1, 3), lies_like, polygons]).reshape(-1)
    attributes = {name: values[old[lies]] for name, values in mesh.attributes.items()}
    attributes["normal"] = mesh.normals[old[taken]]
    owners = np.concatenate([
        np.arange(count // 3), one // 3, one // 3, polygons[:, 0] // 3
    ])  # fmt: skip
    loose = replace(
        mesh, positions=moved.reshape(-1, 3)[taken], attributes=attributes, places=None,
        triangles=np.arange(len(taken), dtype=np.int32).reshape(-1, 3),
    )  # fmt: skip
    return _shared(changed(loose, loose.triangles, owners))


def _polygons(edges: Edges, one: Numbers, two: Numbers, fan: Numbers) -> Numbers:
    """Triangles, as corners (k, 3), over every place where three fans or more meet at rounded edges."""
    # At the start of each side the polygon goes from the fan of the triangle opposite to the side's own.
    start = np.concatenate([one, two])
    opposite = np.concatenate([following(two), following(one)])
    after = dict(zip(fan[opposite].tolist(), zip(fan[start].tolist(), start.tolist(), strict=True), strict=True))
    found: list[tuple[int, int, int]] = []
    seen: set[int] = set()
    for first in fan[opposite].tolist():
        if first in seen:
            continue
        ring: list[int] = []
        now = first
        while now not in seen and now in after:
            seen.add(now)
            now, corner = after[now]
            ring.append(corner)
        if now == first and len(ring) >= 3:
            found += [(ring[0], ring[k], ring[k + 1]) for k in range(1, len(ring) - 1)]
    return np.array(found, np.int64).reshape(-1, 3)


def _shared(mesh: Mesh) -> Mesh:
    """The same with corners that are alike in everything as one vertex."""
    from hemp_ladder.core.mend.weld import Weld, weld

    effects = mesh.figures.effects
    made = weld(mesh, Weld(tolerance=0))
    return replace(made, figures=replace(made.figures, effects=effects))
