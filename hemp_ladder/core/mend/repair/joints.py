"""T-joints and seams: borders that meet without sharing their ends."""

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mend.repair.edit import changed, edges_and_spots, spots_of, with_vertices
from hemp_ladder.core.mend.weld import nearest_kept
from hemp_ladder.core.mesh.edges import Edges, Numbers, following
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.seams import t_joints
from hemp_ladder.core.mesh.triangles import weld_tolerance

#: A triangle with places on more than one of its sides is divided side by side.
_ROUNDS = 12


def without_t_joints(mesh: Mesh, reach: float = 0.0) -> tuple[Mesh, int]:
    """With every border run through the places on its middle, no farther from it than `reach`, and how many those were.

    The triangle at the border becomes a fan; its new corners have what hangs on its own two, mixed.
    """
    reach = max(reach, 2 * weld_tolerance(mesh.positions))
    total = 0
    for _ in range(_ROUNDS):
        edges, spots = edges_and_spots(mesh)
        found = t_joints(edges, spots, reach)
        if found is None or not len(found[0]):
            break
        mesh, count = _divided(mesh, spots, *found)
        total += count
    return mesh, total


def _divided(
    mesh: Mesh, spots: NDArray[np.float64], sides: Numbers, places: Numbers, share: NDArray[np.float64]
) -> tuple[Mesh, int]:
    """One side of every triangle divided at the places on it."""
    order = np.lexsort([share, sides])
    sides, places, share = sides[order], places[order], share[order]
    # Of a triangle with several sides to divide, the first.
    first = np.searchsorted(sides // 3, sides // 3)
    now = sides == sides[first]
    sides, places, share = sides[now], places[now], share[now]
    corner = mesh.triangles.reshape(-1)
    start, end = corner[sides], corner[following(sides)]
    mixed = {
        name: values[start] * (1 - share[:, None]) + values[end] * share[:, None]
        for name, values in mesh.attributes.items()
    }
    grown, number = with_vertices(mesh, spots[places], mixed)
    new = number + np.arange(len(sides))
    # Along each side: its start, the new corners, its end. A triangle of the fan begins at each but the last.
    begins = np.flatnonzero(np.concatenate([[True], sides[1:] != sides[:-1]]))
    counts = np.diff(np.append(begins, len(sides)))
    at = np.cumsum(counts + 2) - (counts + 2)
    run = np.zeros(int((counts + 2).sum()), np.int64)
    run[at], run[at + counts + 1] = start[begins], end[begins]
    run[np.arange(len(new)) + np.repeat(2 * np.arange(len(begins)) + 1, counts)] = new
    from_ = np.delete(np.arange(len(run)), at + counts + 1)
    far = corner[following(following(sides[begins]))]
    fan = np.column_stack([np.repeat(far, counts + 1), run[from_], run[from_ + 1]])
    old = np.repeat(sides[begins] // 3, counts + 1)
    kept = np.ones(len(mesh.triangles), bool)
    kept[old] = False
    rows = np.flatnonzero(kept)
    like = np.concatenate([rows, old])
    triangles = np.concatenate([mesh.triangles[rows], fan])
    place = np.argsort(like, kind="stable")
    return changed(grown, triangles[place], like[place]), len(sides)


def without_seams(mesh: Mesh, reach: float) -> tuple[Mesh, int]:
    """With borders that lie within `reach` of each other joined, and how many edges are open no more.

    Only what lies on a border moves, so that detail finer than that stays elsewhere.
    """
    places, spots = spots_of(mesh)
    edges = Edges.of(places[mesh.triangles])
    before = len(edges.borders)
    if not before:
        return mesh, 0
    at = np.unique(np.concatenate([edges.start(edges.borders), edges.end(edges.borders)]))
    owner = np.arange(len(spots))
    owner[at] = at[nearest_kept(spots[at], reach)]
    place = owner[places]
    moved = changed(_at(mesh, spots[place], places, place), mesh.triangles, np.arange(len(mesh.triangles)))
    told = moved.welded[moved.triangles]
    whole = (told[:, 0] != told[:, 1]) & (told[:, 1] != told[:, 2]) & (told[:, 2] != told[:, 0])
    joined = changed(moved, moved.triangles[whole], np.flatnonzero(whole))
    joined, _ = without_t_joints(joined, reach)
    after = len(edges_and_spots(joined)[0].borders)
    return (joined, before - after) if after < before else (mesh, 0)


def _at(mesh: Mesh, positions: NDArray[np.float64], before: Numbers, after: Numbers) -> Mesh:
    """The mesh with the vertices that changed their place at other positions."""
    from dataclasses import replace

    told = np.where((before != after)[:, None], positions, mesh.positions)
    return replace(mesh, positions=told, places=None)
