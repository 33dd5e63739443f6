"""Turn and split triangles where they stray further from the true surface than asked, and only there."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.facet.flip import flip_edges
from hemp_ladder.core.facet.patch import Floats, Integers, Patch, decoded, edge_codes, joined
from hemp_ladder.core.facet.ruler import Ruler
from hemp_ladder.core.facet.surface import TrueSurface
from hemp_ladder.core.mesh.triangles import weld_indices, weld_tolerance

#: A split halves an edge, which quarters its distance.
_PASSES = 24
#: A face that grows beyond this is better left to the kernel's own control.
_GROWTH = 8
#: Passes that turn edges first and split thriftily; later ones only split, and everything that strays,
#: so that the two cannot chase each other.
_TURNING = 5


def refine(patch: Patch, surfaces: list[TrueSurface], chords: Floats) -> tuple[Patch, Floats]:
    """The patch split until each face (f,) lies within its chord error of its surface, and how far off each still is.

    Faces may be those of several parts: none knows of another, and together
    they take half the time. Splits stay inside a face: the points along its
    border are shared with its neighbours, and the mesher placed them within
    the chord error.
    """
    ruler = Ruler(surfaces, chords, patch)
    curved = np.array([not surface.flat for surface in surfaces], dtype=bool)
    active = curved.copy()
    first = np.bincount(patch.face[patch.triangles[:, 0]], minlength=len(surfaces)).clip(min=5000)
    done: list[Patch] = []
    for attempt in range(_PASSES + 1):
        # What was measured and holds stays as it is until an edge of it is divided.
        of = patch.face[patch.triangles[:, 0]]
        if np.count_nonzero(active[of]) < len(of) / 2:
            # A few faces take most of the passes, which should not go through all that are done.
            done.append(patch.only(~active))
            patch = patch.only(active)
            ruler, of = Ruler(surfaces, chords, patch), patch.face[patch.triangles[:, 0]]
        rows = np.flatnonzero(active[of] & ~(patch.middles <= ruler.limits[of]))
        if not len(rows):
            break
        if attempt < _TURNING:
            patch = flip_edges(patch, rows, ruler)
        patch = ruler.measure_middles(ruler.measure_sides(patch, rows), rows)
        found = _find_strays(patch, rows, ruler, thrifty=attempt < _TURNING)
        where = np.concatenate([decoded(found.edges)[:, 0], patch.triangles[found.middles, 0]])
        active &= np.bincount(patch.face[where], minlength=len(surfaces)) > 0
        active &= np.bincount(of, minlength=len(surfaces)) <= _GROWTH * first
        if attempt < _PASSES:
            patch = _split(patch, found, active, ruler)
    patch = joined([*done, patch], [0] * (len(done) + 1)).by_face()
    off_by = np.zeros(len(surfaces))
    of = patch.face[patch.triangles[:, 0]]
    rows = np.flatnonzero(curved[of])
    patch = Ruler(surfaces, chords, patch).measure_borders(patch, rows)
    np.maximum.at(off_by, of[rows], patch.off_by(rows))
    return patch, off_by


def with_free(patch: Patch, surfaces: list[TrueSurface]) -> Patch:
    """A part's patch knowing where u or v of a vertex means nothing, before it is refined."""
    active = np.array([not surface.flat for surface in surfaces], dtype=bool)
    return replace(patch, free=_free(patch, active, Ruler(surfaces, np.ones(len(surfaces)), patch)))


def _free(patch: Patch, active: NDArray[np.bool_], ruler: Ruler) -> NDArray[np.bool_]:
    """Where u or v of a vertex means nothing, (n, 2).

    Only vertices that share their position with another of their face are asked.
    """
    free = np.zeros((len(patch.positions), 2), dtype=bool)
    curved = np.flatnonzero(active[patch.face])
    if len(curved):
        places = weld_indices(patch.positions[curved], weld_tolerance(patch.positions))
        twins = places * len(active) + patch.face[curved]
        _, inverse, uses = np.unique(twins, return_inverse=True, return_counts=True)
        shared = curved[uses[inverse] > 1]
        free[shared] = ruler.still(patch.face[shared], patch.uv[shared])
    return free


@dataclass(frozen=True)
class _Strays:
    """What is to be divided: codes of edges (k,), triangles to pierce (j,)."""

    edges: NDArray[np.int64]
    middles: Integers


def _find_strays(patch: Patch, rows: Integers, ruler: Ruler, thrifty: bool) -> _Strays:
    """What to divide among the measured triangles `rows`.

    A triangle gives up its worst inner edge or, when not `thrifty`, every one
    that strays and those about as long; one whose middle strays while its
    edges hold gives up its longest, or is pierced where all three are borders.
    """
    limits = ruler.limits[patch.face[patch.triangles[rows, 0]]]
    astray = ruler.astray(patch, rows)
    kept = astray.any(axis=1) | (patch.middles[rows] > limits)
    rows, astray = rows[kept], astray[kept]
    codes, first, inverse = np.unique(edge_codes(patch.triangles[rows]), return_index=True, return_inverse=True)
    inverse, inner, stray = inverse.reshape(-1, 3), ~ruler.on_border(codes), astray.reshape(-1)[first]
    pairs = decoded(codes)
    measured = patch.sides[rows].reshape(-1)[first]
    length = np.linalg.norm(patch.positions[pairs[:, 0]] - patch.positions[pairs[:, 1]], axis=1)
    length[~inner] = -1
    if thrifty:
        worst = np.zeros(len(codes), dtype=bool)
        by_triangle = np.where(inner[inverse], measured[inverse], -1)
        worst[inverse[np.arange(len(inverse)), by_triangle.argmax(axis=1)]] = True
        chosen = stray & worst
    else:
        chosen = stray | _long_beside(stray, inverse, length, inner)
    bulging = np.flatnonzero(~astray.any(axis=1))
    longest = inverse[bulging, length[inverse[bulging]].argmax(axis=1)]
    splittable = length[longest] > 0
    chosen[longest[splittable]] = True
    return _Strays(codes[chosen], rows[bulging[~splittable]])


def _long_beside(
    stray: NDArray[np.bool_], of_triangle: Integers, length: Floats, inner: NDArray[np.bool_]
) -> NDArray[np.bool_]:
    """Inner edges of triangles with a stray edge that are more than half as long as it, (k,).

    Halving the stray edge alone can go on for ever: the new vertex is tied to
    the far corner, that edge strays in its turn, and none gets shorter.
    """
    reach = np.where(stray[of_triangle], length[of_triangle], np.inf).min(axis=1)
    beside = np.zeros(len(stray), dtype=bool)
    beside[of_triangle[length[of_triangle] > reach[:, None] / 2]] = True
    return beside & inner


def _split(patch: Patch, found: _Strays, active: NDArray[np.bool_], ruler: Ruler) -> Patch:
    """Put vertices of the true surface where the strays are, on faces that are still worked at."""
    rows = found.middles[active[patch.face[patch.triangles[found.middles, 0]]]]
    pairs = decoded(found.edges)
    pairs = pairs[active[patch.face[pairs[:, 0]]]]
    if len(rows):
        corners = patch.triangles[rows]
        uv = patch.uv_at(corners, (1 / 3, 1 / 3, 1 / 3))
        patch = patch.pierce(rows, *_placed(patch, corners[:, 0], uv, ruler), uv)
    if len(pairs):
        uv = patch.uv_at(pairs, (0.5, 0.5))
        patch = patch.split(pairs, *_placed(patch, pairs[:, 0], uv, ruler), uv)
    return patch


def _placed(patch: Patch, near: Integers, uv: Floats, ruler: Ruler) -> tuple[Floats, Floats]:
    """Points and normals at uv on the faces of the vertices `near`, whose normal stands in where there is none."""
    points, normals = ruler.at(patch.face[near], uv)
    nowhere = ~normals.any(axis=1)
    normals[nowhere] = patch.normals[near[nowhere]]
    return points, normals
