"""What a person decides at Ship."""

from typing import Annotated

from pydantic import AfterValidator, Field, WithJsonSchema, field_validator

from hemp_ladder.core.fit.settings import Axis
from hemp_ladder.core.settings import Settings
from hemp_ladder.core.ship.format import Format, Group
from hemp_ladder.core.ship.formats import FORMATS, format_of
from hemp_ladder.core.units import unit

FormatCode = Annotated[
    str, AfterValidator(lambda code: format_of(code).code), WithJsonSchema({"type": "string", "enum": list(FORMATS)})
]


class Target(Settings):
    """Where a mesh goes and how."""

    format: FormatCode = "glb"
    unit: str | None = Field(None, description="length of one unit in the file; none: the format's custom")
    up: Axis | None = Field(None, description="axis that points up in the file; none: the format's custom")
    level: str = Field("full", max_length=40, description="level of detail, as Trim calls it")
    group: Group | None = Field(
        None, description="a mesh for each part, one per material, or a single one; none: the format's custom"
    )

    @field_validator("unit")
    @classmethod
    def _known(cls, value: str | None) -> str | None:
        return None if value is None else unit(value).code

    @property
    def written_format(self) -> Format:
        return FORMATS[self.format]

    @property
    def written_unit(self) -> str:
        return self.unit or self.written_format.unit

    @property
    def written_group(self) -> Group:
        return self.group or self.written_format.group

    @property
    def written_up(self) -> Axis:
        return self.up or self.written_format.up


class ShipSettings(Settings):
    """The target the job ships to next."""

    target: Target = Target()
