"""From a climb's result to a scene: every part with its instances, or merged, as the target wants it."""

from collections.abc import Callable, Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.climb import Result
from hemp_ladder.core.fit import FittedSource, turn_from_z
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.finish import Finish
from hemp_ladder.core.model.material import Material
from hemp_ladder.core.model.model import Matrix, Node
from hemp_ladder.core.ship.dressing import STILL, Applied, dressed
from hemp_ladder.core.ship.format import Group
from hemp_ladder.core.ship.names import Fitting
from hemp_ladder.core.ship.order import in_own_tree, named, turned_unit
from hemp_ladder.core.ship.painter import Painter
from hemp_ladder.core.ship.polygons import fanned
from hemp_ladder.core.ship.scene import Attributes, Place, Run, Scene, Surface, of_place, turned_normals, uv_name
from hemp_ladder.core.ship.settings import Target, separate_parts
from hemp_ladder.core.sort import Dress
from hemp_ladder.core.sort.apart import colours_apart
from hemp_ladder.core.sort.order.keys import keys_of
from hemp_ladder.core.units import UNITS


def build_scene(result: Result, target: Target, picture: Callable[[str], bytes] | None = None) -> Scene:
    """Arrange the result as the target wants it. `picture` gives a texture's bytes by its SHA-256."""
    scene = _instanced(result, target) if result.fitted.into_mesh is not None else _in_place(result, target)
    up = turned_unit(target_turn(target), target.written_unit)
    scene = named(_apart(scene), result)
    group = target.written_group
    if group == "part":
        scene = _near_groups(in_own_tree(scene, result, up))
    elif group == "material" or group == "one":
        scene = _merged(scene, group)
    else:
        keys, pivots = keys_of(result.model, result.sorted, result.order, group)
        scene = _merged(scene, group, keys, {name: up @ np.array(at) for name, at in pivots.items()})
    if target.flat_colours:
        apart = colours_apart(scene.materials)
        scene.materials = {
            id_: replace(material, finish=Finish(Colour.from_hex(apart[id_]), 0.0, 1.0))
            for id_, material in scene.materials.items()
        }
    _dress(scene, target, picture)
    if target.limits_names:
        _fit_names(scene, target)
    x, y, z = (up @ np.array(result.fitted.offset) + 0.0).tolist()
    scene.offset, scene.left_handed = (x, y, z), target.hand == "left"
    if target.polygons or target.quads:
        scene.polygons, scene.quads = target.polygons, target.quads
        scene.surfaces = [_in_faces(surface, target) for surface in scene.surfaces]
    return scene


def _in_faces(surface: Surface, target: Target) -> Surface:
    cut = [fanned(surface.positions, run, target.polygons, target.quads) for _, run in surface.runs]
    runs = [(id_, triangles) for (id_, _), (triangles, _) in zip(surface.runs, cut, strict=True)]
    return replace(surface, runs=runs, sizes=tuple(sizes for _, sizes in cut))


def _fit_names(scene: Scene, target: Target) -> None:
    """Have everything be called as the target takes it."""
    nodes, meshes, materials = (Fitting(target.longest_name, target.plain_names) for _ in range(3))
    for place in scene.places:
        place.name = nodes(place.name)
    scene.surfaces = [replace(surface, name=meshes(surface.name)) for surface in scene.surfaces]
    scene.materials = {
        id_: replace(item, name=materials(item.name, "material")) for id_, item in scene.materials.items()
    }


def target_turn(target: Target) -> Matrix:
    """4x4 from metres, Z up, to the target's axes; a mirror too where those are left-handed: what is across the view."""
    turn = turn_from_z(target.written_up)
    if target.hand == "left":
        turn[{"y": 2, "z": 1, "x": 2}[target.written_up[-1]]] *= -1
    return turn


def _apart(scene: Scene) -> Scene:
    """A material with pictures that is worn by surfaces without UV too is two: those wear it plain."""
    wears = {id_ for id_, material in scene.materials.items() if material.finish.maps}
    bare = {id_ for s in scene.surfaces if "uv" not in s.attributes for id_, _ in s.runs} & wears
    mixed = bare & {id_ for s in scene.surfaces if "uv" in s.attributes for id_, _ in s.runs}
    if not mixed:
        return scene
    plain = {id_: f"{id_} without UV" for id_ in mixed}
    for id_, other in plain.items():
        material = scene.materials[id_]
        finish = replace(material.finish, maps=())
        scene.materials[other] = Material(other, f"{material.name} without UV", finish)
    scene.surfaces = [
        surface
        if "uv" in surface.attributes
        else replace(surface, runs=[(plain.get(id_, id_), triangles) for id_, triangles in surface.runs])
        for surface in scene.surfaces
    ]
    return scene


def _dress(scene: Scene, target: Target, picture: Callable[[str], bytes] | None) -> None:
    """Give its materials what they wear in this format: pictures by the sets of UV that all their surfaces have."""
    form = target.written_format
    wears = picture is not None and "pictures" in form.carries and target.textures != "none"
    painter = Painter(picture, target.texture_limit) if picture is not None and wears else None
    sets: dict[str, set[int]] = {}
    for surface in scene.surfaces:
        own = {number for number in range(8) if uv_name(number) in surface.attributes}
        for id_, _ in surface.runs:
            sets[id_] = sets.get(id_, own) & own
    for id_, material in scene.materials.items():
        told = dressed(material.finish, painter, form.joint, sets.get(id_, set()))
        scene.materials[id_] = replace(material, finish=told.finish)
        if told.worn:
            scene.worn[id_] = told.worn
            ways = {worn.lies for worn in told.worn.values()}
            if not form.moves and len(ways) == 1 and ways != {STILL}:
                scene.laid[id_] = next(iter(told.worn.values()))
                scene.worn[id_] = {slot: Applied(worn.picture, worn.uv) for slot, worn in told.worn.items()}
    if painter is not None:
        used = dict.fromkeys(worn.picture for slots in scene.worn.values() for worn in slots.values())
        scene.pictures = {sha256: painter.made[sha256] for sha256 in used}
        scene.beside = target.pictures_beside


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
    into_mesh = result.fitted.into_mesh
    separate = separate_parts(target, [part.decided_as for part in model.parts])
    known: dict[tuple[str, bool, float, Dress, str, int], int] = {}
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
        place = Place(node.name, number[node.parent], matrix, node=index)
        if index in dress_of and node.part >= 0:
            part, chain, mesh = model.parts[node.part], result.chains[node.part], result.mesh_of(node.part)
            if chain is None or mesh is None:
                continue
            flipped = result.flipped[node.part]
            into = into_mesh is not None and node.part in into_mesh
            # Sources of different units may share a mesh, each in its own size; a place in the mesh is its own.
            single = into or node.part in separate
            case = (chain.key, flipped, scale, dress_of[index], part.label, index if single else -1)
            if case not in known:
                known[case] = len(scene.surfaces)
                shown = mesh.flipped() if flipped else mesh
                geometry = f"{chain.key}{'~' if flipped else ''}*{scale!r}"
                if single:
                    geometry = of_place(geometry, index)
                if into:
                    own = matrix.copy()
                    own[:3, :3] *= scale
                    shown = _moved(shown, own)
                name = (node.name or part.label) if single else part.label
                scene.surfaces.append(_surface(name, geometry, shown, dress_of[index], 1.0 if into else scale))
            if into:
                place.matrix = np.eye(4)
            place.surface = known[case]
            place.name = node.name or part.label
        number[index] = len(scene.places)
        scene.places.append(place)
    return _with_materials(scene, result)


def _with_materials(scene: Scene, result: Result) -> Scene:
    worn = dict.fromkeys(m for surface in scene.surfaces for m, _ in surface.runs)
    scene.materials = {id_: result.sorted.palette[id_] for id_ in worn}
    return scene


def _in_place(result: Result, target: Target) -> Scene:
    """The tree with no turn, move or scale in any node: every placement is a mesh of its own, where it stands."""
    model = result.model
    turn = target_turn(target)
    turn[:3] /= float(UNITS[target.written_unit].metres)
    scene = Scene(target.written_unit, target.written_up, "part")
    scene.places.append(Place("model", -1, np.eye(4)))
    world = result.fitted.placements()
    dress_of = dict(zip(result.sorted.placements.tolist(), result.sorted.dress_of.tolist(), strict=True))
    number: dict[int, int] = {-1: 0}
    wanted = {n for n in dress_of if result.mesh_of(model.nodes[n].part) is not None}
    for index in sorted(_used(model.nodes, wanted)):
        node = model.nodes[index]
        place = Place(node.name, number[node.parent], np.eye(4), node=index)
        mesh = result.mesh_of(node.part) if index in wanted else None
        if mesh is not None:
            place.surface, place.name = len(scene.surfaces), node.name or model.parts[node.part].label
            shown = _moved(mesh.flipped() if result.flipped[node.part] else mesh, turn @ world[index])
            dress = result.sorted.dresses[dress_of[index]]
            scene.surfaces.append(_surface(place.name, f"in place {index}", shown, dress, 1.0))
        number[index] = len(scene.places)
        scene.places.append(place)
    return _with_materials(scene, result)


def _moved(mesh: Mesh, matrix: Matrix) -> Mesh:
    """The mesh where a matrix (4, 4) puts it. A mirror turns its winding over, so that the outside stays outside."""
    positions = mesh.positions @ matrix[:3, :3].T + matrix[:3, 3]
    attributes = {**mesh.attributes, "normal": turned_normals(mesh.normals, matrix)}
    triangles = mesh.triangles
    if np.linalg.det(matrix[:3, :3]) < 0:
        triangles = np.ascontiguousarray(triangles[:, ::-1])
    return replace(mesh, positions=positions, attributes=attributes, triangles=triangles)


#: A node that stands so many times farther from what it holds than all of it is large makes 32 bit numbers cancel.
_FAR = 50.0


def _near_groups(scene: Scene) -> Scene:
    """Nodes are moved to what they hold where they stand far from it, as where a source has map coordinates: receivers
    multiply places as 32 bit numbers. Nothing but origins of nodes changes."""
    standing = [index for index, place in enumerate(scene.places) if place.surface >= 0]
    if not standing:
        return scene
    world = np.array(scene.world())
    boxes = np.array([
        (s.positions.min(axis=0) + s.origin, s.positions.max(axis=0) + s.origin) for s in scene.surfaces
    ])  # fmt: skip
    own = boxes[[scene.places[index].surface for index in standing]]
    middles = np.einsum("nij,nj->ni", world[standing][:, :3, :3], own.mean(axis=1)) + world[standing][:, :3, 3]
    size = float(np.ptp(middles, axis=0).max() + np.linalg.norm(own[:, 1] - own[:, 0], axis=1).max())
    groups = [index for index, place in enumerate(scene.places) if place.surface < 0]
    away = np.linalg.norm(world[groups][:, :3, 3] - middles.mean(axis=0), axis=1)
    if not (away > _FAR * size).any():
        return scene
    total, count = np.zeros((len(scene.places), 3)), np.zeros(len(scene.places))
    total[standing], count[standing] = middles, 1
    for index in range(len(scene.places) - 1, 0, -1):
        above = scene.places[index].parent
        if above >= 0:
            total[above] += total[index]
            count[above] += count[index]
    for index, far in zip(groups, away > _FAR * size, strict=True):
        if far and count[index] and not scene.places[index].fixed:
            world[index][:3, 3] = total[index] / count[index]
    for index, place in enumerate(scene.places):
        place.matrix = world[index] if place.parent < 0 else np.linalg.solve(world[place.parent], world[index])
    return scene


def _root(source: FittedSource, target: Target) -> Matrix:
    """A turn and a move from a source's axes, its lengths already in the target's unit, to the target's axes."""
    matrix = target_turn(target) @ source.matrix
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


def _merged(
    scene: Scene, group: Group, keys: Mapping[int, str] | None = None,
    pivots: Mapping[str, NDArray[np.float64]] | None = None,
) -> Scene:  # fmt: skip
    """Everything in place in one surface, or in one for each material; or in one for each of what placements are gathered
    by (`keys`, by node), about its pivot where it has one."""
    gathered: dict[str, dict[str, list[Run]]] = {}
    shut: dict[str, bool] = {}
    for place, surface, matrix in scene.standing():
        key = keys.get(place.node, "model") if keys is not None else "model"
        shut[key] = shut.get(key, True) and surface.watertight
        for run in surface.placed(matrix):
            gathered.setdefault(key, {}).setdefault(run.material, []).append(run)
    out = Scene(scene.unit, scene.up, group, scene.materials)
    for key, by_material in gathered.items():
        whole = [_one(material, runs) for material, runs in by_material.items()]
        if group == "material":
            for run in whole:
                name = scene.materials[run.material].name
                _stand(out, name, run.positions, run.attributes, [(run.material, run.triangles)], False)
            continue
        starts = np.cumsum([0] + [len(run.positions) for run in whole[:-1]])
        runs = [(run.material, run.triangles + np.int32(start)) for run, start in zip(whole, starts, strict=True)]
        positions = np.concatenate([run.positions for run in whole])
        pivot = (pivots or {}).get(key)
        at = np.zeros(3) if pivot is None else pivot
        _stand(out, key, positions - at, _joined([run.attributes for run in whole]), runs, shut[key])
        out.places[-1].matrix[:3, 3] = at
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
