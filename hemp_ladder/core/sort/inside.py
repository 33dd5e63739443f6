"""Placements that stand wholly inside one other that hides them: nobody ever sees them, and they weigh all the same."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.edges import Edges
from hemp_ladder.core.mesh.mesh import Mesh

Places = NDArray[np.float64]
#: Points of a part that are held against what might hide it.
_POINTS = 60
#: So many triangles, over all that are held against, are looked through at the most.
_MOST = 60_000_000
#: The winding number of a closed surface is 1 inside, 0 outside and 1/2 on it.
_INSIDE = 0.75


@dataclass(frozen=True)
class Hidden:
    """Which placements stand wholly inside another, (p,); whether all that might hide something was looked through."""

    mask: NDArray[np.bool_]
    whole: bool


def hidden_inside(
    meshes: Mapping[int, Mesh], parts: NDArray[np.integer], places: Places, hides: NDArray[np.bool_]
) -> Hidden:
    """Of placements of parts (p,), each put by a matrix to one space (p, 4, 4), those that stand wholly inside one of which
    `hides` says that nothing shows through it.

    What hides is closed; its hollows hide too, so that of its shells only those count that face outward. A part is inside
    where points all over it are (winding numbers after G. Barill et al., "Fast winding numbers for soups and clouds",
    ACM Transactions on Graphics 37(4), 2018); what touches the surface that it lies in is not.
    """
    found, whole = np.zeros(len(parts), bool), True
    rows = np.array([row for row, part in enumerate(parts.tolist()) if part in meshes], int)
    if len(rows) < 2:
        return Hidden(found, whole)
    from igl import fast_winding_number

    low, high = _boxes(meshes, parts, places, rows)
    solids = {part: _outer(mesh) for part, mesh in meshes.items() if mesh.watertight}
    points = {part: _spread(mesh) for part, mesh in meshes.items()}
    budget = _MOST
    for outer, inner in _nested(low, high):
        row = rows[outer]
        solid = solids.get(int(parts[row]))
        inner = inner[~found[rows[inner]]]
        if solid is None or not hides[row] or found[row] or not len(inner):
            continue
        budget -= len(solid[1])
        if budget < 0:
            return Hidden(found, False)
        back = np.linalg.inv(places[row])
        clouds = [_put(points[int(parts[k])], back @ places[k]) for k in rows[inner]]
        around = np.abs(np.asarray(fast_winding_number(*solid, np.ascontiguousarray(np.concatenate(clouds)))))
        starts = np.cumsum([0, *(len(cloud) for cloud in clouds[:-1])])
        found[rows[inner]] |= np.minimum.reduceat(around, starts) > _INSIDE
    return Hidden(found, whole)


def _nested(low: Places, high: Places) -> list[tuple[int, NDArray[np.int64]]]:
    """For each box, the largest first, those that lie within it."""
    from shapely import STRtree, box

    flat = box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
    outer, inner = STRtree(flat).query(flat, predicate="covers")
    other = (outer != inner) & (low[outer] <= low[inner]).all(axis=1) & (high[outer] >= high[inner]).all(axis=1)
    outer, inner = outer[other], inner[other]
    order = np.argsort(outer, kind="stable")
    outer, inner = outer[order], inner[order]
    numbers, starts = np.unique(outer, return_index=True)
    size = np.prod(high[numbers] - low[numbers], axis=1)
    groups = np.split(inner, starts[1:]) if len(numbers) else []
    return [(int(numbers[at]), groups[at]) for at in np.argsort(-size, kind="stable")]


def _boxes(
    meshes: Mapping[int, Mesh], parts: NDArray[np.integer], places: Places, rows: NDArray[np.integer]
) -> tuple[Places, Places]:
    """Boxes of placements in the common space, from the boxes of their parts: none too small."""
    ends = {part: (m.positions.min(axis=0), m.positions.max(axis=0)) for part, m in meshes.items()}
    low = np.array([ends[part][0] for part in parts[rows].tolist()])
    high = np.array([ends[part][1] for part in parts[rows].tolist()])
    turn = places[rows][:, :3, :3]
    middle = np.einsum("nij,nj->ni", turn, (low + high) / 2) + places[rows][:, :3, 3]
    half = np.einsum("nij,nj->ni", np.abs(turn), (high - low) / 2)
    return middle - half, middle + half


def _outer(mesh: Mesh) -> tuple[Places, NDArray[np.int64]]:
    """Its shells that face outward: positions and triangles."""
    shells, label = Edges.of(mesh.welded[mesh.triangles]).shells
    corners = mesh.corners
    six = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2]))
    outward = np.bincount(label, six, shells) > 0 if not mesh.inside_out else np.bincount(label, six, shells) < 0
    return mesh.positions, np.ascontiguousarray(mesh.triangles[outward[label]], np.int64)


def _spread(mesh: Mesh) -> Places:
    """Points all over a mesh: corners that lie farthest out, and corners and middles of triangles between."""
    ways = np.array([[x, y, z] for x in (-1, 0, 1) for y in (-1, 0, 1) for z in (-1, 0, 1) if (x, y, z) != (0, 0, 0)])
    used = np.unique(mesh.triangles)
    farthest = used[np.unique((mesh.positions[used] @ ways.T).argmax(axis=0))]
    step = max(1, len(used) // _POINTS)
    middles = mesh.corners[:: max(1, len(mesh.triangles) // _POINTS)].mean(axis=1)
    return np.concatenate([mesh.positions[farthest], mesh.positions[used[::step]], middles])


def _put(points: Places, matrix: Places) -> Places:
    return np.asarray(points @ matrix[:3, :3].T + matrix[:3, 3])
