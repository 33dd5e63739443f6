"""Which layer and colour an entity ends up with, through the blocks it stands in.

In a block, layer 0 stands for the layer of the insert, colour 0 (by block)
for its colour, and colour 256 (by layer) for that of the layer the entity
ends up on (DXF reference, common group codes 8, 62 and 420).
"""

from dataclasses import dataclass
from typing import Any

from ezdxf.colors import aci2rgb, int2rgb

from hemp_ladder.core.model.model import Colour

BYBLOCK, BYLAYER = 0, 256


@dataclass(frozen=True)
class Look:
    """What an insert hands down; in the drawing itself, layer 0 and colour 7."""

    layer: str = "0"
    colour: Colour | None = None


class Looks:
    """Look-ups over the layers of one drawing."""

    def __init__(self, doc: Any) -> None:
        self._layers: dict[str, Colour] = {}
        self._names: dict[str, str] = {}
        self._known: dict[tuple[str, int, Look, int | None], Look] = {}
        self.hidden: list[str] = []
        self.frozen: set[str] = set()
        for layer in doc.layers:
            name = layer.dxf.name
            self._names[name.casefold()] = name
            self._layers[name.casefold()] = _layer_colour(layer)
            if layer.is_off() or layer.is_frozen():
                self.hidden.append(name)
            if layer.is_frozen():
                self.frozen.add(name)

    def of(self, entity: Any, above: Look) -> Look:
        """The layer and colour of an entity in a block whose insert has the look above."""
        # Asked one by one, the library would look each of these up in what all entities know.
        told = entity.dxf.all_existing_dxf_attribs()
        name, index = told.get("layer", "0"), told.get("color", BYLAYER)
        if "true_color" in told or "transparency" in told:
            layer = self._layer(name, above)
            alpha = 1.0 - min(max(float(entity.transparency), 0.0), 0.98) if "transparency" in told else 1.0
            if "true_color" in told:
                return Look(layer, _colour(int2rgb(told["true_color"]), alpha))
            return Look(layer, self._indexed(index, layer, above, alpha))
        return self.of_plain(name, index, above)

    def of_plain(self, name: str, index: int, above: Look, rgb: int | None = None) -> Look:
        """The look of what says no more than its layer and colour: most entities do, and thousands say the same."""
        key = (name, index, above, rgb)
        look = self._known.get(key)
        if look is None:
            layer = self._layer(name, above)
            colour = self._indexed(index, layer, above) if rgb is None else _colour(int2rgb(rgb))
            look = self._known[key] = Look(layer, colour)
        return look

    def _layer(self, name: str, above: Look) -> str:
        return above.layer if name == "0" else self._names.get(name.casefold(), name)

    def _indexed(self, index: int, layer: str, above: Look, alpha: float = 1.0) -> Colour:
        if index == BYBLOCK:
            return above.colour or _colour(aci2rgb(7))
        if 0 < index < 256:
            return _colour(aci2rgb(index), alpha)
        return self._layers.get(layer.casefold()) or _colour(aci2rgb(7))


def _layer_colour(layer: Any) -> Colour:
    if layer.dxf.hasattr("true_color"):
        return _colour(int2rgb(layer.dxf.true_color))
    return _colour(aci2rgb(min(max(abs(layer.dxf.get("color", 7)), 1), 255)))


def _colour(rgb: Any, alpha: float = 1.0) -> Colour:
    red, green, blue = (float(value) / 255 for value in tuple(rgb)[:3])
    return Colour(red, green, blue, round(alpha, 3))
