"""What a person decides at Fit."""

from typing import Annotated, Literal, get_args

from pydantic import Field, field_validator

from hemp_ladder.core.lengths import Metres
from hemp_ladder.core.refs import SourceRef
from hemp_ladder.core.settings import Settings
from hemp_ladder.core.units import unit

Axis = Literal["z", "y", "x", "-z", "-y", "-x"]
#: The usual first.
AXES: tuple[Axis, ...] = get_args(Axis)
#: X, Y and Z in metres, Z up. A thousand kilometres hold any map grid.
Point = tuple[
    Annotated[float, Field(ge=-1e8, le=1e8)],
    Annotated[float, Field(ge=-1e8, le=1e8)],
    Annotated[float, Field(ge=-1e8, le=1e8)],
]


class _Measured(Settings):
    unit: str | None = Field(None, description="unit that the numbers in the source stand for; none: as declared")
    up: Axis | None = Field(None, description="axis that points up in the source; none: as declared")

    @field_validator("unit")
    @classmethod
    def _known(cls, value: str | None) -> str | None:
        return None if value is None else unit(value).code


class SourceFit(_Measured):
    """One source's own unit, up axis and place beside the others."""

    width: Annotated[Metres, Field(gt=0, le=1e5)] | None = Field(
        None, description="scaled so that it is so wide along its own X, in metres; whatever its unit"
    )
    measured: Literal["artwork", "page"] = Field("artwork", description="what the width is of")
    turn: float = Field(0.0, ge=-360, le=360, description="turn about the up axis through its origin, in degrees")
    move: Point = Field((0.0, 0.0, 0.0), description="then moved by this, in metres, Z up")


class FitSettings(_Measured):
    """Which unit the sources' numbers are in, which axis points up, where each stands and where the origin is.

    `unit` and `up` hold for every source that states none of its own.
    """

    sources: dict[SourceRef, SourceFit] = Field(
        default_factory=dict, description="what single sources have of their own"
    )
    datum: Point = Field((0.0, 0.0, 0.0), description="the point that becomes the origin, in metres, Z up")
