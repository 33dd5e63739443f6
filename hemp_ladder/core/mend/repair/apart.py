"""Over-shared edges: sheets that hang inside or stick out of a body go, and bodies that touch come apart."""

from dataclasses import replace

import numpy as np

from hemp_ladder.core.mend.repair.edit import edges_and_spots, only
from hemp_ladder.core.mesh.edges import Edges, Mask, Numbers, components
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import cross, lengths

#: How far what touches is pulled apart, as a share of the box: ten times what counts as one place.
_HAIR = 1e-5
_ROUNDS = 8


def without_over_shared(mesh: Mesh) -> tuple[Mesh, int]:
    """With no edge of more than two triangles where that can be had, and how many such edges went.

    Patches are what hangs together across edges of two. Of those that meet
    at an edge of an odd number, ones that end elsewhere (fins) or lie within
    closed others (walls inside) go, the smallest first. Bodies that each
    have two sides at a shared edge only touch: they are pulled apart there by
    a hundred-thousandth of the part's size.
    """
    edges, _ = edges_and_spots(mesh)
    before = int(np.count_nonzero(edges.uses > 2))
    if not before:
        return mesh, 0
    for _ in range(_ROUNDS):
        gone = _superfluous(mesh, edges)
        if gone is None:
            break
        mesh = only(mesh, ~gone)
        edges, _ = edges_and_spots(mesh)
    mesh = _pulled_apart(mesh, edges)
    after = int(np.count_nonzero(edges_and_spots(mesh)[0].uses > 2))
    return mesh, before - after


def patches_of(edges: Edges) -> tuple[int, Numbers]:
    """What hangs together across edges of two triangles: how many patches, and the number of each triangle's."""
    one, two = edges.pairs
    return components(len(edges.places), one // 3, two // 3)


def _superfluous(mesh: Mesh, edges: Edges) -> Mask | None:
    """The triangles of patches at odd edges that can go, the smallest first, (m,); None where there is none.

    One can go where no edge that it shares would be left with a single triangle.
    """
    count, patch = patches_of(edges)
    odd = (edges.uses > 2) & (edges.uses % 2 == 1)
    if not odd.any():
        return None
    of_side = patch[edges.sides // 3]
    order = np.argsort(of_side, kind="stable")
    starts = np.searchsorted(of_side[order], np.arange(count + 1))
    candidates = np.unique(of_side[odd[edges.of_side]])
    corners = mesh.corners
    area = np.bincount(patch, lengths(cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])), count)
    bordered = np.zeros(count, bool)
    bordered[patch[edges.borders // 3]] = True
    left, gone = edges.uses.copy(), np.zeros(count, bool)
    for number in candidates[np.lexsort([area[candidates], ~bordered[candidates]])].tolist():
        own, times = np.unique(edges.of_side[order[starts[number] : starts[number + 1]]], return_counts=True)
        needless = ((left[own] > 2) & (left[own] % 2 == 1)).any()
        if needless and not (left[own] - times == 1)[edges.uses[own] > 1].any():
            gone[number] = True
            left[own] -= times
    return np.asarray(gone[patch]) if gone.any() else None


def _pulled_apart(mesh: Mesh, edges: Edges) -> Mesh:
    """Patches that each have two sides, or another even number, at every over-shared edge they reach drawn in there."""
    many = edges.uses > 2
    if not many.any():
        return mesh
    count, patch = patches_of(edges)
    at = many[edges.of_side]
    sides, edge = edges.sides[at], edges.of_side[at]
    owner = patch[sides // 3]
    pair, times = np.unique(np.column_stack([edge, owner]), axis=0, return_counts=True)
    whole = np.ones(count, bool)
    whole[pair[times % 2 == 1, 1]] = False
    # The first patch at an edge may stay; the others draw in what they have there.
    first = np.full(len(edges.uses), count)
    np.minimum.at(first, edge, owner)
    moving = whole[owner] & (owner != first[edge])
    if not moving.any():
        return mesh
    triangles = mesh.triangles.astype(np.int64)
    places = edges.places
    reached = np.unique(np.column_stack([np.concatenate([owner[moving]] * 2), np.concatenate([
        edges.start(sides[moving]), edges.end(sides[moving])
    ])]), axis=0)  # fmt: skip
    room = int(places.max()) + 1
    corner_key = (patch[:, None] * room + places).reshape(-1)
    told = reached[:, 0] * room + reached[:, 1]
    hit = np.searchsorted(told, corner_key)
    hit_ok = (hit < len(told)) & (told[np.minimum(hit, len(told) - 1)] == corner_key)
    corners = np.flatnonzero(hit_ok)
    middle = np.stack([
        np.bincount(patch.repeat(3), mesh.positions[triangles.reshape(-1), axis], count) for axis in range(3)
    ], axis=1) / (3 * np.bincount(patch, minlength=count))[:, None]  # fmt: skip
    hair = _HAIR * float(np.ptp(mesh.positions, axis=0).max())
    old = triangles.reshape(-1)[corners]
    way = middle[patch[corners // 3]] - mesh.positions[old]
    way /= np.maximum(lengths(way), 1e-300)[:, None]
    new_positions = mesh.positions[old] + hair * way
    attributes = {name: np.concatenate([values, values[old]]) for name, values in mesh.attributes.items()}
    changed = triangles.reshape(-1).copy()
    changed[corners] = len(mesh.positions) + np.arange(len(corners))
    grown = replace(
        mesh, positions=np.concatenate([mesh.positions, new_positions]), attributes=attributes,
        triangles=changed.reshape(-1, 3).astype(np.int32), places=None,
        figures=replace(mesh.figures, open_edges=None),
    )  # fmt: skip
    return only(grown, np.arange(len(grown.triangles)))
