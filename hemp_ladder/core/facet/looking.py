"""What pictures show of parts, looked for with rays.

Rays decide what is visible: one for each point of a coarse grid of the picture, which finds whatever is large, and one to
each of some points of every placement, which finds what is small. What something else hides, or what lies outside of the
picture, is not seen.
"""

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.facet.sight import Floats, Sight
from hemp_ladder.core.fit.lookouts import View
from hemp_ladder.core.mend.normals import edges_of, leans
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.tree import spread_points
from hemp_ladder.core.mesh.triangles import cross, lengths

#: Points of a grid across a picture and down it.
_GRID = (192, 108)
#: Points of each placement, the most and the fewest, and of all together.
_MOST_POINTS, _FEWEST, _ALL_POINTS = 128, 8, 4_000_000
#: Triangles over all placements that rays are sent through; of more, nothing hides anything.
_MOST_TRIANGLES = 12_000_000
#: Triangles that lean so much towards each other, in degrees, belong to one round surface.
_ROUND = (0.05, 50.0)
#: Width over height where a lookout says only how tall it sees.
_ASPECT = 16 / 9
#: A point is seen where nothing is nearer by more than this share.
_NEARER = 1e-3


def sight(
    meshes: Mapping[int, Mesh], parts: NDArray[np.integer], places: Floats, hides: NDArray[np.bool_], count: int,
    views: Sequence[View], width: int,
) -> Sight:  # fmt: skip
    """Of placements of `count` parts, (p,), each put into metres by a matrix (p, 4, 4), of which `hides` says that nothing
    shows through it: what pictures of so many pixels across show."""
    rows = np.array([row for row, part in enumerate(parts.tolist()) if part in meshes], int)
    pixels, outline = np.zeros(count), np.zeros(count, bool)
    if not len(rows) or not views:
        return Sight(pixels, outline, True)
    world = _World(meshes, parts, places, rows, hides)
    rounds = {part: _round_edges(mesh) for part, mesh in meshes.items()}
    for view in views:
        camera = _Camera(view, width)
        wide = world.seen_from(camera)
        np.maximum.at(pixels, parts[rows], wide)
        for at in np.flatnonzero(wide):
            part = int(parts[rows[at]])
            if not outline[part]:
                outline[part] = _outlined(meshes[part], rounds[part], places[rows[at]], camera)
    return Sight(pixels, outline, world.scene is not None)


class _Camera:
    def __init__(self, view: View, width: int) -> None:
        self.eye, self.way, up = np.array(view.eye, float), np.array(view.way, float), np.array(view.up, float)
        self.side = np.cross(self.way, up)
        self.side /= max(float(np.linalg.norm(self.side)), 1e-12)
        self.up = np.cross(self.side, self.way)
        aspect = view.wide or _ASPECT
        self.parallel = not view.tall
        self.half = (max(view.reach, 1e-9) / 2) if self.parallel else float(np.tan(view.tall / 2))
        self.across, self.width = self.half * aspect, width

    def pixels(self, depth: Floats) -> Floats:
        """Pixels that a metre is wide at a depth (n,)."""
        if self.parallel:
            return np.full(len(depth), self.width / (2 * self.across))
        return np.asarray(self.width / (2 * self.across * np.maximum(depth, 1e-9)))

    def inside(self, points: Floats) -> tuple[NDArray[np.bool_], Floats]:
        """Which points (n, 3) lie in the picture, and their depth."""
        to = points - self.eye
        depth = to @ self.way
        reach = np.ones_like(depth) if self.parallel else depth
        held = (np.abs(to @ self.side) <= self.across * reach) & (np.abs(to @ self.up) <= self.half * reach)
        return held & (depth > 1e-9), depth

    def rays(self, points: Floats) -> tuple[Floats, Floats, Floats]:
        """Where rays to points (n, 3) begin, their unit directions, and how long they are."""
        if self.parallel:
            depth = (points - self.eye) @ self.way
            return points - depth[:, None] * self.way, np.broadcast_to(self.way, points.shape), depth
        to = points - self.eye
        long = lengths(to)
        return np.broadcast_to(self.eye, points.shape), to / np.maximum(long, 1e-12)[:, None], long

    def grid(self) -> Floats:
        """Points before it, one for each of a grid over the picture, (n, 3)."""
        x, y = ((np.arange(n) + 0.5) / n * 2 - 1 for n in _GRID)
        across, down = np.meshgrid(x * self.across, y * self.half)
        return np.asarray(self.eye + self.way + across.reshape(-1, 1) * self.side + down.reshape(-1, 1) * self.up)


class _World:
    """Placements as triangles that rays meet, with some points of each."""

    def __init__(
        self, meshes: Mapping[int, Mesh], parts: NDArray[np.integer], places: Floats, rows: NDArray[np.integer],
        hides: NDArray[np.bool_],
    ) -> None:  # fmt: skip
        each = int(np.clip(_ALL_POINTS // len(rows), _FEWEST, _MOST_POINTS))
        points = {part: _points_of(mesh, each) for part, mesh in meshes.items()}
        clouds = [_put(points[int(parts[row])], places[row]) for row in rows]
        self.points = np.concatenate(clouds)
        self.of = np.repeat(np.arange(len(rows)), [len(cloud) for cloud in clouds])
        self.count = len(rows)
        self.scene = None
        self.middle = self.points.mean(axis=0)
        sizes = np.array([len(meshes[int(parts[row])].triangles) for row in rows])
        if sizes.sum() > _MOST_TRIANGLES:
            return
        from embreex import rtcore_scene
        from embreex.mesh_construction import TriangleMesh

        corners = [_put(meshes[int(parts[row])].corners.reshape(-1, 3), places[row]) for row in rows]
        # Around the middle of all, where short numbers are long enough.
        near = (np.concatenate(corners) - self.middle).astype(np.float32).reshape(-1, 3, 3)
        self.size = float(lengths(np.ptp(near.reshape(-1, 3), axis=0)[None].astype(float))[0]) or 1.0
        owner = np.repeat(np.arange(len(rows)), sizes)
        solid = hides[rows][owner]
        self.scene = rtcore_scene.EmbreeScene()
        TriangleMesh(self.scene, np.ascontiguousarray(near[solid]))
        self.owner = owner[solid]
        self.any_solid = bool(solid.any())

    def seen_from(self, camera: _Camera) -> Floats:
        """Pixels that a metre is wide at each placement's nearest visible point, (p,); 0 for not seen."""
        found = np.zeros(self.count)
        held, depth = camera.inside(self.points)
        rows = np.flatnonzero(held)
        if self.scene is not None and self.any_solid:
            start, way, long = camera.rays(self.points[rows])
            first = self._first(start, way, "DISTANCE")
            rows = rows[(first < 0) | (first >= long - np.maximum(_NEARER * long, 1e-6 * self.size))]
            self._through_grid(camera, found)
        np.maximum.at(found, self.of[rows], camera.pixels(depth[rows]))
        return found

    def _through_grid(self, camera: _Camera, found: Floats) -> None:
        start, way, _ = camera.rays(camera.grid())
        hit = self._first(start, way, "INTERSECT")
        far = self._first(start, way, "DISTANCE")
        some = np.flatnonzero((hit >= 0) & (far > 0))
        depth = (start[some] + way[some] * far[some][:, None] - camera.eye) @ camera.way
        np.maximum.at(found, self.owner[hit[some].astype(int)], camera.pixels(np.maximum(depth, 1e-6)))

    def _first(self, start: Floats, way: Floats, query: str) -> Floats:
        assert self.scene is not None
        near = np.ascontiguousarray(start - self.middle, np.float32)
        return np.asarray(self.scene.run(near, np.ascontiguousarray(way, np.float32), query=query))


def _points_of(mesh: Mesh, count: int) -> Floats:
    """Some of its corners, and points spread by area."""
    return spread_points(mesh, count)[0]


def _put(points: Floats, matrix: Floats) -> Floats:
    return np.asarray(points @ matrix[:3, :3].T + matrix[:3, 3])


def _round_edges(mesh: Mesh) -> NDArray[np.integer]:
    """Pairs of triangles, (k, 2), that meet in an edge of one round surface."""
    corners = mesh.corners
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    flat = across / np.maximum(lengths(across), 1e-300)[:, None]
    one, two = edges_of(mesh).pairs
    lean = np.degrees(leans(flat, one, two))
    some = (lean > _ROUND[0]) & (lean < _ROUND[1])
    return np.stack([one[some] // 3, two[some] // 3], axis=1)


def _outlined(mesh: Mesh, pairs: NDArray[np.integer], place: Floats, camera: _Camera) -> bool:
    """Whether of two triangles of a round surface one faces the eye and the other does not."""
    if not len(pairs):
        return False
    back = np.linalg.inv(place)
    corners = mesh.corners
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    if camera.parallel:
        facing = across @ (back[:3, :3] @ -camera.way)
    else:
        eye = back[:3, :3] @ camera.eye + back[:3, 3]
        facing = np.einsum("ij,ij->i", across, eye - corners[:, 0])
    front = facing > 0
    return bool((front[pairs[:, 0]] != front[pairs[:, 1]]).any())
