"""The shape of a mesh in a few numbers, and how its outline compares with another's."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mend.normals import edges_of
from hemp_ladder.core.mesh.edges import Edges
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.seams import rings
from hemp_ladder.core.mesh.triangles import lengths

#: The picture that outlines are compared in: so many rays along each side of the box, from so many directions.
_RAYS = 96
_WAYS = np.array([(1, 0, 0), (0, 1, 0), (0, 0, 1), (1, 1, 1), (1, -1, 1), (-1, 1, 1), (1, 1, -1)], float)


@dataclass(frozen=True)
class Shape:
    """Of one mesh, in source coordinates.

    shells   what hangs together
    handles  holes that go through it, by Euler's number; of what is not closed none; -1 where that cannot be told
    rings    where its surface ends
    border   how long those are
    volume   signed, where it is closed; else 0
    area     of all triangles
    """

    shells: int
    handles: int
    rings: int
    border: float
    volume: float
    area: float

    @staticmethod
    def of(mesh: Mesh) -> "Shape":
        edges = edges_of(mesh)
        shells, _ = edges.shells
        borders = len(edges.borders)
        closed = not borders and not np.count_nonzero(edges.balance)
        spots = np.zeros((int(edges.places.max()) + 1, 3))
        spots[edges.places.reshape(-1)] = mesh.positions[mesh.triangles.reshape(-1)]
        border = lengths(spots[edges.end(edges.borders)] - spots[edges.start(edges.borders)]).sum() if borders else 0.0
        return Shape(
            shells, _handles(edges, shells) if closed else 0, rings(edges)[0] if borders else 0, float(border),
            mesh.volume() if closed else 0.0, mesh.area(),
        )  # fmt: skip


def _handles(edges: Edges, shells: int) -> int:
    """Of closed shells: V - E + F = 2 (shells - handles); -1 where surfaces touch in an edge, and it says nothing."""
    if (edges.uses != 2).any():
        return -1
    spots = len(np.unique(edges.places))
    faces = len(edges.sides) // 3
    return max(0, shells - (spots - len(edges.uses) + faces) // 2)


def silhouette(full: Mesh, light: Mesh) -> float:
    """The largest share of the full one's outline that changed, seen from seven sides: what of the picture only one of
    them covers, over what the full one covers."""
    from embreex import rtcore_scene
    from embreex.mesh_construction import TriangleMesh

    low, high = full.positions.min(axis=0), full.positions.max(axis=0)
    middle, radius = (low + high) / 2, float(np.linalg.norm(high - low)) / 2 or 1.0
    scenes = []
    for mesh in (full, light):
        scene = rtcore_scene.EmbreeScene()
        TriangleMesh(scene, np.ascontiguousarray((mesh.corners - middle) / radius, np.float32))
        scenes.append(scene)
    worst = 0.0
    for way in _WAYS / np.linalg.norm(_WAYS, axis=1)[:, None]:
        start, area = _screen(full, middle, radius, way)
        ways = np.broadcast_to(way, start.shape).astype(np.float32)
        seen = [scene.run(start, np.ascontiguousarray(ways)) >= 0 for scene in scenes]
        if area and seen[0].any():
            worst = max(worst, np.count_nonzero(seen[0] != seen[1]) / np.count_nonzero(seen[0]))
    return float(worst)


def _screen(
    mesh: Mesh, middle: NDArray[np.float64], radius: float, way: NDArray[np.float64]
) -> tuple[NDArray[np.float32], bool]:
    """Where rays begin: a grid over the mesh as it is seen along a way, a little wider; and whether that has any area."""
    side = np.cross(way, (0, 0, 1) if abs(way[2]) < 0.9 else (1, 0, 0))
    side /= np.linalg.norm(side)
    up = np.cross(side, way)
    flat = (mesh.positions - middle) / radius @ np.stack([side, up], axis=1)
    low, high = flat.min(axis=0), flat.max(axis=0)
    room = 0.01 * (high - low)
    # Off the middle of cells, so that no ray runs along an edge of something regular.
    steps = (np.arange(_RAYS) + 0.4931) / _RAYS
    x, y = (low[k] - room[k] + steps * (high[k] - low[k] + 2 * room[k]) for k in range(2))
    grid = x[:, None, None] * side + y[None, :, None] * up - 2 * way
    return np.ascontiguousarray(grid.reshape(-1, 3), np.float32), bool((high - low).min() > 1e-9)
