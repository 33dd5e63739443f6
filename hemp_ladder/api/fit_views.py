"""What Fit says over the wire. Lengths in metres where nothing else is said."""

from pydantic import BaseModel, Field

from hemp_ladder.api.views import Line
from hemp_ladder.core.fit.settings import Note, Spot
from hemp_ladder.core.fit.ways import AnyWay

Metres3 = list[float]


class MarksView(BaseModel):
    """What can be picked on a part, in its own coordinates: flat lists, three numbers a point.

    `kind`: 0 corner, 1 middle of an edge, 2 centre of a circle, 3 centre of a flat face. `way` is along an edge, a circle's
    axis, or off a face. `lines` are points along edges, each beginning at `starts`; `of` is the mark of each edge.
    """

    at: list[float]
    kind: list[int]
    way: list[float]
    radius: list[float]
    lines: list[float]
    starts: list[int]
    of: list[int]
    full: bool


class PickIn(BaseModel):
    """Something pointed at: a mark of a placed part, or a place on its surface."""

    node: int = Field(ge=0, le=(1 << 31) - 1)
    mark: int | None = Field(None, ge=0, le=1_000_000)
    at: tuple[float, float, float] | None = Field(None, description="where on the surface, in metres, Z up")
    normal: tuple[float, float, float] | None = Field(None, description="off the surface there")


class SpotView(BaseModel):
    """A picked point: as decisions keep it, where it stands, and what it is."""

    spot: Spot
    where: Metres3
    said: str
    way: Metres3 | None = Field(None, description="unit vector of an edge, an axis or off a face, Z up")


class LikelyView(BaseModel):
    """A unit that a source's numbers may be in, how large everything is in it at its largest, and what speaks for it."""

    unit: str
    size: float
    reasons: list[str]


class SourceSizeView(BaseModel):
    """Where a source's size comes from: its declared unit and where it is declared, and other units that are likely."""

    ref: str
    declared: str | None
    declared_in: str
    likely: list[LikelyView]
    stands_on_tip: bool = Field(description="it stands on an edge or a tip, and has a large flat side to lie on")
    down: Metres3 | None = Field(description="the way that this side looks, Z up: to be laid on the ground")


class NoteView(BaseModel):
    """A measurement that stays, as it stands now: `value` in metres or degrees, `box` the three sides of a box."""

    note: Note
    said: str
    value: float
    box: Metres3 | None
    points: list[Metres3]
    off: float | None
    agrees: bool
    changed: float | None
    lost: str


class FittingView(BaseModel):
    """What Fit knows beside the result: units, measurements, the offset, and what places in the mesh would cost."""

    sources: list[SourceSizeView]
    notes: list[NoteView]
    disagree: str | None
    offset: Metres3
    offset_said: str | None
    rounding_received: float = Field(
        description="metres by which single precision rounds the farthest coordinate as received"
    )
    rounding_now: float
    meshes: int
    meshes_in_place: int
    ground: float = Field(description="height of the lowest point above the ground")


class WayIn(BaseModel):
    """A way to fit, and in a few words what it does."""

    way: AnyWay
    label: Line = Field("", max_length=200)
    continues: int | None = None


class WayLook(BaseModel):
    """What a way would come to, before it is taken."""

    size: Metres3
    measured: float | None = Field(None, description="what a known length is now")
    wanted: float | None = None
    factor: float | None = None
    mistake: str | None = None
    unit: str | None = Field(None, description="the unit that explains the factor")
    disagree: str | None = None
    asked: str | None = Field(None, description="why it is asked once more whether that is meant")
    residuals: list[float] | None = Field(None, description="metres that stay between the points of each pair")
