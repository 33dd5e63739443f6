"""Changing the triangles of a mesh with everything that hangs on them."""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.edges import Edges, Numbers
from hemp_ladder.core.mesh.mesh import Mesh, Runs
from hemp_ladder.core.mesh.triangles import cross, in_use, lengths


def spots_of(mesh: Mesh) -> tuple[Numbers, NDArray[np.float64]]:
    """The number of each vertex's place, near ones as one, (n,), and where the places are, (s, 3)."""
    places = mesh.welded
    spots = np.zeros((int(places.max(initial=-1)) + 1, 3))
    spots[places[::-1]] = mesh.positions[::-1]
    return places, spots


def edges_and_spots(mesh: Mesh) -> tuple[Edges, NDArray[np.float64]]:
    """The edges of a mesh by its places, and where those are."""
    places, spots = spots_of(mesh)
    return Edges.of(places[mesh.triangles]), spots


def changed(mesh: Mesh, triangles: NDArray[np.integer], like: Numbers) -> Mesh:
    """The mesh with other triangles (k, 3) of its vertices, each counted with the face, shell and material of the old
    triangle in `like`, (k,). Vertices that nothing uses go; triangles stand face by face."""
    order = np.argsort(mesh.faces.labels[like], kind="stable")
    triangles, like = np.asarray(triangles)[order], like[order]
    used, rank = in_use(triangles, len(mesh.positions))
    runs = {}
    for name, run in mesh.runs.items():
        runs[name] = Runs.labelled(run.labels[like], run.count)
    return replace(
        mesh,
        positions=mesh.positions[used],
        triangles=rank[triangles].astype(np.int32).reshape(-1, 3),
        attributes={name: values[used] for name, values in mesh.attributes.items()},
        runs=runs,
        figures=replace(mesh.figures, open_edges=None),
        places=None,
    )


def only(mesh: Mesh, rows: NDArray[np.integer] | NDArray[np.bool_]) -> Mesh:
    """The mesh with some of its triangles."""
    rows = np.flatnonzero(rows) if rows.dtype == bool else np.asarray(rows, np.int64)
    return changed(mesh, mesh.triangles[rows], rows)


def with_vertices(
    mesh: Mesh, positions: NDArray[np.float64], attributes: Mapping[str, NDArray[np.floating]]
) -> tuple[Mesh, int]:
    """The mesh with more vertices, and the number of the first of them; they are lost unless triangles take them up."""
    more = {
        name: np.concatenate([values, attributes[name].astype(np.float32)]) for name, values in mesh.attributes.items()
    }
    grown = replace(mesh, positions=np.concatenate([mesh.positions, positions]), attributes=more, places=None)
    return grown, len(mesh.positions)


def with_flat(mesh: Mesh, vertices: Numbers, like: Numbers) -> Mesh:
    """The mesh with more triangles, (k, 3) of its vertices, which shade flat and are counted like old ones, (k,)."""
    corners = mesh.positions[vertices]
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    size = lengths(across)[:, None]
    flat = np.divide(across, size, out=np.zeros_like(across), where=size > 0)
    old = vertices.reshape(-1)
    attributes = {name: values[old] for name, values in mesh.attributes.items()}
    attributes["normal"] = np.repeat(flat, 3, axis=0).astype(np.float32)
    count = len(mesh.triangles)
    grown, start = with_vertices(mesh, mesh.positions[old], attributes)
    triangles = np.concatenate([mesh.triangles, start + np.arange(len(old)).reshape(-1, 3)])
    return changed(grown, triangles, np.concatenate([np.arange(count), like]))
