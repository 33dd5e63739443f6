"""What a person decides at Ship."""

from typing import Literal

from pydantic import Field, field_validator

from hemp_ladder.core.fit.settings import Axis
from hemp_ladder.core.settings import Settings
from hemp_ladder.core.units import unit

Format = Literal["glb", "obj", "stl"]
Group = Literal["part", "material", "one"]

#: Unit and up axis a format is read in when nobody says otherwise: glTF 2.0
#: section 3.4 fixes metres and +Y; for STL, millimetres and Z up are common
#: practice of slicers; for OBJ, metres and Y up are common practice of renderers.
#: An STL knows no parts, so it holds one mesh.
CUSTOMS: dict[Format, tuple[str, Axis, Group]] = {
    "glb": ("m", "y", "part"),
    "obj": ("m", "y", "part"),
    "stl": ("mm", "z", "one"),
}


class Target(Settings):
    """Where a mesh goes and how."""

    format: Format = "glb"
    unit: str | None = Field(None, description="length of one unit in the file; none: the format's custom")
    up: Axis | None = Field(None, description="axis that points up in the file; none: the format's custom")
    group: Group | None = Field(
        None, description="a mesh for each part, one per material, or a single one; none: the format's custom"
    )

    @field_validator("unit")
    @classmethod
    def _known(cls, value: str | None) -> str | None:
        return None if value is None else unit(value).code

    @property
    def written_unit(self) -> str:
        return self.unit or CUSTOMS[self.format][0]

    @property
    def written_group(self) -> Group:
        return self.group or CUSTOMS[self.format][2]

    @property
    def written_up(self) -> Axis:
        return self.up or CUSTOMS[self.format][1]


class ShipSettings(Settings):
    """The target the job ships to next."""

    target: Target = Target()
