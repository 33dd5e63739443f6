"""What takes long to find out about meshes, found out before they go to another process; many small ones at once."""

from collections.abc import Sequence

import numpy as np

from hemp_ladder.core.mesh import Mesh, count_open_edges, cross

#: A mesh of more triangles than this is measured alone: together they would only take more memory.
_SMALL = 5000


def measure(meshes: Sequence[Mesh]) -> None:
    """Have every mesh know its open edges and whether it is inside out."""
    small = [mesh for mesh in meshes if 0 < len(mesh.triangles) <= _SMALL]
    if len(small) > 1:
        _together(small)
    for mesh in meshes:
        _ = mesh.open_edges, mesh.inside_out
        # Large, and quick to find again.
        for name in ("corners", "welded"):
            mesh.__dict__.pop(name, None)


def _together(meshes: Sequence[Mesh]) -> None:
    """Where all are closed by points that are the same, one count for all shows it; their volumes by one sum each."""
    sizes = np.array([len(mesh.positions) for mesh in meshes])
    counts = np.array([len(mesh.triangles) for mesh in meshes])
    offsets = np.repeat(np.cumsum(sizes) - sizes, counts)
    triangles = np.concatenate([mesh.triangles for mesh in meshes]) + offsets[:, None]
    positions = np.concatenate([mesh.positions for mesh in meshes])
    # A mesh has no more places than vertices, so that numbers of different meshes never meet.
    numbers = np.concatenate([mesh.numbered() for mesh in meshes]) + np.repeat(np.cumsum(sizes) - sizes, sizes)
    if count_open_edges(numbers[triangles]):
        return
    of = np.repeat(np.arange(len(meshes)), sizes)
    means = np.add.reduceat(positions, np.cumsum(sizes) - sizes) / sizes[:, None]
    corners = (positions - means[of])[triangles]
    parts = np.einsum("ij,ij->i", corners[:, 0], cross(corners[:, 1], corners[:, 2]))
    volumes = np.add.reduceat(parts, np.cumsum(counts) - counts)
    for mesh, volume in zip(meshes, volumes.tolist(), strict=True):
        mesh.__dict__.update(open_edges=0, inside_out=volume < 0)
