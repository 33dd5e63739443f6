"""How a surface looks, as the open standard of 3D delivery says it, and the pictures that say it place by place."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields, replace
from typing import Any, Literal, get_args

from hemp_ladder.core.model.colour import BLACK, WHITE, Colour

#: What a picture says of a surface.
Slot = Literal[
    "base colour", "opacity", "normal", "roughness", "metalness", "occlusion", "emission", "transmission", "height"
]
SLOTS: tuple[Slot, ...] = get_args(Slot)
#: Which numbers of a picture a slot takes: all three, or one of them.
Channel = Literal["rgb", "r", "g", "b", "a"]
#: How opacity is taken: not at all, all or nothing at a threshold, or as a share (glTF 2.0, 3.9.4).
Mode = Literal["opaque", "cut-out", "blended"]


@dataclass(frozen=True, slots=True)
class Map:
    """A picture in a slot.

    picture   its SHA-256
    channel   which of its numbers count; a slot of one number takes the brightness of all where it says "rgb"
    inverted  the numbers are turned over, as where gloss stands for roughness
    uv        the set of UV that it lies by
    offset, scale, turn  how those UV are moved, scaled and turned (radians) first, as glTF's KHR_texture_transform has it,
              from the upper left
    """

    picture: str
    channel: Channel = "rgb"
    inverted: bool = False
    uv: int = 0
    offset: tuple[float, float] = (0.0, 0.0)
    scale: tuple[float, float] = (1.0, 1.0)
    turn: float = 0.0


Maps = tuple[tuple[Slot, Map], ...]


@dataclass(frozen=True, slots=True)
class Finish:
    """All that a surface's look is made of (glTF 2.0, 3.9, and its ratified extensions). Shares are 0 to 1.

    colour           base colour; its alpha is the opacity
    metalness, roughness
    least_roughness  no place is smoother, whatever the map says
    normal           strength of the normal map
    occlusion        strength of the occlusion map
    emission         colour of its light, times `light`, which has no upper end (KHR_materials_emissive_strength)
    mode             how opacity is taken; None: blended where the colour is not opaque
    cutoff           of a cut-out: what is less opaque is not there
    transmission, ior  light that goes through a smooth body, and its index of refraction
    thickness, tint, tint_distance  of its body, in metres (KHR_materials_volume)
    specular, specular_tint         strength and colour of the reflection of what is no metal
    coat, coat_roughness            a clear layer on top
    sheen, sheen_roughness          the shine of cloth
    unlit            no light falls on it
    both_sides       it is seen from behind too
    maps             pictures by slot, each slot once
    """

    colour: Colour = WHITE
    metalness: float = 0.0
    roughness: float = 0.5
    least_roughness: float = 0.0
    normal: float = 1.0
    occlusion: float = 1.0
    emission: Colour = BLACK
    light: float = 1.0
    mode: Mode | None = None
    cutoff: float = 0.5
    transmission: float = 0.0
    ior: float = 1.5
    thickness: float = 0.0
    tint: Colour = WHITE
    tint_distance: float = 0.0
    specular: float = 1.0
    specular_tint: Colour = WHITE
    coat: float = 0.0
    coat_roughness: float = 0.0
    sheen: Colour = BLACK
    sheen_roughness: float = 0.0
    unlit: bool = False
    both_sides: bool = False
    maps: Maps = ()

    @property
    def opacity_mode(self) -> Mode:
        return self.mode or ("blended" if self.colour.alpha < 1 else "opaque")

    def map(self, slot: Slot) -> Map | None:
        """The picture in a slot."""
        return next((item for name, item in self.maps if name == slot), None)

    def wearing(self, slot: Slot, worn: Map | None) -> "Finish":
        """With this picture in a slot, or with none."""
        rest = {name: item for name, item in self.maps if name != slot}
        if worn is not None:
            rest[slot] = worn
        return replace(self, maps=ordered(rest))


def ordered(maps: Mapping[Slot, Map]) -> Maps:
    """Maps in the order of slots."""
    return tuple((slot, maps[slot]) for slot in SLOTS if slot in maps)


def counted(finish: Finish, slot: Slot) -> Finish:
    """With the number that a slot's map is multiplied with out of its way."""
    if slot == "base colour":
        return replace(finish, colour=Colour(1.0, 1.0, 1.0, finish.colour.alpha))
    if slot == "emission":
        return replace(finish, emission=WHITE)
    if slot == "roughness":
        return replace(finish, roughness=1.0)
    if slot == "metalness":
        return replace(finish, metalness=1.0)
    if slot == "transmission":
        return replace(finish, transmission=1.0)
    if slot == "opacity":
        return replace(finish, mode="blended" if finish.opacity_mode == "opaque" else finish.mode)
    return finish


_COLOURS = tuple(item.name for item in fields(Finish) if item.type is Colour or item.type == "Colour")


def finish_to_dict(finish: Finish) -> dict[str, Any]:
    """What differs from a plain finish, as plain values."""
    told: dict[str, Any] = {}
    for item in fields(Finish):
        value = getattr(finish, item.name)
        if value == item.default:
            continue
        told[item.name] = _numbers(value) if isinstance(value, Colour) else value
    if finish.maps:
        told["maps"] = {slot: asdict(worn) for slot, worn in finish.maps}
    return told


def finish_from_dict(told: Mapping[str, Any]) -> Finish:
    """What `finish_to_dict` gave, also after it went through JSON."""
    values: dict[str, Any] = {name: Colour(*value) if name in _COLOURS else value for name, value in told.items()}
    values["maps"] = ordered({slot: map_from_dict(worn) for slot, worn in told.get("maps", {}).items()})
    return Finish(**values)


def _numbers(colour: Colour) -> list[float]:
    return [round(value, 6) for value in (colour.red, colour.green, colour.blue, colour.alpha)]


def map_from_dict(told: Mapping[str, Any]) -> Map:
    return Map(**{**told, "offset": tuple(told["offset"]), "scale": tuple(told["scale"])})
