"""What a person decides of the order: whom a step is for, names, and groups."""

import re
from typing import Annotated, Any, Literal

from pydantic import Field, WithJsonSchema, field_validator, model_validator

from hemp_ladder.core.settings import MOST_PARTS, Settings

Word = Annotated[str, Field(min_length=1, max_length=500)]
By = Literal["all", "part", "placement", "layer", "material", "class", "storey", "source", "name", "group"]
Level = Literal["material", "layer", "class", "storey", "source", "assembly"]
LEVELS: tuple[Level, ...] = ("material", "layer", "class", "storey", "source", "assembly")
GroupId = Annotated[str, Field(min_length=1, max_length=500)]
_Metres = Annotated[float, Field(ge=-1e8, le=1e8)]
#: As a list without an order of types, which clients in other languages read the same.
_Point = Annotated[
    tuple[_Metres, _Metres, _Metres],
    WithJsonSchema({"type": "array", "items": {"type": "number"}, "minItems": 3, "maxItems": 3}),
]
#: What stands in braces in a template.
FIELDS = ("name", "layer", "material", "class", "storey", "source", "part", "n")
FIELD = re.compile(r"\{(\w+)\}")


class Whom(Settings):
    """Placements: all, or those that any of the words of `match` names.

    `part` and `placement` by what decisions call them, `material` by id, `source` by what decisions call it, `name` a
    pattern with * and ?, `group` what stands in a group of the source's tree of that name; others as rules have them.
    """

    by: By = "all"
    match: tuple[Word, ...] = Field((), max_length=MOST_PARTS)

    @model_validator(mode="after")
    def _says_whom(self) -> "Whom":
        if (self.by == "all") == bool(self.match):
            raise ValueError("say whom: all, or some by what they are")
        return self


class Rename(Settings):
    """One step: for whom, what of the name gives way (nothing said: all of it), and what comes in its place.

    `to` holds words and fields in braces: `{name}` the name before, `{layer}`, `{material}`, `{class}`, `{storey}`,
    `{source}`, `{part}` and `{n}`, the number of the placement in the order of the tree, with so many `digits`. A
    `pattern` is a regular expression as Python has them, and `to` may name its groups as \\1.
    """

    whom: Whom = Whom()
    find: str = Field("", max_length=500)
    pattern: bool = False
    to: str = Field(max_length=500)
    start: int = Field(1, ge=0, le=1_000_000_000)
    digits: int = Field(1, ge=1, le=9)
    keep_good: bool = Field(False, description="what says something already stays")

    @field_validator("to")
    @classmethod
    def _known_fields(cls, given: str) -> str:
        for name in FIELD.findall(given):
            if name not in FIELDS:
                raise ValueError(f"there is no field {{{name}}}; there are {', '.join(f'{{{f}}}' for f in FIELDS)}")
        return given

    @model_validator(mode="after")
    def _compiles(self) -> "Rename":
        if self.pattern:
            if not self.find:
                raise ValueError("a pattern says what to find")
            compiled(self.find)
        return self


class Group(Settings):
    """A group of the job's own: what it is called, the group it stands in (none: at the top), and the point that it turns
    about in a receiver, in metres after Fit."""

    id: GroupId
    name: str = Field(min_length=1, max_length=200)
    parent: str = Field("", max_length=500)
    pivot: _Point | None = None


class Gather(Settings):
    """What stands in a group instead of where it would; of several entries the last decides."""

    whom: Whom
    into: str = Field("", max_length=500, description="id of a group; none: at the top")


class OrderSettings(Settings):
    """By what placements are grouped, level by level (none: as the source has them), and what is otherwise than that.

    `groups` are the job's own; ids of others begin with `by:` and name what their placements have in common, or with `at:`
    and name a node of the source's tree. `called` renames those, `under` puts a group into another, `opened` takes the level
    of a group away: what stood in it stands in what that stood in.
    """

    by: tuple[Level, ...] = Field((), max_length=len(LEVELS))
    flat: bool = Field(False, description="the source's own groups are left away")
    groups: tuple[Group, ...] = Field((), max_length=20_000)
    gathered: tuple[Gather, ...] = Field((), max_length=20_000)
    called: dict[str, str] = Field({}, max_length=20_000)
    under: dict[str, str] = Field({}, max_length=20_000)
    opened: tuple[GroupId, ...] = Field((), max_length=20_000)

    @model_validator(mode="after")
    def _one_of_an_id(self) -> "OrderSettings":
        if len({group.id for group in self.groups}) < len(self.groups):
            raise ValueError("two groups have one id")
        if len(set(self.by)) < len(self.by):
            raise ValueError("a level is named twice")
        return self

    @property
    def plain(self) -> bool:
        """Whether all stands as the source has it."""
        return self == OrderSettings()


def compiled(find: str) -> Any:
    """A pattern as Python's own library reads it, by one that can be stopped."""
    import regex

    try:
        re.compile(find)
        return regex.compile(find, regex.VERSION0)
    except (re.error, regex.error, OverflowError, RecursionError) as error:
        raise ValueError(f"the pattern makes no sense: {error}") from error
