"""Packs: several meshes in one GLB that the browser loads as it is.

Positions are 32 bit floats around each mesh's own origin, which its extras
give in double precision: relative to the part, seven digits, wherever it
lies. UV lie from the lower left. What was put in settled comes out the same
to the last bit.
"""

import io
import json
import struct
from collections.abc import Collection, Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.mesh.mesh import Mesh, Runs, around
from hemp_ladder.core.ship.glb import GlbWriter

_KINDS = {5126: "<f4", 5125: "<u4", 5123: "<u2"}
_COLUMNS = {"SCALAR": 3, "VEC2": 2, "VEC3": 3, "VEC4": 4}
#: What attributes of a mesh are called in glTF, but for sets of UV.
_NAMES = {"normal": "NORMAL", "colour": "COLOR_0"}


def encode(meshes: Mapping[str, Mesh]) -> bytes:
    """One GLB with a mesh for each key; those without triangles are left out."""
    writer = GlbWriter()
    entries: list[dict[str, Any]] = []
    nodes: list[dict[str, int]] = []
    for key, mesh in meshes.items():
        if not len(mesh.triangles):
            continue
        attributes = writer.vertices(around(mesh.positions, mesh.origin), {})
        for name, values in mesh.attributes.items():
            attributes[_glb_name(name)] = writer.values(values)
        primitive = {"attributes": attributes, "indices": writer.indices(mesh.triangles, len(mesh.positions))}
        extras = {
            "key": key, "origin": mesh.origin, "figures": mesh.figures.as_dict(),
            "runs": {name: _told(runs) for name, runs in mesh.runs.items()},
        }  # fmt: skip
        nodes.append({"mesh": len(entries)})
        entries.append({"name": key, "primitives": [primitive], "extras": extras})
    writer.json["meshes"] = entries
    writer.json["nodes"] = nodes
    writer.json["scenes"] = [{"nodes": list(range(len(nodes)))}] if nodes else []
    stream = io.BytesIO()
    writer.write(stream, writer.head())
    return stream.getvalue()


def decode(data: bytes, keys: Collection[str] | None = None) -> dict[str, Mesh]:
    """The meshes of a pack that `encode` wrote, by key: all, or only those with these keys."""
    length = struct.unpack_from("<I", data, 12)[0]
    document = json.loads(data[20 : 20 + length])
    start = 20 + length + 8

    def block(accessor: int) -> NDArray[Any]:
        entry = document["accessors"][accessor]
        columns = _COLUMNS[entry["type"]]
        offset = start + document["bufferViews"][entry["bufferView"]]["byteOffset"]
        count = entry["count"] * (columns if entry["type"] != "SCALAR" else 1)
        kind = _KINDS[entry["componentType"]]
        return np.frombuffer(data, dtype=kind, count=count, offset=offset).reshape(-1, columns)

    meshes: dict[str, Mesh] = {}
    for entry in document.get("meshes", []):
        primitive, extras = entry["primitives"][0], entry["extras"]
        if keys is not None and extras["key"] not in keys:
            continue
        attributes = dict(primitive["attributes"])
        positions = block(attributes.pop("POSITION")).astype(np.float64) + np.array(extras["origin"])
        x, y, z = extras["origin"]
        meshes[extras["key"]] = Mesh(
            positions,
            block(primitive["indices"]).astype(np.int32),
            {_mesh_name(name): block(accessor) for name, accessor in attributes.items()},
            {name: _runs(told) for name, told in extras["runs"].items()},
            Figures.from_dict(extras["figures"]),
            (x, y, z),
        )
    return meshes


def _glb_name(name: str) -> str:
    return _NAMES.get(name) or f"TEXCOORD_{name.removeprefix('uv') or 0}"


def _mesh_name(name: str) -> str:
    number = name.removeprefix("TEXCOORD_")
    return {found: ours for ours, found in _NAMES.items()}.get(name) or ("uv" if number == "0" else f"uv{number}")


def _told(runs: Runs) -> dict[str, Any]:
    """Where each number has one run, in order, the numbers need not be told."""
    plain = len(runs.of) == runs.count and np.array_equal(runs.of, np.arange(runs.count))
    return {"first": runs.first.tolist(), "of": None if plain else runs.of.tolist(), "count": runs.count}


def _runs(told: dict[str, Any]) -> Runs:
    first = np.array(told["first"], dtype=np.int64)
    return Runs.each(first) if told["of"] is None else Runs(first, np.array(told["of"], np.int32), told["count"])
