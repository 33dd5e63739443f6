"""What materials wear in a file: which pictures in which slots, and the numbers that go with them."""

from collections.abc import Container, Iterator
from dataclasses import dataclass, replace
from typing import Literal

from hemp_ladder.core.model.finish import Finish, Map, Slot
from hemp_ladder.core.ship.painter import Number, Painter

#: Slots of files; "shine" has roughness in green and metalness in blue (glTF 2.0, 3.9.2).
OutSlot = Literal[
    "base colour",
    "opacity",
    "normal",
    "shine",
    "roughness",
    "metalness",
    "occlusion",
    "emission",
    "transmission",
    "height",
]


@dataclass(frozen=True)
class Applied:
    """A picture, by SHA-256 among those that are written, and how it lies on the surface, as `Map` has it."""

    picture: str
    uv: int = 0
    offset: tuple[float, float] = (0.0, 0.0)
    scale: tuple[float, float] = (1.0, 1.0)
    turn: float = 0.0

    @property
    def lies(self) -> tuple[tuple[float, float], tuple[float, float], float]:
        """How it is moved, scaled and turned."""
        return self.offset, self.scale, self.turn


#: As it came.
STILL = Applied("").lies


@dataclass(frozen=True)
class Dressed:
    """A finish as it is written, and what it wears."""

    finish: Finish
    worn: dict[OutSlot, Applied]


def dressed(finish: Finish, painter: Painter | None, joint: bool, sets: Container[int]) -> Dressed:
    """The finish for a file. `joint`: roughness and metalness lie in one picture, opacity beside the colour; `sets` are the
    sets of UV that all its surfaces have; without a painter it wears nothing."""
    maps = {slot: worn for slot, worn in finish.maps if worn.uv in sets} if painter else {}
    least = finish.least_roughness
    rough = maps.get("roughness")
    if rough is None:
        finish = replace(finish, roughness=max(finish.roughness, least))
    if painter is None:
        return Dressed(replace(finish, maps=()), {})
    roughness = Number(rough) if rough else None
    if rough and least > 0:
        roughness, finish = Number(rough, finish.roughness, least), replace(finish, roughness=1.0)
    metalness = Number(maps["metalness"]) if "metalness" in maps else None
    told: dict[OutSlot, Applied] = {}
    base, opacity = maps.get("base colour"), maps.get("opacity")
    if opacity and joint:
        own = base is not None and base.picture == opacity.picture and opacity.channel == "a" and not opacity.inverted
        picture = painter.plain(opacity.picture) if own else painter.with_opacity(base, Number(opacity))
        told["base colour"] = _applied(base or opacity, picture)
    else:
        if base:
            told["base colour"] = _applied(base, painter.plain(base.picture))
        if opacity:
            told["opacity"] = _applied(opacity, painter.grey(Number(opacity)))
    if joint and (roughness or metalness):
        told["shine"] = _shine(painter, roughness, metalness)
    elif not joint:
        if roughness:
            told["roughness"] = _applied(roughness.map, painter.grey(roughness))
        if metalness:
            told["metalness"] = _applied(metalness.map, painter.grey(metalness))
    for slot, worn, picture in _single(maps, painter):
        told[slot] = _applied(worn, picture)
    return Dressed(finish, told)


def _single(maps: dict[Slot, Map], painter: Painter) -> Iterator[tuple[OutSlot, Map, str]]:
    """Slots with a picture of their own in every format."""
    coloured: tuple[Literal["normal", "emission"], ...] = ("normal", "emission")
    for slot in coloured:
        if slot in maps:
            yield slot, maps[slot], painter.plain(maps[slot].picture)
    numbers: tuple[Literal["occlusion", "transmission", "height"], ...] = ("occlusion", "transmission", "height")
    for one in numbers:
        if one in maps:
            worn = maps[one]
            as_it_is = worn.channel == "r" and not worn.inverted
            yield one, worn, painter.plain(worn.picture) if as_it_is else painter.grey(Number(worn))


def _shine(painter: Painter, roughness: Number | None, metalness: Number | None) -> Applied:
    """Where both are in one picture already, at the places where they belong, that one."""
    first = (roughness or metalness).map  # type: ignore[union-attr]
    if roughness and metalness:
        rough, metal = roughness.map, metalness.map
        here = (rough.channel, metal.channel, rough.inverted, metal.inverted) == ("g", "b", False, False)
        if here and rough.picture == metal.picture and roughness == Number(rough):
            return _applied(first, painter.plain(rough.picture))
    return _applied(first, painter.packed(None, roughness, metalness))


def _applied(worn: Map, picture: str) -> Applied:
    return Applied(picture, worn.uv, worn.offset, worn.scale, worn.turn)
