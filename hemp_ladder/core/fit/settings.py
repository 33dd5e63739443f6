"""What a person decides at Fit."""

from typing import Annotated, Literal, get_args

from pydantic import Field, WithJsonSchema, field_validator

from hemp_ladder.core.lengths import Metres
from hemp_ladder.core.refs import PartRef, SourceRef
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
_Number = Annotated[float, Field(ge=-1e15, le=1e15, allow_inf_nan=False)]
_LISTED = {"type": "array", "items": {"type": "number"}}
#: X, Y and Z as a source wrote them.
Raw = Annotated[tuple[_Number, _Number, _Number], WithJsonSchema({**_LISTED, "minItems": 3, "maxItems": 3})]
_Angle = Annotated[float, Field(ge=-360, le=360)]
#: Degrees about X and about Y.
Tip = Annotated[tuple[_Angle, _Angle], WithJsonSchema({**_LISTED, "minItems": 2, "maxItems": 2})]
#: What a picked point is of the thing it was picked on.
SpotKind = Literal["corner", "edge middle", "edge", "centre", "face centre", "surface", "box", "typed"]
#: What is measured.
NoteKind = Literal["distance", "along", "angle", "radius", "box"]
#: Which point of the whole is the origin.
Anchor = Literal["centre", "base centre", "box", "picked"]


class _Measured(Settings):
    unit: str | None = Field(None, description="unit that the numbers in the source stand for; none: as declared")
    up: Axis | None = Field(None, description="axis that points up in the source; none: as declared")

    @field_validator("unit")
    @classmethod
    def _known(cls, value: str | None) -> str | None:
        return None if value is None else unit(value).code


class Spot(Settings):
    """A point that was picked on a source, kept where the source has it: whatever Fit does, it goes along."""

    source: SourceRef
    at: Raw = Field(description="in the source's own coordinates and axes")
    kind: SpotKind = "surface"
    part: PartRef | None = Field(None, description="the part that it was picked on")
    radius: float = Field(0.0, ge=0, le=1e15, description="of the circle whose centre it is, in source coordinates")
    way: Raw | None = Field(
        None, description="along the edge, the circle's axis, or off the face; in the source's axes"
    )


class SourceFit(_Measured):
    """One source's own size, up axis and place beside the others.

    A source is scaled, its up axis turned up, mirrored, then turned about X, Y and Z in this order, and moved.
    """

    each: Annotated[Metres, Field(gt=0, le=1e7)] | None = Field(
        None, description="what one of its coordinates is, in metres, whatever its unit"
    )
    width: Annotated[Metres, Field(gt=0, le=1e5)] | None = Field(
        None, description="scaled so that it is so wide along its own X, in metres; whatever its unit"
    )
    measured: Literal["artwork", "page"] = Field("artwork", description="what the width is of")
    mirrored: bool = Field(False, description="left and right turned over, as for a source of the other handedness")
    tip: Tip = Field((0.0, 0.0), description="turn about X, then about Y through its origin, in degrees")
    turn: float = Field(0.0, ge=-360, le=360, description="then about the up axis, in degrees")
    move: Point = Field((0.0, 0.0, 0.0), description="then moved by this, in metres, Z up")


class Origin(Settings):
    """The point of a source that is the origin of the job, and what it is."""

    named: Anchor = "picked"
    side: tuple[Literal[-1, 0, 1], Literal[-1, 0, 1], Literal[-1, 0, 1]] = Field(
        (0, 0, 0), description="of the overall box: which corner, or middle of an edge or face"
    )
    spot: Spot


class Note(Settings):
    """A measurement that stays: what it is of, and the figure that it should have."""

    id: int = Field(ge=1, le=1_000_000)
    kind: NoteKind
    axis: Literal["x", "y", "z"] | None = Field(None, description="of a distance along an axis of the job, Z up")
    spots: tuple[Spot, ...] = Field((), max_length=3)
    part: PartRef | None = Field(None, description="whose box it is; none: of the whole")
    should: Annotated[float, Field(gt=0, le=1e9)] | None = Field(
        None, description="what it is on the drawing: metres, or degrees of an angle"
    )
    was: float | None = Field(None, description="what it was when it was made, in metres or degrees")
    label: str = Field("", max_length=200)


class CameraRef(Settings):
    """A camera of a source, by its place among that source's."""

    source: SourceRef
    number: int = Field(ge=0, le=100_000)


class OwnLookout(Settings):
    """A view kept by name: a source's camera, or one saved from the stage, kept in a source's own axes."""

    name: str = Field(min_length=1, max_length=200)
    camera: CameraRef | None = None
    source: SourceRef | None = Field(None, description="whose axes `matrix` is in, where it is no camera")
    matrix: Annotated[tuple[_Number, ...], WithJsonSchema({**_LISTED, "minItems": 16, "maxItems": 16})] | None = Field(
        None, min_length=16, max_length=16, description="4 x 4 by rows: looks along -Z, +Y up"
    )
    tall: float = Field(0.0, ge=0, lt=3.15, description="radians seen from bottom to top; 0: parallel lines")
    wide: float = Field(0.0, ge=0, le=100, description="width of the picture to its height; 0: not said")
    reach: float = Field(0.0, ge=0, le=1e15, description="height seen by parallel lines, in the axes' lengths")


class FitSettings(_Measured):
    """Which unit the sources' numbers are in, which axis points up, where each stands and where the origin is.

    `unit` and `up` hold for every source that states none of its own.
    """

    sources: dict[SourceRef, SourceFit] = Field(
        default_factory=dict, description="what single sources have of their own"
    )
    datum: Point = Field((0.0, 0.0, 0.0), description="the point that becomes the origin, in metres, Z up")
    origin: Origin | None = Field(
        None, description="the point of a source that becomes the origin; in place of `datum`"
    )
    ground: Spot | None = Field(None, description="the lowest point of all, whose height becomes 0")
    lift: float = Field(0.0, ge=-1e8, le=1e8, description="all stands so much higher, in metres")
    into_mesh: bool = Field(False, description="scale, turn and place go into every mesh")
    into_mesh_parts: frozenset[PartRef] = Field(frozenset(), description="parts whose place goes into the mesh")
    notes: tuple[Note, ...] = Field((), max_length=200, description="measurements that stay")
    lookouts: tuple[OwnLookout, ...] | None = Field(
        None, max_length=500, description="in their order; none: the sources' cameras as they came"
    )
    yardstick: float = Field(1.75, gt=0.01, le=1000, description="height of the figure beside the model, in metres")
