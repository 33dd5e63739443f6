"""What a person decides at Receive."""

from typing import Annotated, Literal

from pydantic import Field, field_validator

from hemp_ladder.core.choose.outlines.settings import DrawnSettings
from hemp_ladder.core.refs import SourceRef
from hemp_ladder.core.settings import MOST, Settings

#: What a choice can be made by. A group is a node of the tree by its name.
TakeBy = Literal["layer", "class", "storey", "group", "part", "placement"]
Extra = Literal["space", "opening", "annotation"]
_Metres = Annotated[float, Field(ge=-1e8, le=1e8)]


class Choice(Settings):
    """One thing that is to enter, or to stay out; of every source, or of one."""

    by: TakeBy
    match: str = Field(
        max_length=500,
        description="the whole name of the layer, class, storey or group; what decisions call the others",
    )
    take: bool = Field(False, description="true: of its kind, only what is named so enters")
    source: SourceRef | None = None


class Region(Settings):
    """A polygon on the plan, in metres after Fit. What lies inside enters."""

    polygon: tuple[tuple[_Metres, _Metres], ...] = Field(min_length=3, max_length=2000)
    cut: bool = Field(False, description="cut at its edge; else whole parts that touch it")

    @field_validator("polygon")
    @classmethod
    def _simple(cls, value: tuple[tuple[float, float], ...]) -> tuple[tuple[float, float], ...]:
        from shapely import Polygon

        shape = Polygon(value)
        if not shape.is_valid or shape.area < 1e-12:
            raise ValueError("the outline crosses itself or has no area")
        return value


class ReceiveSettings(Settings):
    """What enters the job of all that was received. A thing enters when nothing keeps it out."""

    choices: tuple[Choice, ...] = Field((), max_length=MOST)
    without: frozenset[SourceRef] = Field(frozenset(), description="refs of the sources that stay out whole")
    also: frozenset[Extra] = Field(frozenset(), description="what stays out unless asked, and is asked for")
    without_copies: bool = Field(False, description="of parts that lie exactly on each other, one enters")
    region: Region | None = None
    drawn: DrawnSettings = Field(DrawnSettings(), description="how drawings and vector art become solid")
