"""What a person decides at Sort."""

from typing import Literal

from pydantic import Field, field_validator

from hemp_ladder.core.settings import Settings
from hemp_ladder.core.sort.library import LIBRARY

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
    material: str

    @field_validator("material")
    @classmethod
    def _known(cls, value: str) -> str:
        if value not in LIBRARY:
            raise ValueError(f"there is no material “{value[:40]}” in the library")
        return value


class SortSettings(Settings):
    """Rules in order: the first that matches decides. What none covers keeps its source colour."""

    rules: tuple[Rule, ...] = ()
    keep_source: bool = Field(
        True, description="what no rule covers is dressed in its colour from the source, if it has one"
    )
