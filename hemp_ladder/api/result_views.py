"""What the decisions in force come to, as it goes over the wire."""

from pydantic import BaseModel, Field

from hemp_ladder.api.trim_views import TrimTold
from hemp_ladder.api.views import FindingView, MaterialView, PartView, RungView


class FittedView(BaseModel):
    """One source after Fit. `matrix` is column-major: its coordinates to metres, Z up."""

    ref: str
    matrix: list[float]
    unit: str | None
    declared_unit: str | None
    up: str
    before: list[float] | None = Field(None, description="the matrix before the last change of it, where there was one")
    own_angles: list[float] = Field(description="degrees that it is turned about X, then Y, then Z")
    mirrored: bool
    size: list[float] = Field(description="in metres, X, Y and Z after Fit")
    middle: list[float]
    paged: bool = Field(description="drawn on a page, whose width can be stated")
    sized: bool = Field(description="the file says how large it is, though its unit has no name")


class AddedNode(BaseModel):
    """Where a shell that was taken out, or a joined part, stands. `world` is column-major, in its source's coordinates."""

    name: str
    parent: int
    part: int
    member: int
    world: list[float]
    layer: str | None


class PartResult(BaseModel):
    """A part under the decisions in force; lengths in metres. `triangles` is None until it is meshed."""

    mesh: str | None
    pack: str | None = None
    mesh_before: str | None
    pack_before: str | None
    triangles: int | None = None
    triangles_before: int | None = Field(None, description="before the last change, where that changed its mesh")
    vertices: int | None = None
    chord: float
    degrees: float
    facet_by: list[int] = Field([], description="exceptions of Facet that hold for it, in order")
    mend_by: list[int] = Field([], description="exceptions of Mend that hold for it, in order")
    trim_by: list[int] = Field([], description="exceptions of Trim that hold for it, in order")
    off_by: float | None = Field(None, description="largest distance found from the exact shape, either way")
    bound: float | None = Field(None, description="no farther off than this, where that is known")
    samples: int = Field(0, description="points that were held against the exact shape")
    by_angle: float | None = Field(
        None, description="share of what is divided across curves that the angle decides, not the chord error"
    )
    area: float | None = Field(None, description="of its triangles, in square metres")
    before_trim: int | None = Field(None, description="triangles before Trim, where that made it lighter")
    deviation: float | None = Field(None, description="largest distance from the mesh before Trim, measured")
    pixels: float | None = Field(None, description="the same in the picture of the lookout that is chosen")
    watertight: bool | None = None
    inside_out: bool | None = None
    flaws: dict[str, int] = Field(
        {}, description="what is wrong with its triangles, counted; what is nought is left out"
    )
    slender: int = Field(0, description="triangles with an angle under five degrees")
    shells: int = 0
    volume: float | None = Field(None, description="in cubic metres; means nothing where it is not closed")
    bad_normals: dict[str, int] = Field({}, description="what is wrong with the normals it came with, counted")
    uncounted: bool = Field(False, description="it has so many triangles that crossings were not looked for")
    effects: dict[str, float] = Field({}, description="by operation what it did to this mesh, where it did anything")
    failed_faces: int | None = None
    failure: str | None = Field(None, description="why it could not be made")
    flipped: bool
    turning: float = Field(
        description="radius under which the angle decides how fine its curves are, above it the chord error; 0 where neither does"
    )
    sides: list[float] = Field(description="of its box as it was designed, the longest first")


class DressView(BaseModel):
    """What some placements wear: materials, the rule that gave each (-1 source, -2 nothing), faces by slot."""

    materials: list[str]
    rules: list[int]
    face_slots: list[list[int]]
    why: str = Field(description="what decided, in words")
    loose: bool = Field(description="something of it has no material yet")


class DrawnView(BaseModel):
    """Of what was drawn as outlines, how many are what."""

    outlines: int = 0
    solid: int = 0
    flat: int = 0
    holes: int = 0
    waiting: int = 0
    lines: int = 0


class Measured(BaseModel):
    """What of a result becomes another as meshes come in."""

    decisions_id: int
    model_key: str
    size: list[float] = Field(description="overall size of what entered, in metres, X, Y and Z after Fit")
    box: list[list[float]]
    triangles: int
    vertices: int
    triangles_before: int | None
    inside_out: list[int] = Field(description="parts that are closed and face inward, those turned by hand counted so")
    open_parts: list[int] = Field(description="parts with edges where their surface ends")
    rungs: dict[str, RungView] = Field(description="how Fit, Facet, Sort, Mend and Trim stand, by name")
    failed_parts: int
    levels: dict[str, int | None] = Field(
        description="triangles of each level of detail over all placements that entered; none until all are made"
    )
    effects: dict[str, float] = Field(description="by operation, what it did over all placements that entered")
    off_by: float
    slender: int = Field(0, description="triangles with an angle under five degrees, over all placements")
    glb_bytes: int
    trim: TrimTold
    findings: list[FindingView] = Field(
        description="about the triangles that are there; those about the file stand with the source"
    )


class ResultNews(Measured):
    """What a result has become since parts of it were known: those meshed or failed that were not, and every figure."""

    changed: dict[int, PartResult] = Field(description="by their numbers")


class LookoutView(BaseModel):
    """A view that is kept, in metres, Z up: where it stands, where it looks to, what is up for it; the angle in radians
    that it sees from bottom to top, or for parallel lines the height in metres; width to height of its picture, 0 where
    nothing is said; whether it is a camera of a source."""

    name: str
    eye: list[float]
    way: list[float]
    up: list[float]
    tall: float
    reach: float
    wide: float
    camera: bool


class TreeView(BaseModel):
    """The job's own tree: groups, each behind the one it stands in (-1: at the top), with the placements below each; and for
    each of the result's placements its group."""

    ids: list[str]
    names: list[str]
    parents: list[int]
    pivots: list[list[float] | None]
    counts: list[int]
    of: list[int]


class ResultView(Measured):
    """The decisions in force, worked out.

    `cut_parts` are pieces that a polygon left: parts beyond those of the
    structure, and `cut_nodes` says which nodes they stand at.
    """

    sources: list[FittedView]
    parts: list[PartResult]
    cut_parts: list[PartView]
    cut_nodes: list[int]
    added_parts: list[PartView] = Field(description="shells and joined parts, behind the pieces")
    added_nodes: list[AddedNode] = Field(description="where those stand, behind the nodes of the structure")
    base_parts: int = Field(description="parts of the structure, before pieces and those")
    placements: list[int]
    left_out: int = Field(description="placements that did not enter")
    dresses: list[DressView]
    dress_of: list[int]
    layers: list[str | None]
    layer_of: list[int]
    materials: list[MaterialView] = Field(description="in use")
    palette: list[MaterialView] = Field(description="every material that a rule may give")
    alike: list[list[str]] = Field(description="materials in use that look the same, by id")
    lookouts: list[LookoutView]
    sun: list[float] | None = Field(description="the way the sunlight of a source goes, Z up, where one has any")
    offset: list[float] = Field(description="what was taken from all places to bring the origin where it is, metres")
    yardstick: float = Field(description="height of the figure beside the model, in metres")
    drawn: DrawnView
    loose_parts: list[int]
    names: list[str] | None = Field(description="of the placements, where any were renamed")
    unnamed: list[int] = Field(description="parts whose own names say nothing, such as a bare number")
    tree: TreeView | None = Field(description="none: all stands as the source has it")
    rule_counts: list[int] = Field(description="for each rule of Sort the placements it decides")
