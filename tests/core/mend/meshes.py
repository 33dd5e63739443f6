"""Meshes with known damage, and what another library says of a mesh."""

import math
from collections.abc import Sequence

import numpy as np
import trimesh
from numpy.typing import NDArray

from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.mesh.measure import measure
from hemp_ladder.core.mesh.mesh import Mesh

FLAT = (0.0, 0.0, 1.0)


def mesh_of(positions: Sequence[Sequence[float]] | NDArray[np.float64], triangles: object) -> Mesh:
    """A mesh of one face, all normals up."""
    corners = np.asarray(triangles, np.int32).reshape(-1, 3)
    spots = np.asarray(positions, np.float64).reshape(-1, 3)
    normals = np.tile(np.array(FLAT, np.float32), (len(spots), 1))
    return Mesh.of(spots, normals, corners, np.array([0, len(corners)]))


def from_library(made: trimesh.Trimesh) -> Mesh:
    return mesh_of(np.asarray(made.vertices), np.asarray(made.faces))


def box(x: float = 1, y: float = 1, z: float = 1, at: Sequence[float] = (0, 0, 0)) -> Mesh:
    """A closed box with a corner at the origin, or elsewhere."""
    made = trimesh.creation.box((x, y, z))
    made.apply_translation(np.array([x, y, z]) / 2 + np.array(at))
    return from_library(made)


def ball(radius: float = 1, at: Sequence[float] = (0, 0, 0)) -> Mesh:
    made = trimesh.creation.icosphere(3, radius)
    made.apply_translation(at)
    return from_library(made)


def together(*meshes: Mesh) -> Mesh:
    """Meshes side by side in one, each a loose shell."""
    starts = np.cumsum([0, *(len(mesh.positions) for mesh in meshes)])
    triangles = [mesh.triangles + start for mesh, start in zip(meshes, starts, strict=False)]
    return mesh_of(np.concatenate([mesh.positions for mesh in meshes]), np.concatenate(triangles))


def without(mesh: Mesh, rows: Sequence[int]) -> Mesh:
    return mesh_of(mesh.positions, np.delete(mesh.triangles, rows, axis=0))


def also(mesh: Mesh, triangles: object) -> Mesh:
    return mesh_of(mesh.positions, np.concatenate([mesh.triangles, np.asarray(triangles, np.int32).reshape(-1, 3)]))


def soup(mesh: Mesh) -> Mesh:
    """Every corner a vertex of its own."""
    return mesh_of(mesh.corners.reshape(-1, 3), np.arange(3 * len(mesh.triangles)))


def strip(turns: int, across: int = 4, along: int = 60) -> Mesh:
    """A band around a circle that turns over so many half times: one is Möbius's strip, none or two has two sides."""
    u, v = np.meshgrid(np.arange(along) * 2 * math.pi / along, np.linspace(-0.4, 0.4, across + 1), indexing="ij")
    half = turns * u / 2
    radius = 2 + v * np.cos(half)
    positions = np.stack([radius * np.cos(u), radius * np.sin(u), v * np.sin(half)], axis=-1).reshape(-1, 3)
    triangles = []
    for i in range(along):
        for j in range(across):
            a, b = i * (across + 1) + j, i * (across + 1) + j + 1
            last = i == along - 1
            flip = last and turns % 2 == 1
            c, d = ((across - j), (across - j - 1)) if flip else (j, j + 1)
            base = 0 if last else (i + 1) * (across + 1)
            triangles += [(a, base + c, base + d), (a, base + d, b)]
    return mesh_of(positions, triangles)


def klein(along: int = 24, around: int = 12) -> Mesh:
    """Klein's bottle as the figure of eight turned half over on its way around a circle."""
    u, v = np.meshgrid(np.arange(along) * 2 * math.pi / along, np.arange(around) * 2 * math.pi / around, indexing="ij")
    eight = np.sin(v), np.sin(2 * v)
    radius = 3 + np.cos(u / 2) * eight[0] - np.sin(u / 2) * eight[1]
    height = np.sin(u / 2) * eight[0] + np.cos(u / 2) * eight[1]
    positions = np.stack([radius * np.cos(u), radius * np.sin(u), height], axis=-1).reshape(-1, 3)
    triangles = []
    for i in range(along):
        for j in range(around):
            k = (j + 1) % around
            last = i == along - 1
            # Once around, u / 2 is half a turn: the eight stands on its head.
            c, d = ((-j) % around, (-k) % around) if last else (j, k)
            base = 0 if last else (i + 1) * around
            a, b = i * around + j, i * around + k
            triangles += [(a, base + c, base + d), (a, base + d, b)]
    return mesh_of(positions, triangles)


def figures(mesh: Mesh, crossing: bool = True) -> Figures:
    """What is counted of it, as it is stored."""
    return measure([mesh.settled()], [crossing])[0].figures


def other(mesh: Mesh) -> trimesh.Trimesh:
    """The mesh as another library sees it, vertices in one place joined."""
    made = trimesh.Trimesh(mesh.positions, mesh.triangles, process=False)
    made.merge_vertices(digits_vertex=9, merge_norm=True, merge_tex=True)
    return made
