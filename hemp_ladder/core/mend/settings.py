"""What a person decides at Mend."""

from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field, WithJsonSchema, field_validator, model_validator

from hemp_ladder.core.chain.own import OwnSteps, steps_in_force
from hemp_ladder.core.chain.steps import Operation, each_once, one_of
from hemp_ladder.core.exceptions import MOST_ENTRIES, from_parts
from hemp_ladder.core.mend.operations import OPERATIONS
from hemp_ladder.core.refs import PartRef
from hemp_ladder.core.settings import MOST, MOST_PARTS, Settings

if TYPE_CHECKING:
    AnyOperation = Operation
else:
    AnyOperation = one_of(OPERATIONS)

#: Three coordinates; as a list that clients in other languages read the same.
At = Annotated[
    tuple[float, float, float],
    WithJsonSchema({"type": "array", "items": {"type": "number"}, "minItems": 3, "maxItems": 3}),
]


class MendException(OwnSteps):
    """Operations of some parts' own at Mend."""

    steps: tuple[AnyOperation, ...] = ()

    _once = field_validator("steps")(each_once)


class HandTurn(Settings):
    """A shell or a face that a person turned: the one that the point lies on."""

    part: PartRef
    at: At = Field(description="in the part's source coordinates")
    what: Literal["shell", "face"] = "shell"


class ShellApart(Settings):
    """A loose shell taken out as a part of its own: the one that the point lies on."""

    part: PartRef
    at: At = Field(description="in the part's source coordinates")
    name: str = Field("", max_length=200, description="what the new part is called; nothing for a number")
    move: At = Field((0.0, 0.0, 0.0), description="how far it stands from where it was, in metres, X, Y and Z up")


class JoinedParts(Settings):
    """Parts, with all their placements, that are one from here on."""

    parts: tuple[PartRef, ...] = Field(min_length=1, max_length=1000)
    name: str = Field("Joined", min_length=1, max_length=200)
    move: At = Field((0.0, 0.0, 0.0), description="how far it stands from where it was, in metres, X, Y and Z up")


class MendSettings(Settings):
    """Which operations every part goes through, which parts differ, and what was turned, split and joined by hand."""

    steps: tuple[AnyOperation, ...] = Field((), description="one of each kind at most, whatever their order")
    exceptions: tuple[MendException, ...] = Field(
        (), max_length=MOST_ENTRIES, description="who differs, in order: the first that speaks of an operation decides"
    )
    flipped: frozenset[PartRef] = Field(
        frozenset(), max_length=MOST_PARTS, description="parts whose facing is reversed"
    )
    turned: tuple[HandTurn, ...] = Field((), max_length=MOST, description="shells and faces that were turned by hand")
    apart: tuple[ShellApart, ...] = Field((), max_length=1000, description="shells that are parts of their own")
    joined: tuple[JoinedParts, ...] = Field((), max_length=1000, description="parts that are one")

    _once = field_validator("steps")(each_once)
    _from_parts = model_validator(mode="before")(from_parts)

    def in_force(self, numbers: tuple[int, ...] = ()) -> dict[str, tuple[Operation, int]]:
        """The operations for a part that the exceptions with these numbers hold for, by name in the order in which they
        are done, with the number of the exception that decided, -1 for the job; lengths in metres."""
        return steps_in_force(_ORDER, self.steps, self.exceptions, numbers)


_ORDER = [operation.name() for operation in OPERATIONS]
