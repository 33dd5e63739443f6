"""Triangles that go through each other."""

from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mend.repair.apart import patches_of
from hemp_ladder.core.mend.repair.edit import changed, edges_and_spots, only
from hemp_ladder.core.mend.repair.holes import without_holes
from hemp_ladder.core.mesh.counts import shell_boxes
from hemp_ladder.core.mesh.crossing import crossing_triangles
from hemp_ladder.core.mesh.edges import Numbers
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import cross, dot, numbered

#: Detail finer than this share of the box is given up in a union.
_FINE = 1e-5


def without_crossings(mesh: Mesh) -> tuple[Mesh, int]:
    """With fewer triangles going through others where that can be had, and how many did before and do no more.

    Closed bodies that go through each other become one, their union. What
    still crosses, as where a body goes through itself or a surface is open,
    is taken out and the holes are closed. Of what that gives the mesh with
    the fewest crossings is kept that has no more open edges than before.
    """
    before = crossing_triangles(mesh)
    if not len(before):
        return mesh, 0
    best, left, open_before = mesh, len(before), _open(mesh)
    united = _united(mesh)
    for given in (united, mesh) if united is not None else (mesh,):
        crossing = crossing_triangles(given)
        tries = [(given, len(crossing))]
        rows = np.ones(len(given.triangles), bool)
        rows[crossing] = False
        # Taking out must not take most of it.
        if len(crossing) and rows.sum() >= 0.5 * len(rows):
            made, _ = without_holes(only(given, rows))
            tries.append((made, len(crossing_triangles(made))))
        for made, count in tries:
            if count < left and _open(made) <= open_before:
                best, left = made, count
        if not left:
            break
    return best, len(before) - left


def _open(mesh: Mesh) -> int:
    return int(np.count_nonzero(edges_and_spots(mesh)[0].balance))


def _united(mesh: Mesh) -> Mesh | None:
    """The union of all closed bodies, with what hangs on them, and the rest as it is; None where fewer than two are
    closed or the library takes one for no body.

    Bodies that touch along an edge are told apart. One that faces inward is
    turned, unless it lies in the box of another and may be its hollow.
    """
    import manifold3d as m3

    edges, _ = edges_and_spots(mesh)
    count, patch = patches_of(edges)
    pair = patch[edges.sides // 3] * len(edges.uses) + edges.of_side
    told, sides = np.unique(pair, return_counts=True)
    shut = np.ones(count, bool)
    shut[told[sides != 2] // len(edges.uses)] = False
    corners = mesh.corners - mesh.positions.mean(axis=0)
    volume = np.bincount(patch, dot(corners[:, 0], cross(corners[:, 1], corners[:, 2])), count)
    low, high = shell_boxes(corners, patch, count)
    for number in np.flatnonzero(shut & (volume < 0)).tolist():
        around = (low <= low[number]).all(axis=1) & (high >= high[number]).all(axis=1) & shut & (volume > 0)
        if around.any():
            shut[number] = False
    bodies = np.flatnonzero(shut)
    if len(bodies) < 2:
        return None
    names = list(mesh.attributes)
    values = np.concatenate([mesh.positions, *(mesh.attributes[name].astype(np.float64) for name in names)], axis=1)
    of_triangle, first = numbered([run.labels for run in mesh.runs.values()])
    pieces = []
    for number in bodies.tolist():
        rows = np.flatnonzero(patch == number)
        piece = _body(mesh, values, rows, of_triangle[rows], bool(volume[number] < 0))
        if piece.status() != m3.Error.NoError or piece.volume() <= 0:
            return None
        pieces.append(piece)
    # What lies in one plane but for rounding gives slivers finer than 32 bit numbers hold.
    fine = _FINE * float(np.ptp(mesh.positions, axis=0).max())
    out = m3.Manifold.batch_boolean(pieces, m3.OpType.Add).simplify(fine).to_mesh64()
    triangles = np.asarray(out.tri_verts).astype(np.int32)
    if not len(triangles):
        return None
    told = np.asarray(out.vert_properties)
    rest = np.flatnonzero(~shut[patch])
    made = np.concatenate([told, values])
    triangles = np.concatenate([triangles, mesh.triangles[rest] + len(told)])
    like = np.concatenate([first[np.asarray(out.face_id).astype(np.int64)], rest])
    attributes, at = {}, 3
    for name in names:
        wide = mesh.attributes[name].shape[1]
        attributes[name] = made[:, at : at + wide].astype(np.float32)
        at += wide
    return changed(replace(mesh, positions=made[:, :3].copy(), attributes=attributes, places=None), triangles, like)


def _body(mesh: Mesh, values: NDArray[np.float64], rows: Numbers, of_triangle: Numbers, turned: bool) -> Any:
    """Some triangles as a body of the library, which carries what hangs on their vertices and a number for each."""
    import manifold3d as m3

    used, rank = np.unique(mesh.triangles[rows], return_inverse=True)
    _, index, inverse = np.unique(mesh.welded[used], return_index=True, return_inverse=True)
    lead = index[inverse]
    apart = np.flatnonzero(lead != np.arange(len(used)))
    corners = rank.reshape(-1, 3)
    return m3.Manifold(m3.Mesh64(
        vert_properties=values[used], tri_verts=(corners[:, ::-1] if turned else corners).astype(np.uint64),
        merge_from_vert=apart.astype(np.uint64), merge_to_vert=lead[apart].astype(np.uint64),
        run_index=np.array([0, 3 * len(rows)], np.uint64),
        run_original_id=np.array([m3.Manifold.reserve_ids(1)], np.uint32), face_id=of_triangle.astype(np.uint64),
    ))  # fmt: skip
