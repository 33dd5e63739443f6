"""Materials of a glTF document: metallic-roughness (glTF 2.0, 3.9), and the extensions that matter to a still picture."""

import math
from collections.abc import Mapping
from typing import Any

from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.finish import Channel, Finish, Map, Mode, Slot
from hemp_ladder.core.receive.gltf.arrays import Arrays
from hemp_ladder.core.receive.gltf.values import as_dict, as_list, number, vector
from hemp_ladder.core.receive.meshed.colours import from_specular
from hemp_ladder.core.receive.meshed.parts import Builder

_MODES: dict[str, Mode] = {"OPAQUE": "opaque", "MASK": "cut-out", "BLEND": "blended"}


#: Extensions whose pictures there is no slot for.
_PLAIN = {
    "KHR_materials_clearcoat": "coat", "KHR_materials_sheen": "sheen", "KHR_materials_specular": "reflection",
    "KHR_materials_volume": "thickness",
}  # fmt: skip


class Materials:
    """Gives a builder the looks of a document's materials, with the pictures they wear."""

    def __init__(self, document: Mapping[str, Any], arrays: Arrays, builder: Builder) -> None:
        self._textures = as_list(document.get("textures"))
        self._arrays, self._builder = arrays, builder

    def add(self, name: str, entry: Mapping[str, Any]) -> None:
        more = as_dict(entry.get("extensions"))
        shine = as_dict(entry.get("pbrMetallicRoughness"))
        glossy = as_dict(more.get("KHR_materials_pbrSpecularGlossiness"))
        self._builder.look(name, _finish(entry, shine, more) if not glossy else _glossy(entry, glossy))
        transmission = as_dict(more.get("KHR_materials_transmission"))
        wanted: list[tuple[Slot, Any, Channel, bool]] = [
            ("normal", entry.get("normalTexture"), "rgb", False),
            ("occlusion", entry.get("occlusionTexture"), "r", False),
            ("emission", entry.get("emissiveTexture"), "rgb", False),
            ("transmission", transmission.get("transmissionTexture"), "r", False),
        ]
        if glossy:
            # Its second picture has the colour of reflection, which there is no slot for, and gloss in its opacity.
            wanted += [
                ("base colour", glossy.get("diffuseTexture"), "rgb", False),
                ("roughness", glossy.get("specularGlossinessTexture"), "a", True),
            ]
        else:
            wanted += [
                ("base colour", shine.get("baseColorTexture"), "rgb", False),
                ("roughness", shine.get("metallicRoughnessTexture"), "g", False),
                ("metalness", shine.get("metallicRoughnessTexture"), "b", False),
            ]
        for slot, told, channel, inverted in wanted:
            if isinstance(told, dict):
                self._wear(name, slot, told, channel, inverted)
        for extension, what in _PLAIN.items():
            if any("Texture" in key for key in as_dict(more.get(extension))):
                self._builder.note_plain(what, name)

    def _wear(self, name: str, slot: Slot, told: Mapping[str, Any], channel: Channel, inverted: bool) -> None:
        at = told.get("index")
        if not isinstance(at, int) or not 0 <= at < len(self._textures):
            return
        texture = as_dict(self._textures[at])
        webp = as_dict(as_dict(texture.get("extensions")).get("EXT_texture_webp"))
        image = self._arrays.image(webp.get("source", texture.get("source")))
        if image is None:
            return
        moved = as_dict(as_dict(told.get("extensions")).get("KHR_texture_transform"))
        uv = moved.get("texCoord", told.get("texCoord", 0))

        def placed(picture: str) -> Map:
            offset, scale = vector(moved.get("offset"), (0.0, 0.0)), vector(moved.get("scale"), (1.0, 1.0))
            return Map(
                picture, channel, inverted, uv if isinstance(uv, int) and 0 <= uv < 8 else 0,
                (offset[0], offset[1]), (scale[0], scale[1]), float(moved.get("rotation", 0.0) or 0.0),
            )  # fmt: skip

        file, data = image
        if data is None:
            self._builder.wear(name, slot, file, placed)
            return
        picture = self._builder.pictures.take(data, file, slot)
        if picture is not None:
            self._builder.put(name, slot, placed(picture))


def _finish(entry: Mapping[str, Any], shine: Mapping[str, Any], more: Mapping[str, Any]) -> Finish:
    """What is left out is what the standard says."""
    red, green, blue, alpha = vector(shine.get("baseColorFactor"), (1.0, 1.0, 1.0, 1.0))
    volume, specular = as_dict(more.get("KHR_materials_volume")), as_dict(more.get("KHR_materials_specular"))
    coat, sheen = as_dict(more.get("KHR_materials_clearcoat")), as_dict(more.get("KHR_materials_sheen"))
    distance = number(volume.get("attenuationDistance"), 0.0, most=1e9)
    return Finish(
        _colour(red, green, blue, alpha),
        number(shine.get("metallicFactor"), 1.0),
        number(shine.get("roughnessFactor"), 1.0),
        transmission=number(as_dict(more.get("KHR_materials_transmission")).get("transmissionFactor"), 0.0),
        ior=number(as_dict(more.get("KHR_materials_ior")).get("ior"), 1.5, most=10.0),
        thickness=number(volume.get("thicknessFactor"), 0.0, most=1e9),
        tint=_colour(*vector(volume.get("attenuationColor"), (1.0, 1.0, 1.0))),
        tint_distance=distance,
        specular=number(specular.get("specularFactor"), 1.0),
        specular_tint=_colour(*vector(specular.get("specularColorFactor"), (1.0, 1.0, 1.0))),
        coat=number(coat.get("clearcoatFactor"), 0.0),
        coat_roughness=number(coat.get("clearcoatRoughnessFactor"), 0.0),
        sheen=_colour(*vector(sheen.get("sheenColorFactor"), (0.0, 0.0, 0.0))),
        sheen_roughness=number(sheen.get("sheenRoughnessFactor"), 0.0),
        unlit="KHR_materials_unlit" in more,
        **_shared(entry, more),
    )


def _glossy(entry: Mapping[str, Any], glossy: Mapping[str, Any]) -> Finish:
    """The archived KHR_materials_pbrSpecularGlossiness in the terms of metallic-roughness."""
    red, green, blue, alpha = vector(glossy.get("diffuseFactor"), (1.0, 1.0, 1.0, 1.0))
    base, metalness = from_specular((red, green, blue), vector(glossy.get("specularFactor"), (1.0, 1.0, 1.0)))
    more = as_dict(entry.get("extensions"))
    roughness = 1 - number(glossy.get("glossinessFactor"), 1.0)
    return Finish(_colour(*base, alpha), metalness, roughness, **_shared(entry, more))


def _shared(entry: Mapping[str, Any], more: Mapping[str, Any]) -> dict[str, Any]:
    light = as_dict(more.get("KHR_materials_emissive_strength")).get("emissiveStrength")
    return {
        "normal": number(as_dict(entry.get("normalTexture")).get("scale"), 1.0, most=100.0),
        "occlusion": number(as_dict(entry.get("occlusionTexture")).get("strength"), 1.0),
        "emission": _colour(*vector(entry.get("emissiveFactor"), (0.0, 0.0, 0.0))),
        "light": number(light, 1.0, most=1e6),
        "mode": _MODES.get(str(entry.get("alphaMode", "OPAQUE")), "opaque"),
        "cutoff": number(entry.get("alphaCutoff"), 0.5),
        "both_sides": entry.get("doubleSided") is True,
    }


def _colour(red: float, green: float, blue: float, alpha: float = 1.0) -> Colour:
    if not all(map(math.isfinite, (red, green, blue, alpha))):
        return Colour(1.0, 1.0, 1.0)
    return Colour.from_linear(red, green, blue, alpha)
