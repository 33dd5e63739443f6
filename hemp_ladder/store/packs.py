"""Packs: several meshes in one GLB that the browser loads as it is.

Positions are 32 bit floats around each mesh's own middle, which its extras
give in double precision: relative to the part, seven digits, wherever it lies.
"""

import io
import json
import struct
from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh import Mesh
from hemp_ladder.core.ship.glb import GlbWriter


def encode(meshes: Mapping[str, Mesh]) -> bytes:
    """One GLB with a mesh for each key; those without triangles are left out."""
    writer = GlbWriter()
    entries: list[dict[str, Any]] = []
    nodes: list[dict[str, int]] = []
    for key, mesh in meshes.items():
        if not len(mesh.triangles):
            continue
        low, high = mesh.positions.min(axis=0), mesh.positions.max(axis=0)
        middle = (low + high) / 2
        primitive = {
            "attributes": writer.vertices(mesh.positions - middle, mesh.normals),
            "indices": writer.indices(mesh.triangles, len(mesh.positions)),
        }
        extras = {
            "key": key, "origin": middle.tolist(), "faces": mesh.faces.tolist(),
            "off_by": mesh.off_by, "failed": list(mesh.failed), "healed": mesh.healed, "thin": [list(p) for p in mesh.thin],
        }  # fmt: skip
        nodes.append({"mesh": len(entries)})
        entries.append({"name": key, "primitives": [primitive], "extras": extras})
    writer.json["meshes"] = entries
    writer.json["nodes"] = nodes
    writer.json["scenes"] = [{"nodes": list(range(len(nodes)))}] if nodes else []
    stream = io.BytesIO()
    writer.write(stream)
    return stream.getvalue()


def decode(data: bytes) -> dict[str, Mesh]:
    """The meshes of a pack that `encode` wrote, by key."""
    length = struct.unpack_from("<I", data, 12)[0]
    document = json.loads(data[20 : 20 + length])
    start = 20 + length + 8

    def block(accessor: int, columns: int) -> NDArray[Any]:
        entry = document["accessors"][accessor]
        kind = {5126: "<f4", 5125: "<u4", 5123: "<u2"}[entry["componentType"]]
        offset = start + document["bufferViews"][entry["bufferView"]]["byteOffset"]
        count = entry["count"] * (columns if entry["type"] != "SCALAR" else 1)
        return np.frombuffer(data, dtype=kind, count=count, offset=offset).reshape(-1, columns)

    meshes: dict[str, Mesh] = {}
    for entry in document.get("meshes", []):
        primitive, extras = entry["primitives"][0], entry["extras"]
        meshes[extras["key"]] = Mesh(
            block(primitive["attributes"]["POSITION"], 3).astype(np.float64) + np.array(extras["origin"]),
            block(primitive["attributes"]["NORMAL"], 3),
            block(primitive["indices"], 3).astype(np.int32),
            np.array(extras["faces"], dtype=np.int64),
            extras["off_by"], tuple(extras["failed"]), extras["healed"],
            tuple((x, y, width) for x, y, width in extras.get("thin", ())),
        )  # fmt: skip
    return meshes
