"""What `trimesh`, a library that shares no code with our writers, finds in the files we wrote."""

import hashlib
from collections.abc import Callable, Iterable, Iterator, Sequence
from pathlib import Path
from typing import Any

import numpy as np
import trimesh
from numpy.typing import NDArray

from hemp_ladder.core.mesh.triangles import count_open_edges, cross, dot, lengths, means, placed_box
from hemp_ladder.core.ship.format import Facets, Found

#: A triangle this much smaller than the mesh's mean has no direction worth asking.
_SLIVER = 1e-6
#: Gives the normal of every triangle in a file, as they lie there.
FacetNormals = Callable[[Path], NDArray[np.float64]]


def read_scenes(paths: Sequence[Path], facet_normals: FacetNormals | None = None, **options: Any) -> Found:
    """All files together. The library's own cleaning is off, so that what is counted is what was written.

    Where a file holds one mesh and `facet_normals` tells its normals, the
    mesh is known by the file's name. Raises whatever the library does.
    """
    return tally(((path, trimesh.load_scene(path, process=False, **options)) for path in paths), facet_normals)


def tally(scenes: Iterable[tuple[Path, trimesh.Scene]], facet_normals: FacetNormals | None = None) -> Found:
    """What is found in the scenes of files."""
    found = Found()
    area = against = 0.0
    for path, scene in scenes:
        places, whole_of = _places(scene), _wholes(scene)
        pieces: dict[str, list[trimesh.Trimesh]] = {}
        for name, mesh in scene.geometry.items():
            if not isinstance(mesh, trimesh.Trimesh):
                continue
            matrices = places.get(name, [])
            pieces.setdefault(path.stem if facet_normals else whole_of[name], []).append(mesh)
            corners = np.asarray(mesh.vertices)[mesh.faces]
            shown = facet_normals(path) if facet_normals else _shading(mesh)
            if shown is None or len(shown) != len(corners) or not shown.any():
                found.normals, shown = False, np.zeros((len(corners), 3))
            uv = getattr(mesh.visual, "uv", None)
            found.facets.append(Facets(means(corners), shown, None if uv is None else _means_of_uv(uv, mesh.faces)))
            whole, bad = _facing(corners, shown)
            area += whole * len(matrices)
            against += bad * len(matrices)
            found.triangles += len(corners) * len(matrices)
            found.materials.add(_material(mesh))
            for slot, picture in _pictures(mesh):
                found.pictures[f"{_material(mesh)}, {slot}"] = told_pixels(picture)
            box = placed_box(np.asarray(mesh.vertices), matrices)
            found.box = np.array([np.minimum(found.box[0], box[0]), np.maximum(found.box[1], box[1])])
        for name, meshes in pieces.items():
            found.meshes.add(name)
            if not _closed(meshes):
                found.open.add(name)
        found.placements += _count_places(whole_of, places)
    if not np.isfinite(found.box).all():
        found.box = np.zeros((2, 3))
    found.astray = against / area if area else 0.0
    return found


class Builder:
    """A scene of the library, from what another reader finds: meshes of several pieces, and where they stand."""

    def __init__(self) -> None:
        self.scene = trimesh.Scene()
        self._pieces: dict[str, list[str]] = {}
        self._nodes = 0

    def mesh(self, key: str, pieces: Iterable[trimesh.Trimesh]) -> None:
        """A mesh by its key, unless it is there."""
        if key in self._pieces:
            return
        self._pieces[key] = []
        for number, piece in enumerate(pieces):
            name = f"{key}/{number}"
            # As the library marks pieces of one mesh when it reads them itself.
            piece.metadata["from_gltf_primitive"] = True
            self.scene.geometry[name] = piece
            self._pieces[key].append(name)

    def place(self, key: str, matrix: NDArray[np.float64]) -> None:
        """A mesh that is there stands in another place."""
        node = f"place {self._nodes}"
        self._nodes += 1
        self.scene.graph.update(node, matrix=matrix)
        for name in self._pieces[key]:
            self.scene.graph.update(f"{node} {name}", node, matrix=np.eye(4), geometry=name)


def piece_of(
    corners: NDArray[np.float64], normals: NDArray[np.float64] | None, uv: NDArray[np.float64] | None, material: str,
    picture: Any = None,
) -> trimesh.Trimesh:  # fmt: skip
    """Triangles (m, 3, 3) of a mesh with what is at their corners, in a material that may wear a picture."""
    mesh = trimesh.Trimesh(
        corners.reshape(-1, 3), np.arange(corners.shape[0] * 3).reshape(-1, 3), process=False,
        vertex_normals=None if normals is None else normals.reshape(-1, 3),
    )  # fmt: skip
    worn = trimesh.visual.material.PBRMaterial(name=material, baseColorTexture=picture)
    mesh.visual = trimesh.visual.TextureVisuals(uv=None if uv is None else uv.reshape(-1, 2), material=worn)
    return mesh


def _places(scene: trimesh.Scene) -> dict[str, list[NDArray[np.float64]]]:
    places: dict[str, list[NDArray[np.float64]]] = {}
    for node in scene.graph.nodes_geometry:
        matrix, name = scene.graph.get(node)
        places.setdefault(name, []).append(matrix)
    return places


def _count_places(whole_of: dict[str, str], places: dict[str, list[NDArray[np.float64]]]) -> int:
    """Placements of whole meshes: a mesh of several primitives stands once, not once a primitive."""
    most: dict[str, int] = {}
    for name, matrices in places.items():
        whole = whole_of[name]
        most[whole] = max(most.get(whole, 0), len(matrices))
    return sum(most.values())


def _wholes(scene: trimesh.Scene) -> dict[str, str]:
    """For each mesh of the library's the first of those that are primitives of the same mesh of the file: they stand below
    the same node. Their names do not tell: the library numbers them as anybody might."""
    parents = scene.graph.transforms.parents
    first: dict[str, str] = {}
    found: dict[str, str] = {}
    nodes = scene.graph.geometry_nodes
    for name, mesh in scene.geometry.items():
        stands = nodes.get(name, ())
        if mesh.metadata.get("from_gltf_primitive") and len(stands):
            found[name] = first.setdefault(min(str(parents[node]) for node in stands), name)
        else:
            found[name] = name
    return found


def _material(mesh: trimesh.Trimesh) -> str:
    material = getattr(mesh.visual, "material", None)
    return str(getattr(material, "name", "") or "")


#: What the library calls the pictures of a material, by our slots.
_CALLED = {
    "base colour": "baseColorTexture", "shine": "metallicRoughnessTexture", "normal": "normalTexture",
    "occlusion": "occlusionTexture", "emission": "emissiveTexture",
}  # fmt: skip


def _pictures(mesh: trimesh.Trimesh) -> Iterator[tuple[str, Any]]:
    """The pictures of its material, by slot."""
    material = getattr(mesh.visual, "material", None)
    image = getattr(material, "image", None)
    if image is not None:
        yield "base colour", image
    for slot, name in _CALLED.items():
        if getattr(material, name, None) is not None:
            yield slot, getattr(material, name)


def _means_of_uv(uv: Any, faces: Any) -> NDArray[np.float64]:
    return np.asarray(np.asarray(uv, np.float64)[:, :2][faces].mean(axis=1))


def told_pixels(picture: Any) -> str:
    """Width, height and a hash of the pixels of a decoded picture."""
    pixels = picture.convert("RGBA")
    return f"{pixels.width} × {pixels.height}, {hashlib.sha256(pixels.tobytes()).hexdigest()[:16]}"


def _shading(mesh: trimesh.Trimesh) -> NDArray[np.float64] | None:
    """The mean of the corners' normals of every triangle, where the file has any."""
    if "vertex_normals" not in mesh._cache:
        return None
    return means(mesh.vertex_normals[mesh.faces])


def _facing(corners: NDArray[np.float64], shown: NDArray[np.float64]) -> tuple[float, float]:
    """Area, and the area whose normals oppose the winding."""
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = lengths(across) / 2
    worth = area > _SLIVER * (area.mean() if len(area) else 0)
    wrong = worth & (dot(across, shown) < 0)
    return float(area.sum()), float(area[wrong].sum())


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
    # As it is now it stays: otherwise the library looks for changes at every question.
    with bare._cache:
        if bare.is_watertight and bare.is_winding_consistent:
            return True
    return count_open_edges(np.asarray(bare.faces)) == 0
