"""Preview surfaces (UsdPreviewSurface specification) in the terms of metallic-roughness."""

import math
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
from pxr import Ar, Sdf, UsdGeom, UsdShade

from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.finish import Channel, Finish, Map, Slot, counted
from hemp_ladder.core.model.labels import unique_label
from hemp_ladder.core.receive.meshed.colours import from_specular
from hemp_ladder.core.receive.meshed.parts import Builder
from hemp_ladder.core.receive.meshed.pictures import MOST_BYTES
from hemp_ladder.core.receive.meshed.placing import laid_by, turned_flat
from hemp_ladder.core.receive.usd.values import number, rows, vector

_SLOTS: dict[str, Slot] = {
    "diffuseColor": "base colour", "roughness": "roughness", "metallic": "metalness", "normal": "normal", "opacity": "opacity",
    "occlusion": "occlusion", "emissiveColor": "emission", "displacement": "height",
}  # fmt: skip
_CHANNELS: dict[str, Channel] = {"r": "r", "g": "g", "b": "b", "a": "a", "rgb": "rgb"}


class Materials:
    """Gives a builder the looks of materials when they are first met."""

    def __init__(self, builder: Builder) -> None:
        self._builder = builder
        self._styles: dict[str, str] = {}
        self._taken: set[str] = set()

    def style(self, material: Any) -> str:
        prim = material.GetPrim()
        if prim.IsInstanceProxy():
            material = UsdShade.Material(prim.GetPrimInPrototype())
        path = str(material.GetPath())
        if path not in self._styles:
            told = material.GetPrim().GetDisplayName() or material.GetPrim().GetName()
            name = self._styles[path] = unique_label(told[:200], self._taken)
            surface, _, _ = material.ComputeSurfaceSource()
            if not surface or surface.GetIdAttr().Get() != "UsdPreviewSurface":
                self._builder.look(name, Finish())
            else:
                self._builder.look(name, _finish(surface))
                for given, slot in _SLOTS.items():
                    self._wear(name, slot, surface.GetInput(given))
        return self._styles[path]

    def _wear(self, style: str, slot: Slot, told: Any) -> None:
        source = told.GetConnectedSource() if told else None
        if not source:
            return
        shader, output, _ = source
        shader = UsdShade.Shader(shader.GetPrim())
        if shader.GetIdAttr().Get() != "UsdUVTexture":
            return
        asset = _value(shader, "file")
        if not isinstance(asset, Sdf.AssetPath) or not asset.path:
            return
        before = self._builder.looks[style].maps
        placed = _placed(shader, _CHANNELS.get(str(output), "rgb"))
        data = self._packed(asset)
        if data is None:
            self._builder.wear(style, slot, asset.path, placed)
        elif (picture := self._builder.pictures.take(data, asset.path.rpartition("/")[2], slot)) is not None:
            self._builder.put(style, slot, placed(picture))
        if self._builder.looks[style].maps != before:
            self._builder.looks[style] = _counting(self._builder.looks[style], slot, shader)

    def _packed(self, asset: Sdf.AssetPath) -> bytes | None:
        """A picture that lies in the package itself; nothing else is opened by its path."""
        if "[" not in asset.resolvedPath:
            return None
        found = Ar.GetResolver().OpenAsset(Ar.ResolvedPath(asset.resolvedPath))
        if found is None or found.GetSize() > MOST_BYTES:
            return None
        return bytes(found.GetBuffer())


def display_colour(prim: Any) -> Colour | None:
    """The one colour in which a prim is shown that has no material: its own or of what holds it, linear. Where every point
    or face has its own there is none."""
    primvars = UsdGeom.PrimvarsAPI(prim)
    told = rows(primvars.FindPrimvarWithInheritance("displayColor").Get(), 3)
    if len(told) != 1 or not np.isfinite(told).all():
        return None
    opacity = primvars.FindPrimvarWithInheritance("displayOpacity").Get()
    red, green, blue = told[0].tolist()
    return Colour.from_linear(red, green, blue, vector(opacity, (1.0,))[0])


def _value(shader: Any, name: str) -> Any:
    told = shader.GetInput(name)
    return told.Get() if told else None


def _share(shader: Any, name: str, start: float) -> float:
    return min(max(number(_value(shader, name), start), 0.0), 1.0)


def _linear(shader: Any, name: str, start: tuple[float, float, float]) -> tuple[float, float, float]:
    red, green, blue = vector(_value(shader, name), start)
    return (red, green, blue) if all(abs(c) < 1e6 for c in (red, green, blue)) else start


def _finish(surface: Any) -> Finish:
    """Its numbers; those that a picture gives are set when it is worn."""
    base, metalness = _linear(surface, "diffuseColor", (0.18, 0.18, 0.18)), _share(surface, "metallic", 0.0)
    if _value(surface, "useSpecularWorkflow") == 1:
        base, metalness = from_specular(base, _linear(surface, "specularColor", (0.0, 0.0, 0.0)))
    threshold = _share(surface, "opacityThreshold", 0.0)
    ior = number(_value(surface, "ior"), 1.5)
    return Finish(
        Colour.from_linear(*base, _share(surface, "opacity", 1.0)), metalness, _share(surface, "roughness", 0.5),
        emission=Colour.from_linear(*_linear(surface, "emissiveColor", (0.0, 0.0, 0.0))),
        mode="cut-out" if threshold > 0 else None, cutoff=threshold or 0.5,
        ior=ior if 1 <= ior < 4 else 1.5, coat=_share(surface, "clearcoat", 0.0),
        coat_roughness=_share(surface, "clearcoatRoughness", 0.01) if _share(surface, "clearcoat", 0.0) else 0.0,
    )  # fmt: skip


def _counting(finish: Finish, slot: Slot, shader: Any) -> Finish:
    """A connected input has no number of its own: the picture's scale is it."""
    times = min(max(vector(_value(shader, "scale"), (1.0,))[0], 0.0), 1.0)
    if slot == "opacity":
        finish = replace(finish, colour=replace(finish.colour, alpha=1.0))
    finish = counted(finish, slot)
    if slot == "roughness":
        return replace(finish, roughness=times)
    return replace(finish, metalness=times) if slot == "metalness" else finish


def _placed(shader: Any, channel: Channel) -> Callable[[str], Map]:
    """How its UV are moved: scaled, turned, moved, from the lower left (UsdTransform2d)."""
    (across, along), turn, (aside, above) = (1.0, 1.0), 0.0, (0.0, 0.0)
    source = shader.GetInput("st").GetConnectedSource() if shader.GetInput("st") else None
    node = UsdShade.Shader(source[0].GetPrim()) if source else None
    if node and node.GetIdAttr().Get() == "UsdTransform2d":
        across, along = vector(_value(node, "scale"), (1.0, 1.0))
        aside, above = vector(_value(node, "translation"), (0.0, 0.0))
        turn = number(_value(node, "rotation"), 0.0)
    lay, shift = turned_flat(math.radians(turn)) @ np.diag([across, along]), np.array([aside, above])
    return lambda picture: laid_by(lay, shift, picture, channel)
