"""What another library finds in the files we wrote."""

import re
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import trimesh
from numpy.typing import NDArray

from hemp_ladder.core.mesh import count_open_edges, placed_box

#: A triangle this much smaller than the mesh's mean has no direction worth asking.
_SLIVER = 1e-6
#: Binary STL: normal, three corners, two bytes of attribute.
_STL_ROW = np.dtype([("normal", "<f4", 3), ("corners", "<f4", 9), ("attribute", "<u2")])


@dataclass
class Found:
    """Read back: (3,) size in the file's axes and unit, counts over placements, and doubts.

    astray  share of the surface whose shading normals point against the winding
    open    names of the meshes that have a border
    """

    size: NDArray[np.float64] = field(default_factory=lambda: np.zeros(3))
    triangles: int = 0
    placements: int = 0
    materials: set[str] = field(default_factory=set)
    normals: bool = True
    astray: float = 0.0
    open: set[str] = field(default_factory=set)
    meshes: set[str] = field(default_factory=set)


def read_back(paths: list[Path], form: str) -> Found:
    """Read GLB, OBJ or STL files with `trimesh`, a library that shares no code with our writers.

    Its own cleaning is off, so that what is counted is what was written.
    """
    options: dict[str, Any] = {"process": False}
    if form == "obj":
        options |= {"split_object": True, "group_material": False, "skip_texture": True}
    found = Found()
    low, high = np.full(3, np.inf), np.full(3, -np.inf)
    area = against = 0.0
    for path in paths:
        if path.suffix == ".mtl":
            continue
        scene = trimesh.load_scene(path, **options)
        places = _places(scene)
        pieces: dict[str, list[trimesh.Trimesh]] = {}
        for name, mesh in scene.geometry.items():
            if not isinstance(mesh, trimesh.Trimesh):
                continue
            matrices = places.get(name, [])
            pieces.setdefault(_mesh_name(mesh, name, form, path), []).append(mesh)
            whole, bad, told = _facing(mesh, form, path)
            found.normals &= told
            area += whole * len(matrices)
            against += bad * len(matrices)
            found.triangles += len(mesh.faces) * len(matrices)
            found.materials.add(_material(mesh))
            box = placed_box(np.asarray(mesh.vertices), matrices)
            low, high = np.minimum(low, box[0]), np.maximum(high, box[1])
        for name, meshes in pieces.items():
            found.meshes.add(name)
            if not _closed(meshes):
                found.open.add(name)
        found.placements += _count_places(scene, places)
    found.size = high - low if np.isfinite(low).all() else np.zeros(3)
    found.astray = against / area if area else 0.0
    return found


def _places(scene: trimesh.Scene) -> dict[str, list[NDArray[np.float64]]]:
    places: dict[str, list[NDArray[np.float64]]] = {}
    for node in scene.graph.nodes_geometry:
        matrix, name = scene.graph.get(node)
        places.setdefault(name, []).append(matrix)
    return places


def _count_places(scene: trimesh.Scene, places: dict[str, list[NDArray[np.float64]]]) -> int:
    """Placements of whole meshes: a mesh of several primitives stands once, not once a primitive."""
    most: dict[str, int] = {}
    for name, matrices in places.items():
        whole = _whole_name(scene.geometry[name], name)
        most[whole] = max(most.get(whole, 0), len(matrices))
    return sum(most.values())


def _whole_name(mesh: Any, name: str) -> str:
    return re.sub(r"_\d+$", "", name) if mesh.metadata.get("from_gltf_primitive") else name


def _mesh_name(mesh: trimesh.Trimesh, name: str, form: str, path: Path) -> str:
    return path.stem if form == "stl" else _whole_name(mesh, name)


def _material(mesh: trimesh.Trimesh) -> str:
    material = getattr(mesh.visual, "material", None)
    return str(getattr(material, "name", "") or "")


def _facing(mesh: trimesh.Trimesh, form: str, path: Path) -> tuple[float, float, bool]:
    """Area, the area whose normals oppose the winding, and whether normals were told at all."""
    corners = mesh.vertices[mesh.faces]
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(cross, axis=1) / 2
    if form == "stl":
        # The library drops normals that oppose the winding, so these are read as they lie in the file.
        shown = np.fromfile(path, _STL_ROW, offset=84)["normal"]
        told = bool(len(shown) == len(area) and shown.any())
        if not told:
            return float(area.sum()), 0.0, False
    else:
        told = "vertex_normals" in mesh._cache
        shown = mesh.vertex_normals[mesh.faces].mean(axis=1)
    worth = area > _SLIVER * (area.mean() if len(area) else 0)
    wrong = worth & (np.einsum("ij,ij->i", cross, shown) < 0)
    return float(area.sum()), float(area[wrong].sum()), told


def _closed(meshes: list[trimesh.Trimesh]) -> bool:
    """Watertight by the library's own judgement, its vertices joined by position.

    Where solids touch in one mesh (a window frame and its sill, or all parts
    of a model), an edge can have four triangles, which the library calls
    open; there, edges must be even each way.
    """
    whole = trimesh.util.concatenate(meshes) if len(meshes) > 1 else meshes[0]
    bare = trimesh.Trimesh(whole.vertices, whole.faces, process=False)
    bare.merge_vertices(digits_vertex=None)
    a, b, c = bare.faces.T
    bare.update_faces((a != b) & (b != c) & (c != a))
    if bare.is_watertight and bare.is_winding_consistent:
        return True
    return count_open_edges(np.asarray(bare.faces)) == 0
