"""Cutting a mesh by an upright prism over a polygon; what hangs on vertices and triangles is kept."""

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.mesh import Mesh, Runs
from hemp_ladder.core.mesh.triangles import cross, lengths, numbered

Array = NDArray[np.float64]


def cut_mesh(mesh: Mesh, placed_by: Sequence[float], corners_on_plan: Sequence[tuple[float, float]]) -> Mesh:
    """What of the mesh stands over a polygon on the plan (metres), in the part's own coordinates.

    `placed_by` takes these to metres, Z up: 4 x 4 by rows.

    A closed mesh stays closed: where it was cut it gets walls, which are one
    face more, the last, and one shell and material more where those are
    known; on a map they lie at its corner, and they are white. A surface that
    is open, or wound against itself, is clipped and stays open. What lies
    wholly outside gives an empty mesh.
    """
    if not len(mesh.triangles):
        return mesh
    matrix = np.array(placed_by).reshape(4, 4)
    if abs(np.linalg.det(matrix[:3, :3])) < 1e-30:
        return _nothing(mesh)
    middle = np.array([*np.mean(corners_on_plan, axis=0), 0.0])
    polygon = np.array(corners_on_plan) - middle[:2]
    placed = mesh.positions @ matrix[:3, :3].T + (matrix[:3, 3] - middle)
    turn = np.linalg.inv(matrix[:3, :3])
    normals = mesh.normals.astype(np.float64) @ turn
    others = {name: values for name, values in mesh.attributes.items() if name != "normal"}
    values = np.concatenate([placed, normals, *others.values()], axis=1)
    mirrored = np.linalg.det(matrix[:3, :3]) < 0
    triangles = mesh.triangles[:, ::-1] if mirrored else mesh.triangles
    runs = {"face": mesh.faces, **mesh.runs}
    # Triangles that agree in face, shell and material have one number, in the order of faces.
    of_triangle, first = numbered([run.labels for run in runs.values()])
    found = _solid(values, triangles, of_triangle, mesh.welded, polygon) if mesh.watertight else None
    if found is None:
        found = _clipped(values, triangles, of_triangle, polygon)
    values, corners, number = found
    if not len(corners):
        return _nothing(mesh)
    order = np.argsort(number, kind="stable")
    corners, number = corners[order], number[order]
    back = values[:, 3:6] @ matrix[:3, :3]
    size = lengths(back)[:, None]
    attributes = {"normal": np.divide(back, size, out=np.zeros_like(back), where=size > 0).astype(np.float32)}
    at = 6
    for name, given in others.items():
        attributes[name] = values[:, at : at + given.shape[1]].astype(np.float32)
        at += given.shape[1]
    for_walls = corners[number == len(first)]
    if "colour" in attributes:
        attributes["colour"][for_walls.reshape(-1)] = 1.0
    return Mesh(
        (values[:, :3] - (matrix[:3, 3] - middle)) @ turn.T,
        np.ascontiguousarray(corners[:, ::-1] if mirrored else corners).astype(np.int32),
        attributes,
        {
            name: _runs(np.append(run.labels[first], run.count)[number], run.count + 1, name == "face")
            for name, run in runs.items()
        },
        replace(mesh.figures, open_edges=None, thin=()),
    )


def _runs(labels: NDArray[np.integer], count: int, ordered: bool) -> Runs:
    """Runs from the number of every triangle; where they stand in order, one for each number, empty ones too."""
    return Runs.each(np.searchsorted(labels, np.arange(count + 1))) if ordered else Runs.labelled(labels, count)


def _nothing(mesh: Mesh) -> Mesh:
    """A mesh of as many faces, and the walls, without a triangle."""
    return Mesh.nothing(mesh.faces.count + 1)


#: For each vertex position, normal and what else it has; corners of triangles; the number of each.
_Found = tuple[Array, NDArray[np.integer], NDArray[np.integer]]


def _solid(
    values: Array, triangles: NDArray[np.integer], faces: NDArray[np.integer], welded: NDArray[np.int64], polygon: Array
) -> _Found | None:
    """Intersection of two solids by `manifold3d`; None where it does not take the mesh for one."""
    import manifold3d as m3

    first = np.unique(welded, return_index=True)[1]
    leader = first[welded]
    apart = np.flatnonzero(leader != np.arange(len(values)))
    own = m3.Manifold.reserve_ids(1)
    solid = m3.Manifold(
        m3.Mesh64(
            vert_properties=values,
            tri_verts=triangles.astype(np.uint64),
            merge_from_vert=apart.astype(np.uint64),
            merge_to_vert=leader[apart].astype(np.uint64),
            run_index=np.array([0, 3 * len(triangles)], dtype=np.uint64),
            run_original_id=np.array([own], dtype=np.uint32),
            face_id=faces.astype(np.uint64),
        )
    )
    if solid.status() != m3.Error.NoError:
        return None
    low, high = values[:, 2].min(), values[:, 2].max()
    over = 1.0 + (high - low)
    wall = m3.Manifold.extrude(m3.CrossSection([polygon], m3.FillRule.NonZero), high - low + 2 * over)
    out = (solid ^ wall.translate([0, 0, low - over])).to_mesh64()
    kept = np.asarray(out.tri_verts).astype(np.int64)
    if not len(kept):
        return values[:0], kept.reshape(-1, 3), np.zeros(0, np.int64)
    columns = values.shape[1]
    values = np.asarray(out.vert_properties)[:, :columns]
    run, ids = np.asarray(out.run_index) // 3, np.asarray(out.run_original_id)
    from_us = np.repeat(ids, np.diff(run).astype(np.int64)) == own
    number = np.where(from_us, np.asarray(out.face_id).astype(np.int64), faces.max() + 1)
    corners = values[kept][:, :, :3]
    flat = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    # The walls have no normals of their own yet; each of their corners gets its triangle's.
    new = np.flatnonzero(~from_us)
    spots = kept[new].reshape(-1)
    own_values = np.hstack([values[spots, :3], np.repeat(flat[new], 3, axis=0), np.zeros((len(spots), columns - 6))])
    values = np.vstack([values, own_values])
    kept[new] = len(values) - len(spots) + np.arange(len(spots)).reshape(-1, 3)
    return values, kept, number


def _clipped(values: Array, triangles: NDArray[np.integer], faces: NDArray[np.integer], polygon: Array) -> _Found:
    """Sutherland and Hodgman's clipping (1974), by each convex piece of the polygon, all triangles at once."""
    import shapely

    pieces = shapely.constrained_delaunay_triangles(shapely.Polygon(polygon)).geoms
    corners = values[triangles]
    out: list[Array] = []
    numbers: list[NDArray[np.integer]] = []
    for piece in pieces:
        ring = np.array(shapely.geometry.polygon.orient(piece).exterior.coords)
        kept, number = corners, faces
        for start, end in pairwise(ring):
            inward = np.array([start[1] - end[1], end[0] - start[0]])
            kept, number = _half(kept, number, inward, float(inward @ start))
        out.append(kept)
        numbers.append(number)
    whole, number = np.concatenate(out), np.concatenate(numbers)
    flat = whole.reshape(-1, values.shape[1])
    return flat, np.arange(len(flat)).reshape(-1, 3), number


def _half(
    corners: Array, faces: NDArray[np.integer], inward: NDArray[np.float64], offset: float
) -> tuple[Array, NDArray[np.integer]]:
    """Triangles (n, 3, k) on the inner side of an upright plane, those across it split."""
    away = corners[:, :, :2] @ inward - offset
    inside = away >= 0
    count = inside.sum(axis=1)
    out, numbers = [corners[count == 3]], [faces[count == 3]]
    for wanted in (1, 2):
        chosen = np.flatnonzero(count == wanted)
        if not len(chosen):
            continue
        # Turn each triangle so that the corner that is alone on its side comes first.
        alone = (inside if wanted == 1 else ~inside)[chosen].argmax(axis=1)
        turn = (alone[:, None] + np.arange(3)) % 3
        a, b, c = (corners[chosen, turn[:, i]] for i in range(3))
        da, db, dc = (away[chosen, turn[:, i]][:, None] for i in range(3))
        ab, ac = a + (b - a) * (da / (da - db)), a + (c - a) * (da / (da - dc))
        pieces = [(a, ab, ac)] if wanted == 1 else [(ab, b, c), (ab, c, ac)]
        for piece in pieces:
            out.append(np.stack(piece, axis=1))
            numbers.append(faces[chosen])
    return np.concatenate(out), np.concatenate(numbers)
