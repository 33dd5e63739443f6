"""Reading glTF 2.0: the tree with its instances, meshes with all that hangs on them, metallic-roughness materials."""

import json
import struct
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import clip, finding, plural
from hemp_ladder.core.model.labels import unique_label
from hemp_ladder.core.model.model import Matrix, Model
from hemp_ladder.core.receive.gltf import MOST_JSON
from hemp_ladder.core.receive.gltf.arrays import Arrays, damaged
from hemp_ladder.core.receive.gltf.materials import Materials
from hemp_ladder.core.receive.gltf.values import as_dict, as_list
from hemp_ladder.core.receive.gltf.values import number as number_of
from hemp_ladder.core.receive.meshed.parts import Builder, Polygons
from hemp_ladder.core.receive.meshed.polygons import strips
from hemp_ladder.core.receive.report import Report

#: Extensions that may be required: those that change nothing of what is read here, and those that are read.
_KNOWN = {
    "KHR_mesh_quantization", "KHR_texture_transform", "KHR_materials_unlit", "KHR_materials_ior", "KHR_materials_specular",
    "KHR_materials_transmission", "KHR_materials_volume", "KHR_materials_clearcoat", "KHR_materials_sheen",
    "KHR_materials_emissive_strength", "KHR_materials_pbrSpecularGlossiness", "KHR_lights_punctual", "KHR_xmp_json_ld", "EXT_texture_webp", "KHR_draco_mesh_compression",
    "EXT_meshopt_compression", "EXT_mesh_gpu_instancing",
}  # fmt: skip
#: What the properties of instances are called at nodes.
_OF_NODES = {"TRANSLATION": "translation", "ROTATION": "rotation", "SCALE": "scale"}
#: Nodes of a tree, levels of it, and placements of meshes that are taken.
_MOST_NODES, _DEEPEST = 1_000_000, 2_000


def read_gltf(path: Path, report: Report) -> Model:
    """The model in a glTF or GLB file, in metres and Y up as the standard fixes.

    Raises UnreadableSource for what is damaged, of another version, or needs an extension that is not read.
    """
    report.stage("reading", 0)
    document, binary = _open(path)
    asset = as_dict(document.get("asset"))
    version = str(asset.get("version", ""))
    if not version.startswith("2"):
        raise UnreadableSource(
            f"It is glTF {clip(version, 12) or 'of an unknown version'}; version 2 is read here.", "Ask for glTF 2.0."
        )
    unknown = [str(name) for name in as_list(document.get("extensionsRequired")) if name not in _KNOWN]
    if unknown:
        raise UnreadableSource(
            f"It needs the extension {clip(', '.join(unknown), 120)}, which is not read here.",
            "Ask for an export without it.",
        )
    report.stage("translating", 0)
    walk = _Walk(document, Arrays(document, binary, path.parent), Builder(report, path), path.stem)
    walk.all()
    writer = str(asset.get("generator", ""))[:80]
    return walk.builder.model("glTF", Fraction(1), "m", "y", schema=version[:12], writer=writer)


def _open(path: Path) -> tuple[dict[str, Any], bytes]:
    """The document, and the binary chunk behind it (glTF 2.0, 4.4)."""
    data = path.read_bytes()
    text, binary = data, b""
    if data[:4] == b"glTF":
        if len(data) < 20:
            raise damaged("it ends in its header")
        if struct.unpack_from("<I", data, 4)[0] != 2:
            raise UnreadableSource("It is a GLB of another version than 2.", "Ask for glTF 2.0.")
        length = struct.unpack_from("<I", data, 12)[0]
        text = data[20 : 20 + length]
        behind = 20 + length
        if behind + 8 <= len(data):
            binary = data[behind + 8 : behind + 8 + struct.unpack_from("<I", data, behind)[0]]
    if len(text) > MOST_JSON:
        raise damaged("its description is too long")
    try:
        document = json.loads(text.decode("utf-8-sig"))
    except (ValueError, RecursionError) as error:
        raise damaged("its description is no JSON") from error
    if not isinstance(document, dict):
        raise damaged("its description is no object")
    return document, binary


class _Walk:
    def __init__(self, document: dict[str, Any], arrays: Arrays, builder: Builder, name: str) -> None:
        self._document, self._arrays, self.builder, self._name = document, arrays, builder, name
        self._nodes = [as_dict(node) for node in as_list(document.get("nodes"))]
        self._meshes = [as_dict(mesh) for mesh in as_list(document.get("meshes"))]
        self._parts: dict[int, int | None] = {}
        self._materials: list[str | None] = []
        self._seen: set[int] = set()
        self._moving = 0

    def all(self) -> None:
        self._dress()
        for kind, table in (("animation", "animations"), ("skin", "skins")):
            self.builder.leave(kind, len(as_list(self._document.get(table))))
        for root in self._roots():
            self._visit(root)
        if self._moving:
            message = f"{plural(self._moving, 'mesh', 'meshes')} can be posed or change shape; they come in at rest."
            self.builder.findings.append(finding("at-rest", self._name, message))

    def _roots(self) -> list[int]:
        """Of the scene to be shown; where there is none, of all that stands below nothing."""
        scenes = [as_dict(scene) for scene in as_list(self._document.get("scenes"))]
        number = self._document.get("scene", 0)
        if scenes and isinstance(number, int) and 0 <= number < len(scenes):
            return [n for n in as_list(scenes[number].get("nodes")) if isinstance(n, int)]
        below = {child for node in self._nodes for child in as_list(node.get("children"))}
        return [n for n in range(len(self._nodes)) if n not in below]

    def _visit(self, root: int) -> None:
        """The tree below a root. A node that is reached twice, as in a circle, is damage (3.5.2: strict trees)."""
        stack = [(root, -1, 0)]
        while stack:
            number, above, depth = stack.pop()
            if not 0 <= number < len(self._nodes):
                raise damaged("a node refers to one that is not there")
            if number in self._seen or depth > _DEEPEST or len(self.builder.nodes) > _MOST_NODES:
                raise damaged("its tree goes in a circle or has no end")
            self._seen.add(number)
            node = self._nodes[number]
            mesh = node.get("mesh")
            part = self._part(mesh) if isinstance(mesh, int) else None
            more = as_dict(node.get("extensions"))
            self.builder.leave("light", int("light" in as_dict(more.get("KHR_lights_punctual"))))
            label = self.builder.parts[part].label if part is not None else ""
            copies = as_dict(more.get("EXT_mesh_gpu_instancing")) if part is not None else {}
            here = self.builder.node(
                str(node.get("name") or label or "group")[:500], above, None if copies else part, _local(node)
            )
            for local in self._instances(copies) if copies else ():
                self.builder.node(label, here, part, local)
            self._camera(node, here)
            self._sun(as_dict(more.get("KHR_lights_punctual")).get("light"), here)
            children = [child for child in as_list(node.get("children")) if isinstance(child, int)]
            stack += [(child, here, depth + 1) for child in reversed(children)]

    def _instances(self, copies: dict[str, Any]) -> Iterator[Matrix]:
        """The placements of a mesh that stands many times at one node (EXT_mesh_gpu_instancing)."""
        told = as_dict(copies.get("attributes"))
        values = {
            name: self._arrays.accessor(told[name]).astype(np.float64)
            for name in ("TRANSLATION", "ROTATION", "SCALE")
            if name in told
        }
        count = min((len(held) for held in values.values()), default=0)
        if count + len(self.builder.nodes) > _MOST_NODES:
            raise damaged("its tree goes in a circle or has no end")
        for at in range(count):
            yield _local({_OF_NODES[name]: held[at].tolist() for name, held in values.items()})

    def _camera(self, node: dict[str, Any], here: int) -> None:
        """A camera that stands at a node, as a lookout (3.10)."""
        cameras, number = as_list(self._document.get("cameras")), node.get("camera")
        if not isinstance(number, int) or not 0 <= number < len(cameras):
            return
        camera = as_dict(cameras[number])
        name = str(node.get("name") or camera.get("name") or f"Camera {number + 1}")
        eye, flat = as_dict(camera.get("perspective")), as_dict(camera.get("orthographic"))
        if eye:
            tall, wide = number_of(eye.get("yfov"), 0.7, most=3.1), number_of(eye.get("aspectRatio"), 0.0, most=100.0)
            self.builder.lookout(name, here, tall=tall or 0.7, wide=wide)
        else:
            across, reach = (number_of(flat.get(key), 1.0, most=1e9) for key in ("xmag", "ymag"))
            self.builder.lookout(name, here, wide=across / reach if reach else 0.0, reach=2 * reach)

    def _sun(self, number: Any, here: int) -> None:
        """A directional light goes along -Z (KHR_lights_punctual)."""
        told = as_dict(as_dict(self._document.get("extensions")).get("KHR_lights_punctual"))
        lights = as_list(told.get("lights"))
        if (
            isinstance(number, int)
            and 0 <= number < len(lights)
            and as_dict(lights[number]).get("type") == "directional"
        ):
            self.builder.sun(here)

    def _dress(self) -> None:
        taken: set[str] = set()
        materials = Materials(self._document, self._arrays, self.builder)
        for number, entry in enumerate(as_list(self._document.get("materials"))):
            name = unique_label(str(as_dict(entry).get("name") or f"Material {number + 1}")[:200], taken)
            materials.add(name, as_dict(entry))
            self._materials.append(name)

    def _part(self, number: int) -> int | None:
        if number not in self._parts:
            if not 0 <= number < len(self._meshes):
                raise damaged("a node refers to a mesh that is not there")
            mesh = self._meshes[number]
            self._parts[number] = self.builder.part(str(mesh.get("name") or "")[:500], self._mesh(mesh))
        return self._parts[number]

    def _mesh(self, mesh: dict[str, Any]) -> Polygons:
        """All primitives of a mesh as one part, each a group."""
        spots: list[NDArray[np.float64]] = []
        corners, groups, hung = [], [], []
        start = 0
        for entry in map(as_dict, as_list(mesh.get("primitives"))):
            attributes = as_dict(entry.get("attributes"))
            mode = entry.get("mode", 4)
            if mode not in (4, 5, 6) or "POSITION" not in attributes:
                self.builder.leave("point" if mode == 0 else "curve")
                continue
            self._moving += int(bool(entry.get("targets")) or "JOINTS_0" in attributes)
            values, own = self._values(entry, attributes, mode)
            positions = _columns(values["POSITION"], 3).astype(np.float64)
            count = len(positions)
            corners.append(np.where(own < count, own + start, -1))
            material = entry.get("material")
            worn = material + 1 if isinstance(material, int) and 0 <= material < len(self._materials) else 0
            groups.append(np.full(len(own), worn))
            spots.append(positions)
            hung.append(self._hung(values, count))
            start += count
        if not spots:
            return Polygons(np.zeros((0, 3)), np.zeros((0, 3), np.int64))
        shared = [name for name in hung[0] if all(name in item for item in hung)]
        return Polygons(
            np.concatenate(spots), np.concatenate(corners),
            {name: np.concatenate([item[name] for item in hung]) for name in shared},
            np.concatenate(groups), [None, *self._materials],
        )  # fmt: skip

    def _values(
        self, entry: dict[str, Any], attributes: dict[str, Any], mode: int
    ) -> tuple[dict[str, NDArray[Any]], NDArray[np.int64]]:
        """What hangs on the points of a primitive, by name, and its triangles."""
        packed = as_dict(as_dict(entry.get("extensions")).get("KHR_draco_mesh_compression"))
        if packed:
            own, found = self._arrays.draco(packed)
            values = {
                name: self._arrays.scaled(attributes[name], held) for name, held in found.items() if name in attributes
            }
            if "POSITION" in values:
                return values, own
        values = {
            name: self._arrays.accessor(number)
            for name, number in attributes.items()
            if name in ("POSITION", "NORMAL", "COLOR_0") or name.startswith("TEXCOORD_")
        }
        count = len(values["POSITION"])
        index = np.arange(count) if "indices" not in entry else self._arrays.accessor(entry["indices"])[:, 0]
        index = index.astype(np.int64)
        return values, index[: len(index) // 3 * 3].reshape(-1, 3) if mode == 4 else strips(index, mode == 6)

    def _hung(self, values: dict[str, NDArray[Any]], count: int) -> dict[str, NDArray[np.float32]]:
        """Normals, UV sets and colours. UV turn over: glTF's lie from the upper left."""
        found: dict[str, NDArray[np.float32]] = {}
        if "NORMAL" in values:
            found["normal"] = _columns(values["NORMAL"], 3).astype(np.float32)
        for number in range(8):
            if f"TEXCOORD_{number}" not in values:
                break
            uv = _columns(values[f"TEXCOORD_{number}"], 2).astype(np.float32)
            found[f"uv{number or ''}"] = np.column_stack([uv[:, 0], 1 - uv[:, 1]]).astype(np.float32)
        if "COLOR_0" in values:
            colour = values["COLOR_0"].astype(np.float32)
            opaque = np.ones((len(colour), 1), np.float32)
            found["colour"] = colour[:, :4] if colour.shape[1] >= 4 else np.hstack([_columns(colour, 3), opaque])
        if any(len(held) != count for held in found.values()):
            raise damaged("a mesh has more of one thing than of another")
        return found


def _columns(values: NDArray[Any], count: int) -> NDArray[Any]:
    if values.shape[1] < count:
        raise damaged("a mesh has too few numbers at its corners")
    return values[:, :count]


def _local(node: dict[str, Any]) -> Matrix:
    """A node's matrix, given whole by columns or as move, turn and scale (3.5.3)."""
    try:
        if "matrix" in node:
            return np.array(node["matrix"], dtype=np.float64).reshape(4, 4).T
        x, y, z, w = np.array(node.get("rotation", [0, 0, 0, 1]), dtype=np.float64)
        length = float(np.sqrt(x * x + y * y + z * z + w * w)) or 1.0
        x, y, z, w = x / length, y / length, z / length, w / length
        turn = np.array(
            [
                [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
                [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
                [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
            ]
        )
        local = np.eye(4)
        local[:3, :3] = turn * np.array(node.get("scale", [1, 1, 1]), dtype=np.float64)
        local[:3, 3] = np.array(node.get("translation", [0, 0, 0]), dtype=np.float64)
    except (ValueError, TypeError) as error:
        raise damaged("a node stands nowhere") from error
    if not np.isfinite(local).all():
        raise damaged("a node stands nowhere")
    return local
