"""What a person decides at Sort."""

from dataclasses import asdict
from typing import Annotated, Any, Literal, Self

from pydantic import Field, WithJsonSchema, field_validator, model_validator

from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.finish import Channel, Finish, Mode, Slot, map_from_dict, ordered
from hemp_ladder.core.model.material import Material
from hemp_ladder.core.model.texture import Clear, Texture
from hemp_ladder.core.refs import PartRef, PlacementRef, SourceRef
from hemp_ladder.core.settings import MOST, MOST_PARTS, Settings
from hemp_ladder.core.sort.order.settings import OrderSettings, Rename, Word

By = Literal["layer", "colour", "name", "part", "placement", "class", "storey", "substance", "style"]


class Within(Settings):
    """Where a rule holds: all that is told must be so."""

    source: SourceRef | None = None
    storey: str | None = Field(None, max_length=500)
    group: str | None = Field(None, max_length=500, description="stands below a node of the source's tree of that name")

    @model_validator(mode="after")
    def _says_where(self) -> Self:
        if self == Within.model_construct(source=None, storey=None, group=None):
            raise ValueError("a limit names a source, a storey or a group")
        return self


class Rule(Settings):
    """One row of the table: what it looks at, what that must be, and the material it gives.

    It matches where any of the words of `match` does. `layer`, `colour` (`#rrggbb`, as the source has it), `class`, `storey`,
    `substance` (what a building says a thing is made of: any of its
    materials) and `style` (the source's name for a look) match whole;
    `name` is a pattern with * and ?, upper and lower case alike, held against
    the name of the part and of its placement; `part` and `placement` name
    parts and placements by what decisions call them. `within`
    limits it to some of what there is.
    """

    by: By
    match: tuple[Word, ...] = Field(min_length=1, max_length=MOST_PARTS)
    material: str = Field(min_length=1, max_length=200, description="id of a material of the palette")
    within: Within | None = None

    @field_validator("match", mode="before")
    @classmethod
    def _one_word(cls, given: Any) -> Any:
        """A word alone, as rules had it before they could have several."""
        return (given,) if isinstance(given, str) else given

    @field_validator("match", mode="after")
    @classmethod
    def _once_each(cls, given: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(dict.fromkeys(given))


HexColour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}([0-9a-f]{2})?$")]
Share = Annotated[float, Field(ge=0, le=1)]
Sha256 = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


#: Two numbers; as a list without an order of types, which clients in other languages read the same.
Pair = Annotated[
    tuple[float, float],
    WithJsonSchema({"type": "array", "items": {"type": "number"}, "minItems": 2, "maxItems": 2}),
]


class MapSettings(Settings):
    """A picture in a slot, as `Map` has it."""

    picture: Sha256
    channel: Channel = "rgb"
    inverted: bool = False
    uv: int = Field(0, ge=0, le=7)
    offset: Pair = (0.0, 0.0)
    scale: Pair = (1.0, 1.0)
    turn: float = 0.0


class OwnMaterial(Settings):
    """A material of the job's own, or one of a source or of the house as the job changes it. Fields as in `Finish`."""

    id: str = Field(min_length=1, max_length=300)
    name: str = Field(min_length=1, max_length=200)
    colour: HexColour = Field(description="sRGB, with opacity as the last two digits")
    metalness: Share = 0.0
    roughness: Share = 0.5
    least_roughness: Share = 0.0
    normal: float = Field(1.0, ge=0, le=100)
    occlusion: Share = 1.0
    emission: HexColour = "#000000"
    light: float = Field(1.0, ge=0, le=1e6)
    mode: Mode | None = None
    cutoff: Share = 0.5
    transmission: Share = 0.0
    ior: float = Field(1.5, ge=0, le=10)
    thickness: float = Field(0.0, ge=0, le=1e9)
    tint: HexColour = "#ffffff"
    tint_distance: float = Field(0.0, ge=0, le=1e9)
    specular: Share = 1.0
    specular_tint: HexColour = "#ffffff"
    coat: Share = 0.0
    coat_roughness: Share = 0.0
    sheen: HexColour = "#000000"
    sheen_roughness: Share = 0.0
    unlit: bool = False
    both_sides: bool = False
    maps: dict[Slot, MapSettings] = {}

    @property
    def material(self) -> Material:
        told = self.model_dump(exclude={"id", "name", "maps", *_COLOURS})
        told |= {name: Colour.from_hex(getattr(self, name)) for name in _COLOURS}
        maps = ordered({slot: map_from_dict(worn.model_dump()) for slot, worn in self.maps.items()})
        return Material(self.id, self.name, Finish(**told, maps=maps))


_COLOURS = tuple(name for name in OwnMaterial.model_fields if isinstance(getattr(Finish(), name, None), Colour))


def as_own(material: Material) -> OwnMaterial:
    """A material as the job may change it."""
    finish = material.finish
    told = {
        name: value.hex if isinstance(value := getattr(finish, name), Colour) else value
        for name in OwnMaterial.model_fields
        if name not in ("id", "name", "maps")
    }
    maps = {slot: MapSettings.model_validate(asdict(worn)) for slot, worn in finish.maps}
    return OwnMaterial(id=material.id, name=material.name, maps=maps, **told)


class OwnPicture(Settings):
    """A picture that was given to the job, beside those that its sources brought."""

    sha256: Sha256
    name: str = Field(min_length=1, max_length=200)
    width: int = Field(ge=1)
    height: int = Field(ge=1)
    bytes: int = Field(ge=0)
    clear: Clear = ""
    bluish: bool = False
    mean: str = Field("", max_length=7)


def as_picture(texture: Texture) -> OwnPicture:
    """A texture as a job keeps it."""
    return OwnPicture.model_validate({name: getattr(texture, name) for name in OwnPicture.model_fields})


#: A matrix (4, 4) by rows; as a list without an order of types.
_Matrix = Annotated[
    tuple[Annotated[float, Field(ge=-1e12, le=1e12)], ...],
    Field(min_length=16, max_length=16),
]


class Shared(Settings):
    """A part that gives way to another that it is a copy of: the matrix puts the other's shape where its own is, in the
    coordinates of their source."""

    part: PartRef
    of: PartRef
    matrix: _Matrix


class Selection(Settings):
    """What was picked up once and is kept under a name: whole parts, or single placements, by what decisions call them."""

    name: str = Field(min_length=1, max_length=200)
    parts: tuple[PartRef, ...] = Field((), max_length=MOST_PARTS)
    placements: tuple[PlacementRef, ...] = Field((), max_length=MOST_PARTS)

    @model_validator(mode="after")
    def _holds_something(self) -> Self:
        if bool(self.parts) == bool(self.placements):
            raise ValueError("a selection holds parts, or single placements")
        return self


class SortSettings(Settings):
    """Rules in order: the first that matches decides. What none covers keeps its source colour."""

    rules: tuple[Rule, ...] = Field((), max_length=MOST)
    materials: tuple[OwnMaterial, ...] = Field((), description="made or changed for this job", max_length=1000)
    replaced: dict[str, str] = Field(
        {}, description="materials that give way everywhere, and to which", max_length=1000
    )
    pictures: tuple[OwnPicture, ...] = Field((), description="given to this job", max_length=1000)
    least_roughness: Share = Field(0.0, description="nothing of the job is shinier than this lets it be")
    keep_source: bool = Field(
        True, description="what no rule covers is dressed in its colour from the source, if it has one"
    )
    names: tuple[Rename, ...] = Field((), description="steps that rename, in their order", max_length=500)
    order: OrderSettings = OrderSettings()
    shared: tuple[Shared, ...] = Field((), description="copies of other parts that give way to those", max_length=MOST)
    selections: tuple[Selection, ...] = Field((), description="kept by name", max_length=1000)
    locked: tuple[PartRef, ...] = Field(
        (), description="parts that cannot be picked, nor changed by what names them", max_length=MOST_PARTS
    )

    @field_validator("selections", mode="after")
    @classmethod
    def _one_of_a_name(cls, given: tuple[Selection, ...]) -> tuple[Selection, ...]:
        if len({item.name for item in given}) < len(given):
            raise ValueError("two selections have one name")
        return given
