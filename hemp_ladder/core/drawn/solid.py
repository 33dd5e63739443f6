"""How one drawn part becomes a mesh, worked out from the decisions: in source coordinates, part of a mesh's key."""

from collections.abc import Sequence
from dataclasses import dataclass, fields
from typing import Any, Literal

from hemp_ladder.core.drawn.settings import Side


@dataclass(frozen=True, slots=True)
class Other:
    """Another shape that is taken away from this one, or joined to it: its key, and where it lies from here."""

    key: str
    x: float
    y: float
    does: Literal["minus", "plus"]
    stroke: float | None = None


@dataclass(frozen=True, slots=True)
class Solid:
    """Height and base of the prism over a shape; what of the shape it is.

    `wall` makes a ring along the outline; `stroke` is a width for the pen's
    line; `segments` a number of segments a curve. `ribbon` stands an open
    line up as a surface. `nozzle` has walls that are thinner looked for.
    """

    height: float = 0.0
    base: float = 0.0
    wall: float = 0.0
    side: Side = "outward"
    stroke: float | None = None
    segments: int | None = None
    ribbon: bool = False
    nozzle: float = 0.0
    thicken: bool = False
    others: tuple[Other, ...] = ()

    def as_list(self) -> list[Any]:
        """Plain values, as JSON keeps them; thousands are asked for at each change, so nothing is copied."""
        told = [getattr(self, name) for name in _NAMES[:-1]]
        return [*told, [[other.key, other.x, other.y, other.does, other.stroke] for other in self.others]]

    @staticmethod
    def from_list(values: Sequence[Any]) -> "Solid":
        """What `as_list` gave, also after it went through JSON."""
        told = dict(zip(_NAMES, values, strict=True))
        return Solid(**{**told, "others": tuple(Other(*item) for item in told["others"])})


#: `others` last.
_NAMES = [item.name for item in fields(Solid)]
