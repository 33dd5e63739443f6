"""What a person decides at Ship."""

from collections.abc import Sequence
from typing import Annotated, Literal, Self

from pydantic import AfterValidator, Field, WithJsonSchema, field_validator, model_validator

from hemp_ladder.core.fit.settings import Axis
from hemp_ladder.core.refs import PartRef
from hemp_ladder.core.settings import MOST_PARTS, Settings
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
    hand: Literal["right", "left"] | None = Field(
        None, description="handedness of the axes in the file; none: the format's custom, which is right"
    )
    level: str = Field("full", max_length=40, description="level of detail, as Trim calls it")
    textures: Literal["inside", "beside", "none"] | None = Field(
        None, description="where pictures go: in the file, beside it, nowhere; none: the format's custom"
    )
    texture_limit: int | None = Field(None, ge=16, le=32_768, description="largest side of a picture, in pixels")
    flat_colours: bool = Field(
        False, description="each material is one flat colour that is easily told from the others, without pictures"
    )
    instances: Literal["kept", "separate"] = Field(
        "kept", description="parts that stand in several places: one mesh with instances, or a mesh at every place"
    )
    separate: tuple[PartRef, ...] = Field(
        (), description="parts that are a mesh at every place where instances are kept", max_length=MOST_PARTS
    )
    longest_name: int | None = Field(None, ge=8, le=200, description="letters that a name may have there")
    plain_names: bool = Field(False, description="names of A to Z, digits, dash and underscore only")
    polygons: bool = Field(False, description="what is flat becomes few convex faces, where the format has such")
    quads: bool = Field(False, description="two triangles that make a good quad are one, where the format has such")
    group: Group | None = Field(
        None,
        description="a mesh for each part; one per material, layer, class, storey, group or source; or a single one; "
        "none: the format's custom",
    )

    @field_validator("unit")
    @classmethod
    def _known(cls, value: str | None) -> str | None:
        return None if value is None else unit(value).code

    @model_validator(mode="after")
    def _can_hold(self) -> Self:
        if self.textures == "inside" and self.written_format.inside is None:
            raise ValueError(f"{self.written_format.name} cannot hold pictures; they can lie beside it")
        if (self.polygons or self.quads) and "polygons" not in self.written_format.carries:
            raise ValueError(f"{self.written_format.name} holds triangles only")
        if self.hand == "left" and self.written_format.right_handed:
            raise ValueError(f"{self.written_format.name} is right-handed by its standard")
        return self

    @property
    def limits_names(self) -> bool:
        """Whether not every name will do there."""
        return self.plain_names or self.longest_name is not None

    @property
    def pictures_beside(self) -> bool:
        return self.textures == "beside" or (self.textures is None and self.written_format.inside is not True)

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


def separate_parts(target: Target, refs: Sequence[str]) -> set[int]:
    """Which parts, given by what decisions call them, are a mesh of their own at every place."""
    if target.instances == "separate":
        return set(range(len(refs)))
    wanted = set(target.separate)
    return {index for index, ref in enumerate(refs) if ref in wanted} if wanted else set()


class ShipSettings(Settings):
    """The target the job ships to next."""

    target: Target = Target()
    beside: str | None = Field(
        None, max_length=40, description="a level of detail that ships beside it, as a delivery of its own"
    )
