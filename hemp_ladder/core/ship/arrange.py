"""From a climb's result to a scene: every part with its instances, or merged, as the target wants it."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.climb import Result
from hemp_ladder.core.fit import FittedSource, turn_from_z
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.model import Matrix, Node
from hemp_ladder.core.ship.scene import Attributes, Place, Run, Scene, Surface
from hemp_ladder.core.ship.settings import Target
from hemp_ladder.core.sort import Dress
from hemp_ladder.core.units import UNITS


def build_scene(result: Result, target: Target, picture: Callable[[str], bytes] | None = None) -> Scene:
    """Arrange the result as the target wants it. `picture` gives a texture's bytes by its SHA-256."""
    scene = _instanced(result, target)
    if target.written_group != "part":
        scene = _merged(scene, target.written_group)
    if picture is not None and "pictures" in target.written_format.carries:
        bare = {id_ for surface in scene.surfaces if "uv" not in surface.attributes for id_, _ in surface.runs}
        for id_, material in scene.materials.items():
            if material.picture is not None and id_ not in bare:
                scene.worn[id_] = material.picture
        scene.pictures = {sha256: picture(sha256) for sha256 in dict.fromkeys(scene.worn.values())}
    return scene


def _instanced(result: Result, target: Target) -> Scene:
    """The source's tree, every part's geometry once. Scale goes into the positions, so that every
    node is a turn and a move only; the up axis into the root."""
    model = result.model
    unit = UNITS[target.written_unit].metres
    scales = [float(source.scale / unit) for source in result.fitted.sources]
    roots = [_root(source, target) for source in result.fitted.sources]
    scene = Scene(target.written_unit, target.written_up, "part")
    alone = len(roots) == 1
    scene.places.append(Place("model", -1, roots[0] if alone else np.eye(4)))
    dresses = result.sorted.dresses
    dress_of = {
        int(node): dresses[number]
        for node, number in zip(result.sorted.placements, result.sorted.dress_of, strict=True)
    }
    used = _used(model.nodes, {n for n in dress_of if result.mesh_of(model.nodes[n].part) is not None})
    known: dict[tuple[str, bool, float, Dress, str], int] = {}
    number: dict[int, int] = {-1: 0}
    for index, node in enumerate(model.nodes):
        if index not in used:
            continue
        source = model.member_of_node[index]
        scale = scales[source]
        matrix = model.local[index].copy()
        matrix[:3, 3] *= scale
        if node.parent < 0 and not alone:
            matrix = roots[source] @ matrix
        place = Place(node.name, number[node.parent], matrix)
        if index in dress_of and node.part >= 0:
            part, chain, mesh = model.parts[node.part], result.chains[node.part], result.mesh_of(node.part)
            if chain is None or mesh is None:
                continue
            flipped = result.flipped[node.part]
            # Sources of different units may share a mesh, each in its own size.
            case = (chain.key, flipped, scale, dress_of[index], part.label)
            if case not in known:
                known[case] = len(scene.surfaces)
                shown = mesh.flipped() if flipped else mesh
                geometry = f"{chain.key}{'~' if flipped else ''}*{scale!r}"
                scene.surfaces.append(_surface(part.label, geometry, shown, dress_of[index], scale))
            place.surface = known[case]
            place.name = node.name or part.label
        number[index] = len(scene.places)
        scene.places.append(place)
    worn = dict.fromkeys(m for surface in scene.surfaces for m, _ in surface.runs)
    scene.materials = {id_: result.sorted.palette[id_] for id_ in worn}
    return scene


def _root(source: FittedSource, target: Target) -> Matrix:
    """A turn and a move from a source's axes, its lengths already in the target's unit, to the target's axes."""
    matrix = turn_from_z(target.written_up) @ source.matrix
    matrix[:3, :3] /= float(source.scale)
    matrix[:3, 3] /= float(UNITS[target.written_unit].metres)
    return matrix


def _used(nodes: list[Node], wanted: set[int]) -> set[int]:
    """The wanted nodes and everything above them: empty groups stay behind."""
    used: set[int] = set()
    for index in wanted:
        while index >= 0 and index not in used:
            used.add(index)
            index = nodes[index].parent
    return used


def _surface(name: str, geometry: str, mesh: Mesh, dress: Dress, scale: float) -> Surface:
    positions, origin = _near_zero(mesh.positions * scale)
    return Surface(name, geometry, positions, mesh.attributes, runs_of(mesh, dress), origin, mesh.watertight)


def _near_zero(positions: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Positions, around their middle where they lie far from zero for their size, and that middle, else zero."""
    low, high = positions.min(axis=0), positions.max(axis=0)
    far = np.abs(positions).max() > 100 * (high - low).max()
    origin = (low + high) / 2 if far else np.zeros(3)
    return positions - origin, origin


def runs_of(mesh: Mesh, dress: Dress) -> list[tuple[str, NDArray[np.int32]]]:
    """The triangles each material covers, materials that cover none left out."""
    if not dress.face_slots:
        return [(dress.materials[0], mesh.triangles)]
    by_face = np.zeros(mesh.faces.count, dtype=np.int64)
    faces = np.array([face for face, _ in dress.face_slots])
    slots = np.array([slot for _, slot in dress.face_slots])
    inside = faces < len(by_face)
    by_face[faces[inside]] = slots[inside]
    by_triangle = by_face[mesh.faces.labels]
    runs: dict[str, list[NDArray[np.int32]]] = {}
    for slot, material in enumerate(dress.materials):
        chosen = mesh.triangles[by_triangle == slot]
        if len(chosen):
            runs.setdefault(material, []).append(chosen)
    return [(material, np.concatenate(pieces)) for material, pieces in runs.items()]


def _merged(scene: Scene, group: str) -> Scene:
    """Everything in place in one surface, or in one for each material."""
    gathered: dict[str, list[Run]] = {}
    for _, surface, matrix in scene.standing():
        for run in surface.placed(matrix):
            gathered.setdefault(run.material, []).append(run)
    out = Scene(scene.unit, scene.up, group, scene.materials)
    shut = all(surface.watertight for surface in scene.surfaces)
    whole = [_one(material, runs) for material, runs in gathered.items()]
    if group == "material":
        for run in whole:
            name = scene.materials[run.material].name
            _stand(out, name, run.positions, run.attributes, [(run.material, run.triangles)], False)
    elif whole:
        starts = np.cumsum([0] + [len(run.positions) for run in whole[:-1]])
        runs = [(run.material, run.triangles + np.int32(start)) for run, start in zip(whole, starts, strict=True)]
        positions = np.concatenate([run.positions for run in whole])
        _stand(out, "model", positions, _joined([run.attributes for run in whole]), runs, shut)
    return out


def _one(material: str, runs: list[Run]) -> Run:
    """Runs of one material as one."""
    starts = np.cumsum([0] + [len(run.positions) for run in runs[:-1]])
    triangles = np.concatenate([run.triangles + start for run, start in zip(runs, starts, strict=True)])
    positions = np.concatenate([run.positions for run in runs])
    return Run(material, positions, _joined([run.attributes for run in runs]), triangles.astype(np.int32))


def _joined(attributes: list[Attributes]) -> Attributes:
    """Attributes behind one another: those that all have."""
    shared = [name for name in attributes[0] if all(name in item for item in attributes)]
    return {name: np.concatenate([item[name] for item in attributes]) for name in shared}


def _stand(
    scene: Scene,
    name: str,
    positions: NDArray[np.float64],
    attributes: Attributes,
    runs: list[tuple[str, NDArray[np.int32]]],
    watertight: bool,
) -> None:
    near, origin = _near_zero(positions)
    scene.places.append(Place(name, -1, np.eye(4), len(scene.surfaces)))
    scene.surfaces.append(Surface(name, f"merged:{name}", near, attributes, runs, origin, watertight))
