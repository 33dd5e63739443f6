"""Watertight by force: the surface made anew from what is inside and what is outside."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.mend.facing import Facing, face
from hemp_ladder.core.mend.normals import Normals, shade
from hemp_ladder.core.mesh.mesh import Mesh, Runs

#: Of the cells along the longest side, one in so many is looked at first.
_COARSE = 4
#: No nearer to a point of the grid does the surface pass, in cells.
_BESIDE = 0.05


def forced(mesh: Mesh, cells: int) -> Mesh:
    """A closed surface around what the triangles enclose, on a grid of so many cells along the longest side.

    Inside is where the generalised winding number is over a half (A.
    Jacobson, L. Kavan and O. Sorkine-Hornung, "Robust inside-outside
    segmentation using generalized winding numbers", 2013), near the surface
    at the distance to it; marching cubes makes the surface, which is thinned
    by a twentieth of a cell. Faces and materials are those of the nearest
    triangle; pictures lose their place. Walls thinner than a cell are lost
    or grow.

    Raises SettingsError where nothing is enclosed.
    """
    import igl
    import manifold3d as m3

    # Where neighbours disagree about their outside, winding numbers cancel each other.
    source = face(mesh, Facing())
    low, high = source.positions.min(axis=0), source.positions.max(axis=0)
    cell = float((high - low).max()) / cells
    counts = (np.ceil((high - low) / cell).astype(int) + 4 + _COARSE - 1) // _COARSE * _COARSE + 1
    origin = (low + high) / 2 - (counts - 1) * cell / 2
    vertices, faces = source.positions - origin, source.triangles.astype(np.int64)
    field = _field(vertices, faces, counts, cell)
    grid = np.stack(np.meshgrid(*(np.arange(n) * cell for n in counts), indexing="ij"), axis=-1)
    flat = field.transpose(2, 1, 0).reshape(-1), grid.transpose(2, 1, 0, 3).reshape(-1, 3)
    points, triangles, _ = igl.marching_cubes(
        np.ascontiguousarray(flat[0]), np.ascontiguousarray(flat[1]), *map(int, counts), 0.0
    )
    if not len(triangles):
        raise SettingsError(
            "Nothing of it is enclosed, so there is no inside to close.", "Close its holes first, or leave it open."
        )
    body = m3.Manifold(m3.Mesh64(vert_properties=np.asarray(points), tri_verts=np.asarray(triangles).astype(np.uint64)))
    if body.status() != m3.Error.NoError:
        raise SettingsError("No closed surface came of it.", "Use more cells, or close its holes one by one.")
    if body.volume() < 0:
        body = m3.Manifold(m3.Mesh64(
            vert_properties=np.asarray(points), tri_verts=np.asarray(triangles)[:, ::-1].astype(np.uint64)
        ))  # fmt: skip
    made = body.simplify(cell / 20).to_mesh64()
    points = np.asarray(made.vert_properties)[:, :3]
    triangles = np.asarray(made.tri_verts).astype(np.int32)
    middles = points[triangles].mean(axis=1)
    _, nearest, _ = _nearest(middles, vertices, faces)
    order = np.argsort(source.faces.labels[nearest], kind="stable")
    nearest, triangles = nearest[order], triangles[order]
    attributes: dict[str, NDArray[np.float32]] = {"normal": np.tile(np.array([0, 0, 1], np.float32), (len(points), 1))}
    if "colour" in source.attributes:
        attributes["colour"] = np.ones((len(points), 4), np.float32)
    plain = replace(
        mesh, positions=points + origin, triangles=np.ascontiguousarray(triangles), attributes=attributes,
        runs={name: Runs.labelled(run.labels[nearest], run.count) for name, run in source.runs.items()},
        figures=replace(mesh.figures, open_edges=None), places=None,
    )  # fmt: skip
    shaded = shade(plain, Normals(degrees=40))
    return replace(shaded, figures=plain.figures)


def _nearest(
    points: NDArray[np.float64], vertices: NDArray[np.float64], faces: NDArray[np.int64]
) -> tuple[NDArray[np.float64], NDArray[np.int64], NDArray[np.float64]]:
    """Squared distances, triangles and places on them nearest to points."""
    import igl

    squared, triangle, place = igl.point_mesh_squared_distance(points, vertices, faces)
    return np.asarray(squared), np.asarray(triangle).reshape(-1), np.asarray(place)


def _field(
    vertices: NDArray[np.float64], faces: NDArray[np.int64], counts: NDArray[np.integer], cell: float
) -> NDArray[np.float64]:
    """Distance to the surface at the points of a grid, negative inside: exact near it, elsewhere only its sign holds.

    Looked at on a grid of every fourth point first; the finer one only where the surface may be near.
    """
    import igl

    def at(index: NDArray[np.integer]) -> NDArray[np.float64]:
        points = np.ascontiguousarray(index * cell, np.float64)
        inside = np.asarray(igl.fast_winding_number(vertices, faces, points)) > 0.5
        distance = np.sqrt(_nearest(points, vertices, faces)[0])
        # A surface just beside a point of the grid would give triangles of no size.
        return np.asarray(np.where(inside, -1.0, 1.0) * np.maximum(distance, _BESIDE * cell))

    rough = np.stack(np.meshgrid(*(np.arange(0, n, _COARSE) for n in counts), indexing="ij"), axis=-1)
    found = at(rough.reshape(-1, 3)).reshape(rough.shape[:3])
    # Each fine point as the rough one at the lower corner of its block, until looked at.
    index = np.stack(np.meshgrid(*(np.arange(n) for n in counts), indexing="ij"), axis=-1)
    nearest = np.minimum((index + _COARSE // 2) // _COARSE, np.array(found.shape) - 1)
    field = found[nearest[..., 0], nearest[..., 1], nearest[..., 2]]
    near = np.abs(field) <= _COARSE * cell * 1.8
    field[near] = at(index[near])
    return np.asarray(field)
