"""What `pycollada`, a library that shares no code with our writer, finds in COLLADA documents."""

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import collada
import numpy as np
import trimesh
from numpy.typing import NDArray

from hemp_ladder.core.ship.format import Found
from hemp_ladder.core.ship.readback import Builder, piece_of, tally


def read_collada(paths: Sequence[Path]) -> Found:
    """All documents together. Raises whatever the library does."""
    return tally((path, _scene(path)) for path in paths)


def _scene(path: Path) -> trimesh.Scene:
    document, built = collada.Collada(str(path)), Builder()
    order = {geometry.id: number for number, geometry in enumerate(document.geometries)}
    standing = list(_standing(document.scene.nodes, np.eye(4)))
    for instance, matrix in sorted(standing, key=lambda item: order[item[0].geometry.id]):
        key = instance.geometry.id
        built.mesh(key, _pieces(instance))
        built.place(key, matrix)
    return built.scene


def _standing(nodes: Sequence[Any], within: NDArray[np.float64]) -> Iterator[tuple[Any, NDArray[np.float64]]]:
    """Every instance of a geometry, and its matrix to the whole; by hand, for trees that are deep."""
    waiting = [(node, within) for node in nodes]
    while waiting:
        node, matrix = waiting.pop()
        if isinstance(node, collada.scene.GeometryNode):
            yield node, matrix
        elif isinstance(node, collada.scene.Node):
            own = matrix @ node.matrix.astype(np.float64)
            waiting += [(child, own) for child in node.children]


def _pieces(instance: Any) -> Iterator[trimesh.Trimesh]:
    worn = {material.symbol: material.target for material in instance.materials}
    for primitive in instance.geometry.primitives:
        triangles = primitive.triangleset() if hasattr(primitive, "triangleset") else primitive
        uv = None
        if len(triangles.texcoordset):
            uv = triangles.texcoordset[0][triangles.texcoord_indexset[0]].astype(np.float64)
        normals = None if triangles.normal is None else triangles.normal[triangles.normal_index].astype(np.float64)
        material = worn[primitive.material]
        picture = getattr(material.effect.diffuse, "sampler", None)
        yield piece_of(
            triangles.vertex[triangles.vertex_index].astype(np.float64), normals, uv, material.name,
            picture.surface.image.pilimage if picture is not None else None,
        )  # fmt: skip
