"""Binary glTF 2.0: instances kept as nodes that share a mesh."""

import json
import struct
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.ship.names import label
from hemp_ladder.core.ship.scene import Scene, Surface
from hemp_ladder.core.sort.library import Material, find

_FLOAT, _UINT, _USHORT = 5126, 5125, 5123
_VERTICES, _INDICES = 34962, 34963


class GlbWriter:
    """Collects buffers and writes one GLB (glTF 2.0 section 4.4: 12 byte header, JSON, BIN)."""

    def __init__(self) -> None:
        self.json: dict[str, Any] = {
            "asset": {"version": "2.0", "generator": "Hemp Ladder"},
            "bufferViews": [],
            "accessors": [],
        }
        self._chunks: list[bytes] = []
        self._length = 0

    def accessor(self, values: NDArray[Any], kind: str, component: int, target: int, limits: bool = False) -> int:
        """Add a block of values; returns the number of its accessor."""
        data = np.ascontiguousarray(values).tobytes()
        self.json["bufferViews"].append(
            {"buffer": 0, "byteOffset": self._length, "byteLength": len(data), "target": target}
        )
        pad = -len(data) % 4
        self._chunks.append(data + b"\0" * pad)
        self._length += len(data) + pad
        entry: dict[str, Any] = {
            "bufferView": len(self.json["bufferViews"]) - 1,
            "componentType": component,
            "count": len(values) if kind != "SCALAR" else values.size,
            "type": kind,
        }
        if limits:
            entry["min"] = [float(v) for v in values.min(axis=0)]
            entry["max"] = [float(v) for v in values.max(axis=0)]
        self.json["accessors"].append(entry)
        return len(self.json["accessors"]) - 1

    def vertices(self, positions: NDArray[np.float64], normals: NDArray[np.float32]) -> dict[str, int]:
        """The POSITION and NORMAL attributes of a primitive."""
        return {
            "POSITION": self.accessor(positions.astype("<f4"), "VEC3", _FLOAT, _VERTICES, limits=True),
            "NORMAL": self.accessor(unit_normals(normals), "VEC3", _FLOAT, _VERTICES),
        }

    def indices(self, triangles: NDArray[np.int32], vertices: int) -> int:
        """Indices in the narrowest type that holds them; 65,535 itself restarts strips, so it is not used."""
        narrow = vertices < 65_535
        values = triangles.astype("<u2" if narrow else "<u4").reshape(-1)
        return self.accessor(values, "SCALAR", _USHORT if narrow else _UINT, _INDICES)

    def write(self, file: BinaryIO) -> None:
        document = dict(self.json)
        if self._length:
            document["buffers"] = [{"byteLength": self._length}]
        document = {key: value for key, value in document.items() if value != []}
        text = json.dumps(document, separators=(",", ":"), ensure_ascii=False).encode()
        text += b" " * (-len(text) % 4)
        total = 12 + 8 + len(text) + (8 + self._length if self._length else 0)
        file.write(struct.pack("<4sII", b"glTF", 2, total))
        file.write(struct.pack("<I4s", len(text), b"JSON") + text)
        if self._length:
            file.write(struct.pack("<I4s", self._length, b"BIN\0"))
            for chunk in self._chunks:
                file.write(chunk)


def unit_normals(normals: NDArray[np.float32]) -> NDArray[np.float32]:
    """Normals of length one; where there is none, +Z, since the standard forbids a zero."""
    length = np.linalg.norm(normals, axis=1, keepdims=True)
    out = np.divide(normals, length, out=np.zeros_like(normals), where=length > 1e-12)
    out[length[:, 0] <= 1e-12] = (0, 0, 1)
    return np.asarray(out, dtype="<f4")


def write_glb(scene: Scene, path: Path) -> list[Path]:
    """Write the scene as one GLB."""
    writer = GlbWriter()
    numbers = {id_: number for number, id_ in enumerate(scene.materials)}
    writer.json["materials"] = [_material(find(id_)) for id_ in scene.materials]
    attributes: dict[str, dict[str, int]] = {}
    runs: dict[tuple[str, bytes], int] = {}
    taken: set[str] = set()
    meshes = []
    for surface in scene.surfaces:
        meshes.append(_mesh(writer, surface, numbers, attributes, runs, taken))
    writer.json["meshes"] = meshes
    names: set[str] = set()
    nodes: list[dict[str, Any]] = []
    for place in scene.places:
        node: dict[str, Any] = {"name": label(place.name, names)}
        matrix = place.matrix
        if place.surface >= 0:
            node["mesh"] = place.surface
            matrix = matrix.copy()
            matrix[:3, 3] += matrix[:3, :3] @ scene.surfaces[place.surface].origin
        if not np.array_equal(matrix, np.eye(4)):
            node["matrix"] = [float(v) for v in matrix.T.reshape(-1)]
        nodes.append(node)
        if place.parent >= 0:
            nodes[place.parent].setdefault("children", []).append(len(nodes) - 1)
    writer.json["nodes"] = nodes
    roots = [number for number, place in enumerate(scene.places) if place.parent < 0]
    writer.json["scenes"] = [{"nodes": roots}]
    writer.json["scene"] = 0
    with path.open("wb") as file:
        writer.write(file)
    return [path]


def _mesh(
    writer: GlbWriter,
    surface: Surface,
    numbers: dict[str, int],
    attributes: dict[str, dict[str, int]],
    runs: dict[tuple[str, bytes], int],
    taken: set[str],
) -> dict[str, Any]:
    """One mesh; geometry that another mesh wears in other materials is stored once."""
    if surface.geometry not in attributes:
        attributes[surface.geometry] = writer.vertices(surface.positions, surface.normals)
    primitives = []
    for material, triangles in surface.runs:
        case = (surface.geometry, triangles.tobytes())
        if case not in runs:
            runs[case] = writer.indices(triangles, len(surface.positions))
        primitives.append(
            {"attributes": attributes[surface.geometry], "indices": runs[case], "material": numbers[material]}
        )
    return {"name": label(surface.name, taken), "primitives": primitives}


def _material(material: Material) -> dict[str, Any]:
    red, green, blue = material.colour.linear
    entry: dict[str, Any] = {
        "name": material.name,
        "pbrMetallicRoughness": {
            "baseColorFactor": [red, green, blue, material.colour.alpha],
            "metallicFactor": material.metalness,
            "roughnessFactor": material.roughness,
        },
    }
    if material.colour.alpha < 1:
        entry["alphaMode"] = "BLEND"
    return entry
