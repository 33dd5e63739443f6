"""Triangles that go through each other."""

from dataclasses import replace

import numpy as np

from hemp_ladder.core.mend.repair.edit import edges_and_spots, only
from hemp_ladder.core.mend.repair.holes import without_holes
from hemp_ladder.core.mesh.crossing import crossing_triangles
from hemp_ladder.core.mesh.mesh import Mesh, Runs
from hemp_ladder.core.mesh.triangles import numbered


def without_crossings(mesh: Mesh) -> tuple[Mesh, int]:
    """With fewer triangles going through others where that can be had, and how many did before and do no more.

    Closed shells that go through each other become one body, their union.
    Where a shell goes through itself or is open, the crossing triangles are
    taken out and the holes closed. Of what that gives the mesh with the
    fewest crossings is kept, which may be the one given.
    """
    before = crossing_triangles(mesh)
    if not len(before):
        return mesh, 0
    united = _united(mesh)
    best, left = mesh, len(before)
    for given in (united, mesh) if united is not None else (mesh,):
        made = given
        count = crossing_triangles(made)
        if len(count):
            rows = np.ones(len(made.triangles), bool)
            rows[count] = False
            # Taking out must not take most of it.
            if rows.sum() < 0.5 * len(rows):
                continue
            made, _ = without_holes(only(made, rows))
            count = crossing_triangles(made)
        if len(count) < left and made.figures.open_edges in (None, 0):
            best, left = made, len(count)
        if not left:
            break
    return best, len(before) - left


def _united(mesh: Mesh) -> Mesh | None:
    """The union of the closed shells with what hangs on them; None where any is open or no body for the library."""
    import manifold3d as m3

    edges, _ = edges_and_spots(mesh)
    if (edges.balance != 0).any() or (edges.uses != 2).any():
        return None
    count, label = edges.shells
    if count < 2:
        return None
    welded = mesh.welded
    names = list(mesh.attributes)
    values = np.concatenate([mesh.positions, *(mesh.attributes[name].astype(np.float64) for name in names)], axis=1)
    of_triangle, first = numbered([run.labels for run in mesh.runs.values()])
    pieces = []
    for number in range(count):
        rows = np.flatnonzero(label == number)
        used, rank = np.unique(mesh.triangles[rows], return_inverse=True)
        leader = np.unique(welded[used], return_index=True, return_inverse=True)
        lead = leader[1][leader[2]]
        apart = np.flatnonzero(lead != np.arange(len(used)))
        own = m3.Manifold.reserve_ids(1)
        piece = m3.Manifold(m3.Mesh64(
            vert_properties=values[used], tri_verts=rank.reshape(-1, 3).astype(np.uint64),
            merge_from_vert=apart.astype(np.uint64), merge_to_vert=lead[apart].astype(np.uint64),
            run_index=np.array([0, 3 * len(rows)], np.uint64), run_original_id=np.array([own], np.uint32),
            face_id=of_triangle[rows].astype(np.uint64),
        ))  # fmt: skip
        if piece.status() != m3.Error.NoError or piece.volume() <= 0:
            return None
        pieces.append(piece)
    out = m3.Manifold.batch_boolean(pieces, m3.OpType.Add).to_mesh64()
    triangles = np.asarray(out.tri_verts).astype(np.int32)
    if not len(triangles):
        return None
    told = np.asarray(out.vert_properties)
    attributes, at = {}, 3
    for name in names:
        wide = mesh.attributes[name].shape[1]
        attributes[name] = told[:, at : at + wide].astype(np.float32)
        at += wide
    like = np.asarray(out.face_id).astype(np.int64)
    order = np.argsort(like, kind="stable")
    like = like[order]
    return replace(
        mesh, positions=told[:, :3].copy(), triangles=triangles[order], attributes=attributes,
        runs={name: Runs.labelled(run.labels[first][like], run.count) for name, run in mesh.runs.items()},
        figures=replace(mesh.figures, open_edges=None), places=None,
    )  # fmt: skip
