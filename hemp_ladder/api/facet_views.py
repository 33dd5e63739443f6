"""Facets before they are decided, as they go over the wire. Lengths in metres."""

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from hemp_ladder.core.facet.settings import Absolute, Allowance, Chord, Degrees, Edge, More, SeenFrom

_PartNumber = Annotated[int, Field(ge=0, le=(1 << 31) - 1)]


class TryIn(BaseModel):
    """Settings to be tried."""

    chord: Chord = Absolute()
    degrees: Degrees = 20
    longest: Edge | None = None
    shortest: Edge | None = None
    even: More | None = None


class SwatchesIn(BaseModel):
    """Parts to be seen at settings beside each other; none for the heaviest of all that have any."""

    parts: list[_PartNumber] = Field([], max_length=500)
    settings: list[TryIn] = Field(min_length=1, max_length=4)


class SwatchPart(BaseModel):
    """A part at a setting. Without triangles it is still being made."""

    part: int
    mesh: str | None = None
    pack: str | None = None
    triangles: int | None = None
    off: float | None = Field(None, description="largest distance found from the exact shape, either way")
    note: str = Field("", description="why it could not be made")


class SwatchView(BaseModel):
    """Some parts at a setting, over all their placements; no setting: as they are."""

    setting: TryIn | None
    parts: list[SwatchPart]
    ready: bool
    triangles: int
    vertices: int
    bytes: int
    off: float
    mean: float | None = Field(None, description="mean distance over the area of those where it is known")
    bound: float | None = Field(None, description="no farther off than this, where that is known of all")
    samples: int = Field(0, description="points that were held against the exact shape")
    worst: int | None = Field(None, description="the part, by index, that is off most")
    seconds: float = Field(0.0, description="of processor that making them took")


class SwatchesView(BaseModel):
    """As they are, first; then each setting. `left` counts parts that are not shown."""

    parts: list[int]
    left: int
    swatches: list[SwatchView]


class CurveIn(BaseModel):
    """Parts to be measured at many settings; none for all that have any."""

    parts: list[_PartNumber] = Field([], max_length=100_000)


class CurvePoint(BaseModel):
    """All of them at one setting; `known` of how many it is known already."""

    setting: TryIn
    known: int
    triangles: int
    vertices: int
    off: float
    seconds: float


class SettingsCurve(BaseModel):
    """Error against triangles, the finest first; `now` and `knee` are numbers of points, `measured` of `wanted` meshes are
    known."""

    points: list[CurvePoint]
    parts: int
    now: int | None
    knee: int | None
    measured: int
    wanted: int


class SpreadIn(BaseModel):
    """An allowance to be spread over the parts by what is seen of them, or by their size where no lookout is asked for."""

    allowance: Allowance
    seen: SeenFrom | None = None


class SpreadPart(BaseModel):
    """What a part gets: times its own chord error, the triangles of all its placements now and then, its error in pixels or
    as a share of its size."""

    part: int
    times: float
    triangles_now: int
    triangles: int
    error: float


class SpreadView(BaseModel):
    """What an allowance comes to. `more`, the error that a tenth more would reach."""

    state: Literal["measuring", "meshing", "looking", "done"]
    measured: int
    wanted: int
    allowed: float = 0.0
    total: float = 0.0
    triangles: int = 0
    fixed: float = 0.0
    error: float = 0.0
    more: float = 0.0
    in_pixels: bool = False
    parts: list[SpreadPart] = Field([], description="those that change, the most triangles given or taken first")
    changed: int = 0
    free: int = 0


class ByViewIn(BaseModel):
    """How far outlines may be off in the pictures of lookouts."""

    seen: SeenFrom


class ByViewView(BaseModel):
    """How many parts are seen from near, middle and far, and not at all; with how fine they would be."""

    state: Literal["looking", "meshing", "done"]
    near: int = 0
    middle: int = 0
    far: int = 0
    unseen: int = 0
    fixed: int = Field(0, description="parts that stay as somebody decided them by hand or pinned them")
    finest: float = 0.0
    coarsest: float = 0.0
