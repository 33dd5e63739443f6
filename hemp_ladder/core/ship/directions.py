"""Whether what hangs on corners arrived as it was meant: normals held against normals, UV against UV, triangle by
triangle."""

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.triangles import cross, dot, lengths, means
from hemp_ladder.core.model.laying import laid
from hemp_ladder.core.ship.format import Facets, Format
from hemp_ladder.core.ship.scene import Attributes, Scene

Array = NDArray[np.float64]
#: So many triangles of a file are looked at where its reader gives them in an order of its own.
_SAMPLE = 4000
#: So many may have their centre in one place: what lies back to back has two.
_TIES = 4


def meant_facets(scene: Scene, form: Format) -> list[Facets]:
    """The triangles of a scene as they are to stand in a file, in the order of writing."""
    told = []
    if "instances" in form.carries:
        for surface in scene.surfaces:
            told += [
                _facets(surface.positions, _as_laid(scene, surface.attributes, material), run, np.eye(4))
                for material, run in surface.runs
            ]
        return told
    for _, surface, matrix in scene.standing():
        for material, run in surface.runs:
            attributes = _as_laid(scene, surface.attributes, material)
            told.append(_facets(surface.positions + surface.origin, attributes, run, matrix))
    return told


def _as_laid(scene: Scene, attributes: Attributes, material: str) -> Attributes:
    """With UV moved where the format has no words for how a material's pictures lie."""
    if material not in scene.laid or "uv" not in attributes:
        return attributes
    return {**attributes, "uv": laid(attributes["uv"], scene.laid[material])}


def _facets(positions: Array, attributes: Attributes, triangles: NDArray[np.int32], matrix: Array) -> Facets:
    """At a place. Normals are turned by way of two directions along the surface, not by the formula of the writers."""
    placed = positions @ matrix[:3, :3].T + matrix[:3, 3]
    turned = attributes["normal"].astype(np.float64)
    if not np.array_equal(matrix[:3, :3], np.eye(3)):
        turned = _by_tangents(turned, matrix[:3, :3])
    uv = attributes["uv"].astype(np.float64)[triangles].mean(axis=1) if "uv" in attributes else None
    return Facets(means(placed[triangles]), means(turned[triangles]), uv)


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
    return _worst(meant, found, lambda item: item.normals, _degrees, 180.0)


def largest_shift(meant: Sequence[Facets], found: Sequence[Facets]) -> float:
    """Largest distance between UV that were meant and those found at the same triangle, of those that have any; infinite
    where a triangle is not found."""
    meant = [item for item in meant if item.uv is not None]
    found = [item for item in found if item.uv is not None]

    def shift(first: Array, second: Array) -> Array:
        return np.asarray(np.linalg.norm(first - second, axis=1))

    return _worst(meant, found, lambda item: np.asarray(item.uv), shift, np.inf)


def _worst(
    meant: Sequence[Facets], found: Sequence[Facets], of: Callable[[Facets], Array],
    differ: Callable[[Array, Array], Array], lost: float,
) -> float:  # fmt: skip
    """The largest difference of what hangs on triangles that are at the same place; `lost` where one is not found.

    Meshes lie over each other as they are in a file: each is held against its own, where as many are found.
    """
    if not meant or not found:
        return 0.0 if not meant else lost
    if len(meant) > 1 and [len(item.centres) for item in meant] == [len(item.centres) for item in found]:
        each = max(_worst([one], [other], of, differ, lost) for one, other in zip(meant, found, strict=True))
        if each < lost:
            return each
    centres, values = np.concatenate([item.centres for item in meant]), np.concatenate([of(item) for item in meant])
    there, shown = np.concatenate([item.centres for item in found]), np.concatenate([of(item) for item in found])
    slack = 1e-5 * float(np.ptp(centres, axis=0).max() + np.abs(centres).max())
    if centres.shape == there.shape and np.abs(centres - there).max(initial=0.0) <= slack:
        return float(differ(values, shown).max(initial=0.0))
    from scipy.spatial import cKDTree

    chosen = np.linspace(0, len(there) - 1, min(_SAMPLE, len(there))).astype(int)
    near, at = cKDTree(there[chosen]).query(centres, k=_TIES, distance_upper_bound=slack)
    row, column = np.nonzero(np.isfinite(near))
    best = np.full(len(chosen), lost)
    # Of triangles with one centre, the one that is nearest in what hangs on it is the one meant.
    np.minimum.at(best, at[row, column], differ(values[row], shown[chosen][at[row, column]]))
    return float(best.max(initial=0.0))


def _degrees(first: Array, second: Array) -> Array:
    """Angles (n,) between vectors (n, 3); 0 where either is nothing."""
    return np.asarray(np.degrees(np.arctan2(lengths(cross(first, second)), dot(first, second))))
