"""Materials and pictures of a glTF document (glTF 2.0, 3.8 and 3.9, and its ratified extensions)."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from hemp_ladder.core.model.colour import BLACK, WHITE, Colour
from hemp_ladder.core.model.finish import Finish
from hemp_ladder.core.ship.dressing import Applied
from hemp_ladder.core.ship.scene import Scene
from hemp_ladder.core.units import UNITS

_PNG = b"\x89PNG"
_MODES = {"opaque": "OPAQUE", "cut-out": "MASK", "blended": "BLEND"}


class GltfLook:
    """Writes looks into a document. `block` stores bytes in it and gives the number of their view."""

    def __init__(self, document: dict[str, Any], scene: Scene, block: Callable[[bytes], int]) -> None:
        self._document, self._scene, self._block = document, scene, block
        self._numbers: dict[str, int] = {}
        self._used: set[str] = set()

    def pictures(self, path: Path) -> list[Path]:
        """Put the scene's pictures into the document, or beside it; the files that were written."""
        if not self._scene.pictures:
            return []
        self._document["samplers"] = [{"magFilter": 9729, "minFilter": 9987, "wrapS": 10497, "wrapT": 10497}]
        images: list[dict[str, Any]] = []
        files: list[Path] = []
        for sha256, data in self._scene.pictures.items():
            png = data.startswith(_PNG)
            if self._scene.beside:
                files.append(picture_file(path, len(images) + 1, data))
                files[-1].write_bytes(data)
                images.append({"uri": files[-1].name})
            else:
                images.append({"bufferView": self._block(data), "mimeType": "image/png" if png else "image/jpeg"})
            self._numbers[sha256] = len(self._numbers)
        self._document["images"] = images
        self._document["textures"] = [{"source": number, "sampler": 0} for number in range(len(images))]
        return files

    def material(self, name: str, id_: str) -> dict[str, Any]:
        """A material's entry."""
        finish, worn = self._scene.materials[id_].finish, self._scene.worn.get(id_, {})
        shine: dict[str, Any] = {
            "baseColorFactor": [*finish.colour.linear, 1.0 if finish.opacity_mode == "opaque" else finish.colour.alpha],
            "metallicFactor": finish.metalness,
            "roughnessFactor": finish.roughness,
        }
        entry: dict[str, Any] = {"name": name, "pbrMetallicRoughness": shine}
        if "base colour" in worn:
            shine["baseColorTexture"] = self._texture(worn["base colour"])
        if "shine" in worn:
            shine["metallicRoughnessTexture"] = self._texture(worn["shine"])
        if "normal" in worn:
            entry["normalTexture"] = {**self._texture(worn["normal"]), "scale": finish.normal}
        if "occlusion" in worn:
            entry["occlusionTexture"] = {**self._texture(worn["occlusion"]), "strength": finish.occlusion}
        if "emission" in worn:
            entry["emissiveTexture"] = self._texture(worn["emission"])
        if finish.emission != BLACK:
            entry["emissiveFactor"] = list(finish.emission.linear)
        if finish.opacity_mode != "opaque":
            entry["alphaMode"] = _MODES[finish.opacity_mode]
        if finish.opacity_mode == "cut-out":
            entry["alphaCutoff"] = finish.cutoff
        if finish.both_sides:
            entry["doubleSided"] = True
        more = self._extensions(finish, worn.get("transmission"))
        if more:
            entry["extensions"] = more
            self._used |= more.keys()
        return entry

    def _extensions(self, finish: Finish, transmission: Applied | None) -> dict[str, Any]:
        """Those whose values differ from what stands where they are left out."""
        told: dict[str, Any] = {}
        if finish.unlit:
            return {"KHR_materials_unlit": {}}
        if finish.light != 1 and finish.emission != BLACK:
            told["KHR_materials_emissive_strength"] = {"emissiveStrength": finish.light}
        if finish.transmission:
            told["KHR_materials_transmission"] = {"transmissionFactor": finish.transmission}
            if transmission:
                told["KHR_materials_transmission"]["transmissionTexture"] = self._texture(transmission)
        if finish.ior != 1.5:
            told["KHR_materials_ior"] = {"ior": finish.ior}
        if finish.thickness:
            unit = float(UNITS[self._scene.unit].metres)
            told["KHR_materials_volume"] = {
                "thicknessFactor": finish.thickness / unit, "attenuationColor": list(finish.tint.linear),
                **({"attenuationDistance": finish.tint_distance / unit} if finish.tint_distance else {}),
            }  # fmt: skip
        if finish.specular != 1 or finish.specular_tint != WHITE:
            told["KHR_materials_specular"] = {
                "specularFactor": finish.specular, "specularColorFactor": _linear(finish.specular_tint),
            }  # fmt: skip
        if finish.coat:
            told["KHR_materials_clearcoat"] = {
                "clearcoatFactor": finish.coat, "clearcoatRoughnessFactor": finish.coat_roughness,
            }  # fmt: skip
        if finish.sheen != BLACK:
            told["KHR_materials_sheen"] = {
                "sheenColorFactor": _linear(finish.sheen), "sheenRoughnessFactor": finish.sheen_roughness,
            }  # fmt: skip
        return told

    def _texture(self, worn: Applied) -> dict[str, Any]:
        told: dict[str, Any] = {"index": self._numbers[worn.picture]}
        if worn.uv:
            told["texCoord"] = worn.uv
        moved = {
            name: value
            for name, value, start in (
                ("offset", list(worn.offset), [0.0, 0.0]), ("rotation", worn.turn, 0.0), ("scale", list(worn.scale), [1.0, 1.0]),
            )
            if value != start
        }  # fmt: skip
        if moved:
            told["extensions"] = {"KHR_texture_transform": moved}
            self._used.add("KHR_texture_transform")
        return told

    def close(self) -> None:
        """Name the extensions that were used."""
        if self._used:
            self._document["extensionsUsed"] = sorted(self._used)


def picture_file(path: Path, number: int, data: bytes) -> Path:
    """What a picture beside a file is called."""
    return path.with_name(f"{path.stem}-picture-{number}{'.png' if data.startswith(_PNG) else '.jpg'}")


def _linear(colour: Colour) -> list[float]:
    return list(colour.linear)
