"""What goes over the wire. Every length says its unit in its name or description."""

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, Field

from hemp_ladder.core.choose.outlines.resolve import Role
from hemp_ladder.core.choose.settings import TakeBy
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.model.labels import one_line
from hemp_ladder.core.ship.settings import Target
from hemp_ladder.core.sort.settings import OwnMaterial

#: Text on one line: what is no character of a line becomes a blank.
Line = Annotated[str, AfterValidator(one_line)]


class FileIn(BaseModel):
    """A file that was uploaded before."""

    name: Line = Field(min_length=1, max_length=400)
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")


class NewSource(BaseModel):
    """Files that belong together, or one ZIP bundle."""

    files: list[FileIn] = Field(min_length=1, max_length=500)


class NewJob(NewSource):
    name: Line = Field(min_length=1, max_length=200)


class Uploaded(BaseModel):
    name: str
    sha256: str
    bytes: int


class OfferView(BaseModel):
    """A remedy that one click takes."""

    label: str
    does: str
    values: dict[str, Any]
    safe: bool = False


class FindingView(BaseModel):
    """Something noticed; `parts` are indices in the structure. Settled when one of its offers is in force."""

    code: str
    severity: Literal["error", "warning", "note"]
    where: str
    message: str
    remedy: str
    why: str
    source: str = ""
    parts: list[int] = []
    offers: list[OfferView] = []
    settled: bool = False


class OfferIn(BaseModel):
    """A remedy to be taken, as a finding offered it."""

    label: str = Field(min_length=1, max_length=200)
    does: str = Field(max_length=40)
    values: dict[str, Any] = {}
    source: str = Field("", max_length=400)
    parts: list[int] = Field([], max_length=1_000_000)


class SourceView(BaseModel):
    """One source of the job and how far reading it is. `ref` is what decisions call it."""

    ref: str
    name: str
    revision: int
    files: list[dict[str, Any]]
    state: Literal["waiting", "reading", "ready", "refused", "cancelled"]
    stage: str
    count: int
    share: float = Field(0.0, description="how much of reading it is done, 0 to 1")
    facts: dict[str, Any] | None
    findings: list[FindingView]


class JobLine(BaseModel):
    """A job in the list."""

    id: int
    name: str
    created: datetime
    state: str
    files: list[str]
    bytes: int
    parts: int | None
    placements: int | None
    shipped: Literal["none", "ok", "failed", "busy"]
    meshing: bool
    pictured: datetime | None = Field(description="when its picture was made; none: it has none")


class Check(BaseModel):
    name: str
    expected: Any
    found: Any
    ok: bool


class Receipt(BaseModel):
    """Checks, and what stands beside them: the offset, what single precision rounds to, measurements."""

    ok: bool
    checks: list[Check]
    told: dict[str, Any] = {}


class DeliveryView(BaseModel):
    """One set of files made for a target; `stale` when decisions changed since."""

    id: int
    state: Literal["waiting", "writing", "done", "failed", "cancelled"]
    stage: str
    share: float = Field(0.0, description="how much of writing it is done, 0 to 1")
    message: str
    target: dict[str, Any]
    files: list[dict[str, Any]]
    beside: int | None = Field(None, description="the delivery of another level that was asked for with it")
    bundle: str | None
    bundle_bytes: int
    receipt: Receipt | None
    created: datetime
    stale: bool


class ClimbView(BaseModel):
    """Meshes wanted by the decisions in force, how many are there, and how many could not be made."""

    state: Literal["none", "working", "done", "cancelled", "failed"]
    done: int
    total: int
    failed: int = 0
    message: str = Field("", description="why it failed, or what of the decisions makes no sense")


class RungView(BaseModel):
    """How a rung of the ladder stands, with its figure and what that is of, in words."""

    state: Literal["done", "person", "stale", "notyet", "busy"] = Field(
        description="done; needs a person; changed since; not yet; under way"
    )
    figure: str = ""
    rest: str = ""


class HistoryLine(BaseModel):
    """A decision, or a revision of a source."""

    id: int
    kind: Literal["decision", "source"]
    label: str
    created: datetime
    now: bool = Field(description="it is the decision in force, or the newest revision of its source")
    standing: bool = Field(description="it is in force or led to what is; else it was undone or replaced")
    changes: list[str] = Field(description="what it changed of what stood before it, in words")


class JobView(BaseModel):
    """A job whole, but for its structure and its triangles."""

    id: int
    name: str
    sources: list[SourceView]
    state: Literal["waiting", "reading", "ready", "refused", "cancelled"] = Field(
        description="of all sources together: ready as soon as one is, and still reading beside that by its own state"
    )
    model_key: str | None = Field(description="changes with the structure; there may be one before there are shapes")
    decisions_id: int
    decisions: Decisions
    can_undo: bool
    can_redo: bool
    climb: ClimbView
    deliveries: list[DeliveryView]
    rungs: dict[str, RungView] = Field(description="by name, those that do not hang on the result, or go before it")
    stamp: int = Field(
        description="when it was looked up, microseconds since 1970: of two views of a job, the higher is the newer, "
        "whichever came first"
    )


class PartView(BaseModel):
    """A part of the structure; `times` counts its placements."""

    ref: str = Field(description="what decisions call it")
    label: str = Field(description="what it is called where people read: its name, with a number where several have it")
    name: str
    layer: str | None
    colour: str | None
    surface: bool = Field(description="there is, or by decision can be, something to mesh")
    curves: int
    times: int


class MemberView(BaseModel):
    """Where one source stands in the structure: first node and how many, first part and how many."""

    ref: str
    name: str
    first_node: int
    nodes: int
    first_part: int
    parts: int
    detailed: bool


class TagsView(BaseModel):
    kind: str
    ifc_class: str | None
    storey: str | None
    materials: list[str]


class StructureView(BaseModel):
    """What does not change with decisions. Columns, for they may be long.

    `world` is little-endian float64 in base 64: a column-major 4x4 matrix a
    node, in the axes and coordinates of its source.
    """

    model_key: str
    members: list[MemberView]
    parts: list[PartView]
    node_names: list[str]
    node_parents: list[int]
    node_parts: list[int]
    node_tags: list[int]
    tags: list[TagsView]
    world: str
    layers: list[str]
    colours: list[str]
    styles: list[str]


class TallyView(BaseModel):
    """One layer, class, storey, group or part of a source, and what it holds or would add."""

    by: TakeBy
    match: str
    source: str
    parts: int
    placements: int
    taken: int = Field(description="placements of it that enter now")
    triangles: int
    estimated: bool = Field(description="some of it is not meshed; its triangles are reckoned by its faces")
    off: bool = Field(description="switched off in the file")


class OutlineView(BaseModel):
    """One placed outline on the plan. Lengths in metres; `counts` are points of its rings, in order."""

    part: int
    name: str
    ref: str = Field(description="what decisions call it")
    label: str
    source: str
    layer: str | None
    colour: str | None
    role: Role
    filled: bool
    stroke: float
    height: float | None
    base: float | None
    wall: float
    gap: float | None = Field(description="between its ends, where it nearly closes")
    counts: list[int]
    closed: list[bool]
    inside: list[str] = Field(description="what decisions call the outlines around it, the nearest first; a few")


class ThinView(BaseModel):
    """A place where a wall is thinner than the nozzle: where on the plan, and how wide, in metres."""

    x: float
    y: float
    width: float
    part: int


class OutlinesView(BaseModel):
    """Outlines on the plan; `points` is base 64 of float32 (n, 2), around the middle of the box."""

    shapes: list[OutlineView]
    total: int = Field(description="outlines there are, of which the largest are shown")
    box: list[list[float]]
    points: str
    thin: list[ThinView]


class PlanView(BaseModel):
    """The plan in metres after Fit: for every placement four corners of its box, as base 64 of float32 (p, 4, 2)."""

    corners: str
    box: list[list[float]]
    taken: list[bool]


class PropertyView(BaseModel):
    name: str
    value: Any


class PropertySetView(BaseModel):
    name: str
    values: list[PropertyView]


class DetailsView(BaseModel):
    """What a source says of one node: property sets and quantities, in the order it has them."""

    sets: list[PropertySetView]


class MaterialView(BaseModel):
    """A material; `colour` is what it has from afar, #rrggbb in sRGB."""

    id: str
    name: str
    colour: str
    opacity: float
    own: OwnMaterial = Field(description="all of it, as decisions hold it")
    apart: str | None = Field(None, description="#rrggbb by which it is told from the others by eye")


class LengthView(BaseModel):
    """A typed length as it was read, in metres and in words; `other` where the text can mean something else as well."""

    metres: float
    said: str
    other: float | None
    other_said: str | None


class FaultIn(BaseModel):
    """A fault in a browser: in which part of the page, what it said, and which pieces of the page stood around it."""

    where: Line = Field(max_length=200)
    message: Line = Field(max_length=2000)
    stack: str = Field("", max_length=20_000)


class NewDelivery(BaseModel):
    """A delivery to another target than the one in force, or with another level of detail beside it."""

    target: Target | None = None
    beside: str | None = Field(
        None, max_length=40, description="a level that is a delivery of its own; both name each other"
    )


class JobName(BaseModel):
    """What a job is called."""

    name: Line = Field(min_length=1, max_length=200)


class DecisionsIn(BaseModel):
    """New decisions, whole, and in a few words what changed."""

    decisions: Decisions
    label: Line = Field(min_length=1, max_length=200)
    base: int = Field(description="the decisions that were in force when these were made: `decisions_id` of the job")
    continues: int | None = Field(None, description="the decisions in force, when this is the same movement going on")
    first: list[Annotated[int, Field(ge=0, le=(1 << 31) - 1)]] = Field(
        [], max_length=2000, description="parts, by index, whose meshes are made before the others: those in view"
    )


class Known(BaseModel):
    """Which parts of a result are known already to be meshed."""

    decisions_id: int = Field(ge=1, le=(1 << 31) - 1)
    model_key: str = Field(max_length=200)
    parts: str = Field(max_length=4 << 20, description="a bit a part, the first the lowest of the first byte; base64")


class DecisionsPatch(BaseModel):
    """A change of the decisions in force: a merge patch (RFC 7396), and in a few words what it does."""

    patch: dict[str, Any]
    label: Line = Field("Changed by a script", min_length=1, max_length=200)
    base: int | None = Field(None, description="where given, the decisions must still be these")


class FieldProblem(BaseModel):
    """What is wrong with one field."""

    field: str
    detail: str


class Problem(BaseModel):
    """RFC 9457: what went wrong, in a sentence, and what to do."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    code: str
    remedy: str = ""
    field: str | None = None
    errors: list[FieldProblem] = Field([], description="all that is wrong, where several fields are")
    doubt: tuple[int, int] | None = Field(
        None, description="of typed text what was not understood: where it begins, and how many characters"
    )
