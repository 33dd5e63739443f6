"""What a person decides at Sort."""

from typing import Literal

from pydantic import Field

from hemp_ladder.core.settings import MOST, Settings

By = Literal["layer", "colour", "name", "part", "class", "storey", "substance", "style"]


class Rule(Settings):
    """One row of the table: what it looks at, what that must be, and the material it gives.

    `layer`, `colour` (`#rrggbb`, as the source has it), `class`, `storey`,
    `substance` (what a building says a thing is made of: any of its
    materials) and `style` (the source's name for a look) match whole;
    `name` is a pattern with * and ?, upper and lower case alike, held against
    the name of the part and of its placement; `part` names one part.
    """

    by: By
    match: str = Field(min_length=1, max_length=500)
    material: str = Field(min_length=1, max_length=200, description="id of a material of the palette")


class OwnMaterial(Settings):
    """A material of the job's own."""

    id: str = Field(pattern=r"^own:[a-z0-9-]{1,60}$")
    name: str = Field(min_length=1, max_length=100)
    colour: str = Field(
        pattern=r"^#[0-9a-f]{6}([0-9a-f]{2})?$", description="sRGB, with opacity as the last two digits"
    )
    metalness: float = Field(0.0, ge=0, le=1)
    roughness: float = Field(0.5, ge=0, le=1)


class SortSettings(Settings):
    """Rules in order: the first that matches decides. What none covers keeps its source colour."""

    rules: tuple[Rule, ...] = Field((), max_length=MOST)
    materials: tuple[OwnMaterial, ...] = Field((), description="made for this job", max_length=1000)
    keep_source: bool = Field(
        True, description="what no rule covers is dressed in its colour from the source, if it has one"
    )
