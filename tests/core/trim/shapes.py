"""Meshes of known shape for Trim: net-like, with normals, UV, faces and holes."""

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mend.normals import Normals, shade
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.mesh.measure import measure
from hemp_ladder.core.mesh.mesh import Mesh, Runs

Array = NDArray[np.float64]


def figures(mesh: Mesh) -> Figures:
    """All of them."""
    return measure([mesh], [True])[0].figures


def torus(around: int, across: int, large: float = 1.0, small: float = 0.3) -> Mesh:
    """A ring with true normals and UV that have a seam each way."""
    u, v = np.linspace(0, 2 * np.pi, around + 1), np.linspace(0, 2 * np.pi, across + 1)
    u[-1], v[-1] = 0.0, 0.0
    along, over = np.meshgrid(u, v, indexing="ij")
    out = large + small * np.cos(over)
    spots = np.stack([out * np.cos(along), out * np.sin(along), small * np.sin(over)], -1)
    normals = np.stack([np.cos(over) * np.cos(along), np.cos(over) * np.sin(along), np.sin(over)], -1)
    told = np.meshgrid(np.linspace(0, 1, around + 1), np.linspace(0, 1, across + 1), indexing="ij")
    triangles = grid(around, across)
    attributes = {
        "normal": normals.reshape(-1, 3).astype(np.float32), "uv": np.stack(told, -1).reshape(-1, 2).astype(np.float32),
    }  # fmt: skip
    return Mesh(
        spots.reshape(-1, 3), triangles, attributes, {"face": Runs.each(np.array([0, len(triangles)]))}
    ).settled()


def grid(rows: int, columns: int) -> NDArray[np.int32]:
    """Two triangles for each cell of a grid of (rows + 1) x (columns + 1) points."""
    i, j = np.meshgrid(np.arange(rows), np.arange(columns), indexing="ij")
    a = (i * (columns + 1) + j).reshape(-1)
    b, c, d = a + columns + 1, a + columns + 2, a + 1
    return np.concatenate([np.column_stack([a, b, c]), np.column_stack([a, c, d])]).astype(np.int32)


def ball(fine: int = 4) -> Mesh:
    import trimesh

    made = trimesh.creation.icosphere(fine)
    normals = made.vertices.astype(np.float32)
    faces = Runs.each(np.array([0, len(made.faces)]))
    return Mesh(np.array(made.vertices), np.array(made.faces, np.int32), {"normal": normals}, {"face": faces}).settled()


def loose(corners: Array, faces: NDArray[np.int32] | None = None) -> Mesh:
    """Triangles (m, 3, 3) without a shared vertex, shaded flat; `faces` is the number of each one's."""
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normal = across / np.linalg.norm(across, axis=1)[:, None]
    labels = np.zeros(len(corners), np.int32) if faces is None else faces
    return Mesh(
        corners.reshape(-1, 3), np.arange(3 * len(corners), dtype=np.int32).reshape(-1, 3),
        {"normal": np.repeat(normal, 3, axis=0).astype(np.float32)},
        {"face": Runs.labelled(labels, int(labels.max(initial=0)) + 1)},
    ).settled()  # fmt: skip


def slab(fine: int, sides: int = 0, holes: int = 1, crease: bool = False, uv: bool = False) -> Mesh:
    """A slab of 4 x 4 x 0.5, with so many holes of so many sides through it where those are given; every triangle of its
    least cover divided into four, `fine` times."""
    import manifold3d as m3
    import trimesh

    flat = m3.CrossSection.square((4, 4))
    for k in range(holes if sides else 0):
        flat -= m3.CrossSection.circle(0.3, sides).translate((0.7 + k, 1.1 + 0.5 * k))
    body = m3.Manifold.extrude(flat, 0.5).to_mesh64()
    spots, triangles = np.array(body.vert_properties)[:, :3], np.array(body.tri_verts).astype(int)
    for _ in range(fine):
        spots, triangles = trimesh.remesh.subdivide(spots, triangles)
    mesh = loose(spots[triangles])
    if uv:
        told = (mesh.positions[:, :2] / 4).astype(np.float32)
        mesh = Mesh(mesh.positions, mesh.triangles, {**mesh.attributes, "uv": told}, mesh.runs)
    return shade(mesh, Normals(degrees=20.0)).settled() if crease else mesh


def least(sides: int, holes: int = 1) -> int:
    """Triangles of that slab's least cover: n + 2 h - 2 for top and bottom each, two for every wall."""
    corners = 4 + sides * holes
    return 2 * (corners + 2 * holes * bool(sides) - 2) + 2 * corners
