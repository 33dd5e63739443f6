"""Where a walk through an SVG stands, and what it comes by."""

from dataclasses import dataclass

from hemp_ladder.core.drawn.curves import Affine
from hemp_ladder.core.drawn.shape import Area, Shape
from hemp_ladder.core.model.model import Colour
from hemp_ladder.core.receive.svg.place import Viewport
from hemp_ladder.core.receive.svg.style import Style

Clips = tuple[tuple[Area, ...], ...]


@dataclass(frozen=True)
class Found:
    """One shape on the sheet: what it is called, its group in the tree, its look, and whether it is a line."""

    shape: Shape
    name: str
    kind: str
    group: int
    colour: Colour
    width: float = 0.0


@dataclass
class Group:
    name: str
    parent: int
    named: bool


@dataclass(frozen=True)
class Here:
    """Where the walk stands: the map to the sheet, style, what clips, and the viewport."""

    to_sheet: Affine
    style: Style
    opacity: float
    clips: Clips
    port: Viewport
    group: int
    uses: tuple[str, ...] = ()
    #: Inside a marker: the fill and stroke of the line that it marks.
    context: Style | None = None
