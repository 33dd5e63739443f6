"""Mend as it goes over the wire."""

from typing import Annotated

from pydantic import BaseModel, Field, WithJsonSchema

from hemp_ladder.api.views import JobView
from hemp_ladder.work.mending import Deed

Place3 = Annotated[
    tuple[float, float, float],
    WithJsonSchema({"type": "array", "items": {"type": "number"}, "minItems": 3, "maxItems": 3}),
]


class ShellView(BaseModel):
    """A loose shell: a point on it and its box in the part's source coordinates; its area in square coordinates."""

    at: Place3
    triangles: int
    area: float
    low: Place3
    high: Place3


class StudyView(BaseModel):
    """What is known of one part's triangles. Nothing in it where they cannot be studied.

    `flaws` has by kind pairs of points around `origin`, three 32 bit numbers each, as base64.
    """

    origin: Place3 = (0.0, 0.0, 0.0)
    flaws: dict[str, str] = {}
    shells: list[ShellView] = []
    crossing: int = 0


class CurveView(BaseModel):
    """How many places are left of a part at each weld tolerance, in metres, and where detail begins to collapse."""

    tolerances: list[float] = []
    left: list[int] = []
    collapse: float | None = None
    places: int = 0
    watertight: bool | None = Field(None, description="before anything is mended")
    volume: float | None = Field(None, description="before anything is mended, in cubic source coordinates")


class HandIn(BaseModel):
    """What is pointed at, and what is to be done with it."""

    node: int = Field(ge=0, le=(1 << 31) - 1)
    at: Place3 = Field(description="in metres, Z up")
    does: Deed


class RightView(BaseModel):
    """What was put right, in the words of the remedies, and the job with it."""

    taken: list[str]
    job: JobView
