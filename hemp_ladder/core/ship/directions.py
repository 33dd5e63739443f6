"""Whether normals arrived as they were meant: directions held against directions, triangle by triangle."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.triangles import cross, dot, lengths, means
from hemp_ladder.core.ship.format import Facets, Format
from hemp_ladder.core.ship.scene import Scene

Array = NDArray[np.float64]
#: So many triangles of a file are looked at where its reader gives them in an order of its own.
_SAMPLE = 4000


def meant_facets(scene: Scene, form: Format) -> list[Facets]:
    """The triangles of a scene as they are to stand in a file, in the order of writing."""
    told = []
    if "instances" in form.carries:
        for surface in scene.surfaces:
            told += [
                _facets(surface.positions, surface.attributes["normal"], run, np.eye(4)) for _, run in surface.runs
            ]
        return told
    for _, surface, matrix in scene.standing():
        for _, run in surface.runs:
            positions = surface.positions + surface.origin
            told.append(_facets(positions, surface.attributes["normal"], run, matrix))
    return told


def _facets(positions: Array, normals: NDArray[np.float32], triangles: NDArray[np.int32], matrix: Array) -> Facets:
    """At a place. Normals are turned by way of two directions along the surface, not by the formula of the writers."""
    placed = positions @ matrix[:3, :3].T + matrix[:3, 3]
    turned = normals.astype(np.float64)
    if not np.array_equal(matrix[:3, :3], np.eye(3)):
        turned = _by_tangents(turned, matrix[:3, :3])
    return Facets(means(placed[triangles]), means(turned[triangles]))


def _by_tangents(normals: Array, turn: Array) -> Array:
    aside = np.where(np.abs(normals[:, :1]) > 0.9, [[0.0, 1, 0]], [[1.0, 0, 0]])
    along = cross(normals, aside)
    across = cross(normals, along)
    turned = cross(along @ turn.T, across @ turn.T) * (np.sign(np.linalg.det(turn)) or 1.0)
    length = lengths(turned)[:, None]
    return np.asarray(np.divide(turned, length, out=np.zeros_like(turned), where=length > 0))


def largest_turn(meant: Sequence[Facets], found: Sequence[Facets]) -> float:
    """Largest angle in degrees between normals that were meant and those found at the same triangle; 180 where a
    triangle is not found at all."""
    if not meant or not found:
        return 0.0 if not meant else 180.0
    centres, normals = (np.concatenate([getattr(item, name) for item in meant]) for name in ("centres", "normals"))
    there, shown = (np.concatenate([getattr(item, name) for item in found]) for name in ("centres", "normals"))
    slack = 1e-5 * float(np.ptp(centres, axis=0).max() + np.abs(centres).max())
    if centres.shape == there.shape and np.abs(centres - there).max(initial=0.0) <= slack:
        return float(_degrees(normals, shown).max(initial=0.0))
    from scipy.spatial import cKDTree

    chosen = np.linspace(0, len(there) - 1, min(_SAMPLE, len(there))).astype(int)
    near, at = cKDTree(there[chosen]).query(centres, k=1, distance_upper_bound=slack)
    matched = np.isfinite(near)
    best = np.full(len(chosen), 180.0)
    # Of triangles with one centre, the one that is nearest in direction is the one meant.
    np.minimum.at(best, at[matched], _degrees(normals[matched], shown[chosen][at[matched]]))
    return float(best.max(initial=0.0))


def _degrees(first: Array, second: Array) -> Array:
    """Angles (n,) between vectors (n, 3); 0 where either is nothing."""
    return np.asarray(np.degrees(np.arctan2(lengths(cross(first, second)), dot(first, second))))
