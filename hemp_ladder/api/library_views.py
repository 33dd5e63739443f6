"""What the bench offers to start from, as it goes over the wire."""

from pydantic import BaseModel, Field

from hemp_ladder.api.views import MaterialView
from hemp_ladder.core.fit.settings import Axis
from hemp_ladder.core.ship.format import Group
from hemp_ladder.core.trim.settings import Limit


class PurposeView(BaseModel):
    """Facet settings to start from."""

    id: str
    metres: float
    degrees: float


class FormatView(BaseModel):
    """A format out, and how its files are read when nobody says otherwise."""

    code: str
    name: str
    unit: str
    up: Axis
    group: Group
    carries: list[str] = Field(description="what its files hold: instances, objects, materials, normals, uv, colours")
    inside: bool | None = Field(description="pictures lie in the file when nobody says otherwise; none: they cannot")
    right_handed: bool = Field(description="its standard says so; else the target may have left-handed axes")
    one_mesh: bool = Field(description="a file holds one mesh: what stays apart goes into files of its own")


class UnitView(BaseModel):
    """A unit of length that can be stated."""

    code: str
    name: str
    target: bool = Field(description="usual for what is written")


class RangeView(BaseModel):
    """What is offered for a number: values that make sense, and the one to start from."""

    least: float
    most: float
    start: float


class LibraryView(BaseModel):
    """What is the same for every job: materials, purposes, the formats out, units, axes and what is offered for numbers."""

    units: list[UnitView]
    axes: list[str] = Field(description="that can point up, the usual first")
    ranges: dict[str, RangeView] = Field(description="by rung or operation, and name")
    rule_material: str = Field(description="id of the material that a new rule gives")

    materials: list[MaterialView]
    purposes: list[PurposeView]
    formats: list[FormatView]
    receivers: list[Limit] = Field(description="limits to start from, by what receives the mesh")
