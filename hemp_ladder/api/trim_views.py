"""Trim as it goes over the wire."""

from typing import Annotated, Literal

from pydantic import BaseModel, Field

By = Literal["share", "count", "bytes", "error"]
_PartNumber = Annotated[int, Field(ge=0, le=(1 << 31) - 1)]


class GoalIn(BaseModel):
    """What parts are reduced to: a share of one, triangles or bytes of all of them together, or an error in metres."""

    by: By
    value: float = Field(gt=0, le=1e15)


class ReduceIn(BaseModel):
    """Which parts are reduced, by index, and to what; everything only where it is said."""

    parts: list[_PartNumber] = Field([], max_length=100_000)
    everything: bool = False
    goal: GoalIn
    hold: float | None = Field(None, gt=0, le=1, description="no farther than the shape holds, by this share")
    borders: bool = Field(False, description="where the surface ends, nothing moves")


class GradesIn(BaseModel):
    """Parts whose grades are to be seen beside each other, and the goals of those."""

    parts: list[_PartNumber] = Field(min_length=1, max_length=500)
    goals: list[GoalIn] = Field(min_length=1, max_length=4)


class GradePart(BaseModel):
    """A part at a grade; lengths in metres. Without triangles it is still being made."""

    part: int
    mesh: str | None = None
    pack: str | None = None
    triangles: int | None = None
    vertices: int | None = None
    deviation: float | None = None
    pixels: float | None = Field(None, description="the deviation in the picture of the lookout that is chosen")
    lost: list[str] = Field([], description="what of its shape is lost, in words")
    note: str = Field("", description="why it is as it was, or could not be made")


class GradeView(BaseModel):
    """Some parts at a grade, over all their placements; lengths in metres."""

    goal: GoalIn | None
    parts: list[GradePart]
    ready: bool
    triangles: int
    bytes: int
    deviation: float
    pixels: float | None
    worst: int | None = Field(None, description="the part, by index, that deviates most")


class GradesView(BaseModel):
    """The full grade first."""

    grades: list[GradeView]


class FacetsView(BaseModel):
    """An exact part at a count of triangles by coarser facets and by reduction, both held against much finer facets; lengths
    in metres. Nothing in it where the part cannot be compared."""

    times: float | None = None
    triangles: int = 0
    off: float = 0.0
    reduced: int = 0
    reduced_off: float = 0.0


class CostsView(BaseModel):
    """What a delivery to the target in force would weigh, about."""

    triangles: int = 0
    bytes: int = 0
    pixels: int = Field(0, description="largest side of a picture")
    draw_calls: int = 0
    picture_bytes: int = 0


class LevelView(BaseModel):
    """A lighter level; lengths in metres. Without triangles it is still being made."""

    name: str
    triangles: int | None
    bytes: int
    deviation: float
    worst: int | None
    lost: int = Field(description="parts that lost their shape")
    stayed: int = Field(
        0, description="parts that stay as in the full level, because what makes it made no sense of them"
    )
    why: str = Field("", description="of one of those")


class TrimTold(BaseModel):
    """What Trim comes to."""

    before: int = Field(0, description="triangles over all placements before it")
    deviation: float = Field(0.0, description="the largest, in metres")
    pixels: float | None = None
    worst: int | None = None
    lost: list[int] = []
    joined: int = Field(0, description="vertices of loose triangles that were joined before anything was reduced")
    costs: CostsView = CostsView()
    over: dict[str, int] = Field({}, description="by gauge how much is over the limit")
    levels: list[LevelView] = []
