"""Binary glTF 2.0: instances kept as nodes that share a mesh."""

import json
import struct
from collections.abc import Sequence
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.mesh.mesh import unit_normals
from hemp_ladder.core.ship.format import Format, Found, Weight, Written
from hemp_ladder.core.ship.gltf_look import GltfLook
from hemp_ladder.core.ship.gltf_validator import load_early, validate
from hemp_ladder.core.ship.names import label
from hemp_ladder.core.ship.scene import Attributes, Scene, Surface

#: Lengths in the container are 32 bit numbers (glTF 2.0 section 4.4).
_MOST_BYTES = (1 << 32) - 1
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

    def block(self, data: bytes) -> int:
        """Add bytes as they are; returns the number of their view."""
        self.json["bufferViews"].append({"buffer": 0, "byteOffset": self._length, "byteLength": len(data)})
        pad = -len(data) % 4
        self._chunks.append(data + b"\0" * pad)
        self._length += len(data) + pad
        return len(self.json["bufferViews"]) - 1

    def vertices(self, positions: NDArray[np.floating], attributes: Attributes) -> dict[str, int]:
        """The attributes of a primitive. UV turn over: glTF's lie from the upper left."""
        told = {"POSITION": self.accessor(positions.astype("<f4"), "VEC3", _FLOAT, _VERTICES, limits=True)}
        for name, values in attributes.items():
            if name == "normal":
                told["NORMAL"] = self.values(unit_normals(values))
            elif name == "colour":
                told["COLOR_0"] = self.values(values)
            elif name.startswith("uv"):
                told[f"TEXCOORD_{name[2:] or 0}"] = self.values(np.column_stack([values[:, 0], 1 - values[:, 1]]))
        return told

    def values(self, values: NDArray[np.float32]) -> int:
        """Rows of two, three or four numbers as they are; returns the number of their accessor."""
        return self.accessor(values.astype("<f4"), f"VEC{values.shape[1]}", _FLOAT, _VERTICES)

    def indices(self, triangles: NDArray[np.int32], vertices: int) -> int:
        """Indices in the narrowest type that holds them; 65,535 itself restarts strips, so it is not used."""
        narrow = vertices < 65_535
        values = triangles.astype("<u2" if narrow else "<u4").reshape(-1)
        return self.accessor(values, "SCALAR", _USHORT if narrow else _UINT, _INDICES)

    def head(self) -> bytes:
        """All before the binary chunk's values. Raises SettingsError where the whole is too large for a GLB."""
        document = dict(self.json)
        if self._length:
            document["buffers"] = [{"byteLength": self._length}]
        document = {key: value for key, value in document.items() if value != []}
        text = json.dumps(document, separators=(",", ":"), ensure_ascii=False).encode()
        text += b" " * (-len(text) % 4)
        total = 12 + 8 + len(text) + (8 + self._length if self._length else 0)
        if total > _MOST_BYTES:
            raise SettingsError(
                f"It would be a GLB of {total / 1e9:,.1f} GB; the format ends at 4.2 GB.",
                "Take a larger chord error, leave parts out, or split what is shipped.",
            )
        head = struct.pack("<4sII", b"glTF", 2, total) + struct.pack("<I4s", len(text), b"JSON") + text
        return head + struct.pack("<I4s", self._length, b"BIN\0") if self._length else head

    def write(self, file: BinaryIO, head: bytes) -> None:
        """Write what `head` gave and the values behind it."""
        file.write(head)
        for chunk in self._chunks:
            file.write(chunk)


def write_glb(scene: Scene, path: Path) -> Written:
    """Write the scene as one GLB. Raises SettingsError when it does not fit into one."""
    writer = GlbWriter()
    if any(scene.offset):
        writer.json["asset"]["extras"] = {"offset": list(scene.offset)}
    taken: set[str] = set()
    called = {id_: label(material.name, taken) for id_, material in scene.materials.items()}
    numbers = {id_: number for number, id_ in enumerate(called)}
    look = GltfLook(writer.json, scene, writer.block)
    beside = look.pictures(path)
    writer.json["materials"] = [look.material(called[id_], id_) for id_ in scene.materials]
    look.close()
    writer.json["meshes"] = _Meshes(writer, numbers).all(scene.surfaces)
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
    head = writer.head()
    with path.open("wb") as file:
        writer.write(file, head)
    return Written([path, *beside], called)


class _Meshes:
    """Meshes of a document; geometry that another mesh wears in other materials is stored once."""

    def __init__(self, writer: GlbWriter, materials: dict[str, int]) -> None:
        self._writer, self._materials = writer, materials
        self._vertices: dict[str, dict[str, int]] = {}
        self._indices: dict[tuple[str, bytes], int] = {}

    def all(self, surfaces: Sequence[Surface]) -> list[dict[str, Any]]:
        taken: set[str] = set()
        return [{"name": label(item.name, taken), "primitives": list(self._primitives(item))} for item in surfaces]

    def _primitives(self, surface: Surface) -> list[dict[str, Any]]:
        if surface.geometry not in self._vertices:
            self._vertices[surface.geometry] = self._writer.vertices(surface.positions, surface.attributes)
        told = []
        for material, triangles in surface.runs:
            case = (surface.geometry, triangles.tobytes())
            if case not in self._indices:
                self._indices[case] = self._writer.indices(triangles, len(surface.positions))
            told.append(
                {
                    "attributes": self._vertices[surface.geometry],
                    "indices": self._indices[case],
                    "material": self._materials[material],
                }
            )
        return told


def _proof(paths: Sequence[Path]) -> Found:
    from hemp_ladder.core.ship.readback import read_scenes

    return read_scenes([path for path in paths if path.suffix == ".glb"])


def _noted(path: Path) -> tuple[float, ...] | None:
    with path.open("rb") as file:
        file.seek(12)
        (length,) = struct.unpack("<I", file.read(4))
        file.seek(20)
        told = json.loads(file.read(length))["asset"].get("extras", {}).get("offset")
    return tuple(told) if told else None


#: glTF 2.0 section 3.4 fixes metres and +Y.
def _weighs(weight: Weight) -> int:
    """Position, normal and UV of each vertex once; indices of two bytes, four in the few large meshes; a node each place."""
    vertices, triangles = weight.own
    return vertices * (32 if weight.uv else 24) + 7 * triangles + 120 * weight.placements + 1500


FORMAT = Format(
    code="glb", name="GLB", suffix=".glb", unit="m", up="y", group="part",
    carries=frozenset({"instances", "objects", "materials", "normals", "uv", "colours", "pictures"}),
    write=write_glb, proof=_proof, validate=validate, load_early=load_early, inside=True, joint=True, moves=True,
    shows=frozenset({"base colour", "shine", "normal", "occlusion", "emission"}), noted=_noted, right_handed=True,
    weighs=_weighs,
)  # fmt: skip
