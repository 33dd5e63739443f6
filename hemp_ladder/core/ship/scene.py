"""What is to be written, in the target's unit and up axis, before any format is chosen."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.climb import Result
from hemp_ladder.core.fit import FittedSource, turn_from_z
from hemp_ladder.core.mesh import Mesh
from hemp_ladder.core.model import Matrix
from hemp_ladder.core.ship.settings import Target
from hemp_ladder.core.sort import Dress
from hemp_ladder.core.sort.library import find
from hemp_ladder.core.units import UNITS


@dataclass(frozen=True)
class Surface:
    """A mesh to be written; coordinates in the target's unit.

    geometry   equal for surfaces whose positions and normals are the same arrays
    runs       (material id, triangles (k, 3) int32) in order
    origin     (3,) float64, to be added to the positions: kept apart so that
               a part designed far from its origin survives 32 bit numbers
    """

    name: str
    geometry: str
    positions: NDArray[np.float64]
    normals: NDArray[np.float32]
    runs: list[tuple[str, NDArray[np.int32]]]
    origin: NDArray[np.float64]
    watertight: bool

    @property
    def triangles(self) -> int:
        return sum(len(run) for _, run in self.runs)


@dataclass
class Place:
    """A node: `surface` is an index into `Scene.surfaces`, -1 for a group; `matrix` to its parent."""

    name: str
    parent: int
    matrix: Matrix
    surface: int = -1


@dataclass
class Scene:
    """Surfaces and the tree of places they stand in. Parents come before children."""

    target: Target
    surfaces: list[Surface] = field(default_factory=list)
    places: list[Place] = field(default_factory=list)

    @property
    def materials(self) -> list[str]:
        return list(dict.fromkeys(m for surface in self.surfaces for m, _ in surface.runs))

    def world(self) -> list[Matrix]:
        world: list[Matrix] = []
        for place in self.places:
            world.append(place.matrix if place.parent < 0 else world[place.parent] @ place.matrix)
        return world


def build_scene(result: Result, target: Target) -> Scene:
    """Arrange the result as the target wants it: every part with its instances, or merged."""
    scene = _instanced(result, target)
    if target.written_group == "part":
        return scene
    return _merged(scene, split=target.written_group == "material")


def _instanced(result: Result, target: Target) -> Scene:
    """The source's tree, every part's geometry once. Scale goes into the positions, so that every
    node is a turn and a move only; the up axis into the root."""
    model = result.model
    unit = UNITS[target.written_unit].metres
    scales = [float(source.scale / unit) for source in result.fitted.sources]
    roots = [_root(source, target) for source in result.fitted.sources]
    scene = Scene(target)
    alone = len(roots) == 1
    scene.places.append(Place("model", -1, roots[0] if alone else np.eye(4)))
    dresses = result.sorted.dresses
    dress_of = {
        int(node): dresses[number]
        for node, number in zip(result.sorted.placements, result.sorted.dress_of, strict=True)
    }
    used = _used(model.nodes, {n for n in dress_of if result.mesh_of(model.nodes[n].part) is not None})
    known: dict[tuple[str, bool, Dress, str], int] = {}
    number: dict[int, int] = {-1: 0}
    for index, node in enumerate(model.nodes):
        if index not in used:
            continue
        source = model.piece_of_node[index]
        scale = scales[source]
        matrix = model.local[index].copy()
        matrix[:3, 3] *= scale
        if node.parent < 0 and not alone:
            matrix = roots[source] @ matrix
        place = Place(node.name, number[node.parent], matrix)
        if index in dress_of and node.part >= 0:
            part, request, mesh = model.parts[node.part], result.requests[node.part], result.mesh_of(node.part)
            if request is None or mesh is None:
                continue
            flipped = result.flipped[node.part]
            case = (request.key, flipped, dress_of[index], part.ref)
            if case not in known:
                known[case] = len(scene.surfaces)
                shown = mesh.flipped() if flipped else mesh
                geometry = request.key + ("~" if flipped else "")
                scene.surfaces.append(_surface(part.ref, geometry, shown, dress_of[index], scale))
            place.surface = known[case]
            place.name = node.name or part.ref
        number[index] = len(scene.places)
        scene.places.append(place)
    return scene


def _root(source: FittedSource, target: Target) -> Matrix:
    """A turn and a move from a source's axes, its lengths already in the target's unit, to the target's axes."""
    matrix = turn_from_z(target.written_up) @ source.matrix
    matrix[:3, :3] /= float(source.scale)
    matrix[:3, 3] /= float(UNITS[target.written_unit].metres)
    return matrix


def _used(nodes: list, wanted: set[int]) -> set[int]:  # type: ignore[type-arg]
    """The wanted nodes and everything above them: empty groups stay behind."""
    used: set[int] = set()
    for index in wanted:
        while index >= 0 and index not in used:
            used.add(index)
            index = nodes[index].parent
    return used


def _surface(name: str, geometry: str, mesh: Mesh, dress: Dress, scale: float) -> Surface:
    positions = mesh.positions * scale
    low, high = positions.min(axis=0), positions.max(axis=0)
    reach, extent = np.abs(positions).max(), (high - low).max()
    origin = (low + high) / 2 if reach > 100 * extent else np.zeros(3)
    return Surface(name, geometry, positions - origin, mesh.normals, runs_of(mesh, dress), origin, mesh.watertight)


def runs_of(mesh: Mesh, dress: Dress) -> list[tuple[str, NDArray[np.int32]]]:
    """The triangles each material covers, materials that cover none left out."""
    if not dress.face_slots:
        return [(dress.materials[0], mesh.triangles)]
    by_face = np.zeros(len(mesh.faces) - 1, dtype=np.int64)
    faces = np.array([face for face, _ in dress.face_slots])
    slots = np.array([slot for _, slot in dress.face_slots])
    inside = faces < len(by_face)
    by_face[faces[inside]] = slots[inside]
    by_triangle = np.repeat(by_face, np.diff(mesh.faces))
    runs: dict[str, list[NDArray[np.int32]]] = {}
    for slot, material in enumerate(dress.materials):
        chosen = mesh.triangles[by_triangle == slot]
        if len(chosen):
            runs.setdefault(material, []).append(chosen)
    return [(material, np.concatenate(pieces)) for material, pieces in runs.items()]


def _merged(scene: Scene, split: bool) -> Scene:
    """Everything in place in one surface, or in one for each material."""
    gathered: dict[str, list[tuple[Matrix, NDArray[np.float32], NDArray[np.int32]]]] = {}
    for place, matrix in zip(scene.places, scene.world(), strict=True):
        if place.surface >= 0:
            for material, *piece in placed_runs(scene.surfaces[place.surface], matrix):
                gathered.setdefault(material, []).append(tuple(piece))  # type: ignore[arg-type]
    out = Scene(scene.target)
    shut = all(surface.watertight for surface in scene.surfaces)
    one: list[tuple[str, Matrix, NDArray[np.float32], NDArray[np.int32]]] = []
    for material, pieces in gathered.items():
        positions = np.concatenate([piece[0] for piece in pieces])
        normals = np.concatenate([piece[1] for piece in pieces])
        starts = np.cumsum([0] + [len(piece[0]) for piece in pieces[:-1]])
        triangles = np.concatenate([piece[2] + start for piece, start in zip(pieces, starts, strict=True)]).astype(
            np.int32
        )
        one.append((material, positions, normals, triangles))
    if split:
        for material, positions, normals, triangles in one:
            _stand(out, find(material).name, positions, normals, [(material, triangles)], False)
    elif one:
        starts = np.cumsum([0] + [len(item[1]) for item in one[:-1]])
        runs = [(item[0], item[3] + np.int32(start)) for item, start in zip(one, starts, strict=True)]
        positions = np.concatenate([item[1] for item in one])
        _stand(out, "model", positions, np.concatenate([item[2] for item in one]), runs, shut)
    return out


def _stand(
    scene: Scene,
    name: str,
    positions: NDArray[np.float64],
    normals: NDArray[np.float32],
    runs: list[tuple[str, NDArray[np.int32]]],
    watertight: bool,
) -> None:
    low, high = positions.min(axis=0), positions.max(axis=0)
    far = np.abs(positions).max() > 100 * (high - low).max()
    origin = (low + high) / 2 if far else np.zeros(3)
    surface = Surface(name, f"merged:{name}", positions - origin, normals, runs, origin, watertight)
    scene.places.append(Place(name, -1, np.eye(4), len(scene.surfaces)))
    scene.surfaces.append(surface)


def placed_runs(
    surface: Surface, matrix: Matrix
) -> list[tuple[str, NDArray[np.float64], NDArray[np.float32], NDArray[np.int32]]]:
    """(material, positions, normals, triangles) of a surface at a place, only the vertices each needs.

    A mirrored placement turns winding over, so that the outside stays outside.
    """
    positions = (surface.positions + surface.origin) @ matrix[:3, :3].T + matrix[:3, 3]
    normals = surface.normals @ matrix[:3, :3].T.astype(np.float32)
    mirrored = np.linalg.det(matrix[:3, :3]) < 0
    out = []
    for material, triangles in surface.runs:
        turned = triangles[:, ::-1] if mirrored else triangles
        if len(surface.runs) == 1:
            out.append((material, positions, normals, np.ascontiguousarray(turned)))
            continue
        needed, index = np.unique(turned, return_inverse=True)
        out.append((material, positions[needed], normals[needed], index.reshape(-1, 3).astype(np.int32)))
    return out
