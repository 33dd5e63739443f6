"""What a person decides about what was drawn: how high, on what, hollow or not, and which areas are solid."""

from typing import Annotated, Literal

from pydantic import Field

from hemp_ladder.core.drawn.solid import Side
from hemp_ladder.core.lengths import Metres
from hemp_ladder.core.refs import SourceRef
from hemp_ladder.core.settings import MOST, Settings

#: What a row of the table speaks of: everything drawn, a layer (in vector art a group), a colour, one shape.
ShapeBy = Literal["all", "layer", "colour", "part"]
#: as written: by the fill rule in the file; united: overlapping shapes become one; alternating: what lies inside
#: another shape is a hole in it, what lies inside that is solid again.
Areas = Literal["written", "united", "alternating"]
_Height = Annotated[Metres, Field(ge=0, le=1e4)]
_Wide = Annotated[Metres, Field(gt=0, le=1e3)]


class Footing(Settings):
    """What something stands on: its base is the top of that, or the ground, whatever the rows above say."""

    by: Literal["ground", "layer", "colour", "part"]
    match: str = Field("", max_length=500)


class Shaping(Settings):
    """One row: what is said of a layer, a colour or a shape. What is left out follows the rows above it.

    A row about a shape has the say over one about its colour, that over one
    about its layer, and that over one about all; of equals the last.
    """

    by: ShapeBy
    match: str = Field("", max_length=500)
    source: SourceRef | None = None
    height: _Height | None = Field(None, description="how high, in metres; 0 for a flat sheet")
    on: Footing | None = None
    wall: Annotated[Metres, Field(ge=0, le=1e3)] | None = Field(
        None, description="a ring of this width along the outline instead of its area, in metres; 0 for none"
    )
    side: Side | None = None
    stroke: _Wide | None = Field(None, description="width of a drawn line, whatever its scale, in metres")
    areas: Areas | None = None
    hand: Literal["solid", "hole"] | None = Field(None, description="whatever the rule says of it")


class DrawnSettings(Settings):
    """How drawings and vector art become solid."""

    rows: tuple[Shaping, ...] = Field((), max_length=MOST)
    close: Annotated[Metres, Field(ge=0, le=100)] = Field(
        0.0, description="open outlines whose ends are no farther apart than this, in metres, count as closed"
    )
    nozzle: Annotated[Metres, Field(ge=0, le=0.1)] = Field(
        0.0, description="walls thinner than this, in metres, are looked for; 0 looks for none"
    )
    thicken: bool = Field(False, description="walls that are too thin are made as wide as the nozzle")
