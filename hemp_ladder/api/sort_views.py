"""Sort as it goes over the wire."""

from typing import Annotated

from pydantic import BaseModel, Field

from hemp_ladder.api.views import Line
from hemp_ladder.core.settings import MOST_PARTS
from hemp_ladder.core.sort.order.settings import Rename
from hemp_ladder.core.sort.settings import By

_Text = Annotated[str, Field(min_length=1, max_length=500)]


class ShadowView(BaseModel):
    """Another rule, by number, and the placements that it takes."""

    rule: int
    placements: int


class WornView(BaseModel):
    """A material, by id, and the placements that wear it."""

    material: str
    placements: int


class RuleTold(BaseModel):
    """What a rule comes to."""

    said: str
    placements: int
    triangles: int
    matches: int
    shadowed_by: list[ShadowView]
    known: bool = Field(description="the material it gives is there")


class ValueView(BaseModel):
    """A value that occurs; what it wears with the most placements comes first."""

    value: str
    label: str
    placements: int
    triangles: int
    worn: list[WornView]
    rules: list[int]


class GuessView(BaseModel):
    by: By
    material: str
    values: list[str]
    words: list[str]
    placements: int


class RulesView(BaseModel):
    """The board of rules: rules in their order, and the values of one kind."""

    rules: list[RuleTold]
    by: By
    values: list[ValueView]
    kinds: dict[str, int] = Field(description="how many values of each kind occur")
    guesses: list[GuessView]
    loose_placements: int
    placements: int


class DifferenceView(BaseModel):
    """Placements that would wear something else."""

    before: str
    after: str
    placements: int


class WithoutView(BaseModel):
    """What if a rule were gone."""

    differences: list[DifferenceView]
    loose_placements: int


class ReasonView(BaseModel):
    rule: int
    said: str
    material: str
    decided: bool


class WhyView(BaseModel):
    """What a placement wears, what decided, and every rule that speaks of it."""

    materials: list[str]
    why: str
    reasons: list[ReasonView]


class AssignIn(BaseModel):
    by: By
    values: list[_Text] = Field(min_length=1, max_length=20_000)
    material: _Text


class NamesIn(BaseModel):
    """Steps that would rename, behind those in force where `more`."""

    steps: list[Rename] = Field(max_length=500)


class NameView(BaseModel):
    before: str
    after: str
    times: int


class NamesView(BaseModel):
    """What names would become: those that change, each once, the first few hundred."""

    changed: int
    placements: int
    cut: int
    clashes: int
    unnamed: int = Field(description="names that say nothing, after these steps")
    names: list[NameView]


class LeftoverView(BaseModel):
    """A kind of leftovers: what enters and could stay out, and what stays out anyway."""

    kind: str
    placements: int
    parts: list[int]
    left: int
    waiting: bool = Field(False, description="it is being looked for")


class DropIn(BaseModel):
    kinds: list[_Text] = Field(min_length=1, max_length=20)
    tiny: float = Field(0.005, gt=0, le=1e6, description="metres")


class RuleSetView(BaseModel):
    number: int
    name: str
    rules: int
    names: int = Field(description="steps of naming that it holds")
    order: bool = Field(description="it says how to group")


class RuleSetIn(BaseModel):
    name: Line = Field(min_length=1, max_length=200)
    names: bool = Field(False, description="steps of naming too")
    order: bool = Field(False, description="levels and groups too")


class SelectionView(BaseModel):
    """A kept selection: parts by index, or placements by node; how much of it is not there now."""

    name: str
    parts: list[int]
    nodes: list[int]
    missing: int


class NodesIn(BaseModel):
    nodes: list[Annotated[int, Field(ge=0)]] = Field(max_length=MOST_PARTS)


class RunView(BaseModel):
    """A kept run of decisions: the number it is known by, and what it changes, in words."""

    number: int
    name: str
    lines: list[str]


class RunIn(BaseModel):
    """Decisions of the job from the first to the last, both included."""

    name: Line = Field(min_length=1, max_length=200)
    first: int = Field(ge=1, le=(1 << 31) - 1)
    last: int = Field(ge=1, le=(1 << 31) - 1)


class AgainIn(BaseModel):
    parts: list[Annotated[int, Field(ge=0)]] | None = Field(
        None,
        max_length=MOST_PARTS,
        description="parts it is for by index; none: those it was for, as far as they are there",
    )


class JoinView(BaseModel):
    """What a way of joining meshes at Ship gives."""

    group: str
    meshes: int
    draw_calls: int
    bytes: int
    loses: str


class CopiesView(BaseModel):
    """Parts that are copies in all but record: `shapes` gives for each shape the part that the others would share it with,
    and those, by index."""

    shapes: list[list[int]]
    copies: int
    mirrored: int
    triangles: int = Field(description="that need not be stored any more")
    shared: int = Field(description="copies that share already")


class ShareIn(BaseModel):
    tolerance: float = Field(1e-5, gt=0, le=1, description="metres")
