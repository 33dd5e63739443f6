"""How one drawn part becomes a mesh, worked out from the decisions: in source coordinates."""

from dataclasses import dataclass
from typing import Literal

Side = Literal["outward", "inward", "both"]


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
