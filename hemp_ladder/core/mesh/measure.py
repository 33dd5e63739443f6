"""Measuring meshes before they go to another process; many small ones at once."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import count_open_edges, cross

#: A mesh of more triangles than this is measured alone: together they would only take more memory.
_SMALL = 5000


def measure(meshes: Sequence[Mesh]) -> list[Mesh]:
    """The same meshes with their figures complete: counts, box, open edges, inside out."""
    small = [number for number, mesh in enumerate(meshes) if 0 < len(mesh.triangles) <= _SMALL]
    shut = _shut_together([meshes[number] for number in small]) if len(small) > 1 else None
    inside_out = dict(zip(small, shut, strict=True)) if shut is not None else {}
    return [_measured(mesh, inside_out.get(number)) for number, mesh in enumerate(meshes)]


def _measured(mesh: Mesh, shut: bool | None) -> Mesh:
    """With figures; `shut` is whether it is inside out, where it is known to be closed."""
    box = (
        (tuple(mesh.positions.min(axis=0).tolist()), tuple(mesh.positions.max(axis=0).tolist()))
        if len(mesh.triangles)
        else ()
    )
    figures = replace(
        mesh.figures,
        triangles=len(mesh.triangles), vertices=len(mesh.positions), box=box,
        open_edges=mesh.open_edges if shut is None else 0,
        inside_out=mesh.inside_out if shut is None else shut,
    )  # fmt: skip
    # Without what it knows for itself by now, which is large and quick to find again.
    return replace(mesh, figures=figures)


def _shut_together(meshes: Sequence[Mesh]) -> list[bool] | None:
    """Whether each is inside out, where all are closed by points that are the same, which one count for all shows;
    their volumes come by one sum each. None where any is not closed so."""
    sizes = np.array([len(mesh.positions) for mesh in meshes])
    counts = np.array([len(mesh.triangles) for mesh in meshes])
    starts = np.cumsum(sizes) - sizes
    triangles = np.concatenate([mesh.triangles for mesh in meshes]) + np.repeat(starts, counts)[:, None]
    positions = np.concatenate([mesh.positions for mesh in meshes])
    # A mesh has no more places than vertices, so that numbers of different meshes never meet.
    numbers = np.concatenate([mesh.same for mesh in meshes]) + np.repeat(starts, sizes)
    if count_open_edges(numbers[triangles]):
        return None
    means = np.add.reduceat(positions, starts) / sizes[:, None]
    corners = (positions - np.repeat(means, sizes, axis=0))[triangles]
    parts = np.einsum("ij,ij->i", corners[:, 0], cross(corners[:, 1], corners[:, 2]))
    volumes = np.add.reduceat(parts, np.cumsum(counts) - counts)
    return [bool(volume < 0) for volume in volumes.tolist()]
