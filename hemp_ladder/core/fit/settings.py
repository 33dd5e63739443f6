"""What a person decides at Fit."""

from typing import Literal

from pydantic import Field, field_validator

from hemp_ladder.core.settings import Settings
from hemp_ladder.core.units import unit

Axis = Literal["x", "-x", "y", "-y", "z", "-z"]


class FitSettings(Settings):
    """Which unit the source's numbers are in, and which of its axes points up."""

    unit: str | None = Field(None, description="unit that the numbers in the source stand for; none: as declared")
    up: Axis | None = Field(None, description="axis that points up in the source; none: as declared")

    @field_validator("unit")
    @classmethod
    def _known(cls, value: str | None) -> str | None:
        return None if value is None else unit(value).code
