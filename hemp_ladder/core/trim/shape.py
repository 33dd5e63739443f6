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
_RAYS = 64
_WAYS = np.array([(1, 0, 0), (0, 1, 0), (0, 0, 1), (1, 1, 1), (1, -1, 1), (-1, 1, 1), (1, 1, -1)], float)
_WAYS /= np.linalg.norm(_WAYS, axis=1)[:, None]


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
    spots = int(np.count_nonzero(np.bincount(edges.places.reshape(-1))))
    faces = len(edges.sides) // 3
    return int(max(0, shells - (spots - len(edges.uses) + faces) // 2))


class Outlines:
    """What of the picture a mesh covers, seen from seven sides by rays."""

    def __init__(self, mesh: Mesh) -> None:
        low, high = mesh.positions.min(axis=0), mesh.positions.max(axis=0)
        self._middle, self._radius = (low + high) / 2, float(np.linalg.norm(high - low)) / 2 or 1.0
        self._starts = [self._screen(mesh, way) for way in _WAYS]
        self._seen = self._cast(mesh)

    def changed(self, light: Mesh) -> float:
        """The largest share of an outline that is another for a lighter mesh: what only one of them covers, over what the
        full one covers."""
        shares = [
            np.count_nonzero(full != now) / np.count_nonzero(full)
            for full, now in zip(self._seen, self._cast(light), strict=True) if full.any()
        ]  # fmt: skip
        return float(max(shares, default=0.0))

    def _cast(self, mesh: Mesh) -> list[NDArray[np.bool_]]:
        from embreex import rtcore_scene
        from embreex.mesh_construction import TriangleMesh

        scene = rtcore_scene.EmbreeScene()
        TriangleMesh(
            scene, np.ascontiguousarray((mesh.positions - self._middle) / self._radius, np.float32),
            np.ascontiguousarray(mesh.triangles, np.int32),
        )  # fmt: skip
        ways = [np.tile(way.astype(np.float32), (_RAYS**2, 1)) for way in _WAYS]
        return [np.asarray(scene.run(start, way) >= 0) for start, way in zip(self._starts, ways, strict=True)]

    def _screen(self, mesh: Mesh, way: NDArray[np.float64]) -> NDArray[np.float32]:
        """Where rays begin: a grid over the mesh as it is seen along a way, a little wider."""
        side = np.cross(way, (0, 0, 1) if abs(way[2]) < 0.9 else (1, 0, 0))
        side /= np.linalg.norm(side)
        up = np.cross(side, way)
        x, y = ((mesh.positions @ axis - self._middle @ axis) / self._radius for axis in (side, up))
        low, high = np.array([x.min(), y.min()]), np.array([x.max(), y.max()])
        room = 0.01 * (high - low)
        # Off the middle of cells, so that no ray runs along an edge of something regular.
        steps = (np.arange(_RAYS) + 0.4931) / _RAYS
        across, along = (low[k] - room[k] + steps * (high[k] - low[k] + 2 * room[k]) for k in range(2))
        grid = across[:, None, None] * side + along[None, :, None] * up - 2 * way
        return np.ascontiguousarray(grid.reshape(-1, 3), np.float32)
