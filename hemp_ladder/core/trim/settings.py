"""What a person decides at Trim."""

from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field, field_validator

from hemp_ladder.core.chain.own import OwnSteps, steps_in_force
from hemp_ladder.core.chain.steps import Operation, each_once, one_of
from hemp_ladder.core.exceptions import MOST_ENTRIES
from hemp_ladder.core.settings import Range, Settings
from hemp_ladder.core.trim.operations import OPERATIONS, STAND_INS

if TYPE_CHECKING:
    AnyOperation = Operation
    AnyStandIn = Operation
else:
    AnyOperation = one_of(OPERATIONS)
    AnyStandIn = one_of(STAND_INS)

#: How many times larger the chord errors of a lighter level are, as offered.
COARSER = Range(1, 100, 8)
#: What every job has: each part as Facet, Mend and Trim make it.
FULL = "full"
#: By how much volume and outline of a part may change before its shape counts as lost. Common practice.
LOST_SHARE = 0.05


class TrimException(OwnSteps):
    """Operations of some parts' own at Trim."""

    steps: tuple[AnyOperation, ...] = ()

    _once = field_validator("steps")(each_once)


class Level(Settings):
    """A lighter level of every part, beside the full one: of coarser facets, reduced, or with stand-ins."""

    name: str = Field("light", pattern=r"^[a-z0-9][a-z0-9 %.-]{0,39}$")
    coarser: float = Field(
        1.0, ge=1, le=1000, description="how many times larger chord errors are; angles go with the root"
    )
    steps: tuple[AnyStandIn, ...] = Field((), max_length=1, description="what is done to each part of the full level")


class Limit(Settings):
    """What a receiver allows; what it does not say is not limited."""

    target: str = Field("", max_length=60, description="whom it is for, in words")
    triangles: Annotated[int, Field(ge=1, le=10**12)] | None = Field(None, description="over all placements")
    bytes: Annotated[int, Field(ge=1, le=10**13)] | None = Field(None, description="of the file, pictures in it")
    pixels: Annotated[int, Field(ge=1, le=65_536)] | None = Field(None, description="largest side of a picture")
    draw_calls: Annotated[int, Field(ge=1, le=10**9)] | None = Field(
        None, description="placements times the materials of each"
    )


class View(Settings):
    """From where deviations are told in pixels: a lookout by its name, and how wide the picture is."""

    lookout: str = Field("", max_length=200, description="nothing for none")
    width: Annotated[int, Field(ge=16, le=65_536)] = Field(1920, description="of the picture, in pixels")


Gauge = Literal["triangles", "bytes", "pixels", "draw_calls"]


class TrimSettings(Settings):
    """Which parts are made lighter, by how much; lighter levels beside them; what the receiver allows."""

    steps: tuple[AnyOperation, ...] = Field((), description="of every part; one of each kind at most")
    exceptions: tuple[TrimException, ...] = Field(
        (), max_length=MOST_ENTRIES, description="who differs, in order: the first that speaks of an operation decides"
    )
    levels: tuple[Level, ...] = Field((), max_length=4)
    limit: Limit | None = None
    lost: Annotated[float, Field(gt=0, le=1)] = Field(
        LOST_SHARE, description="change of volume and outline beyond which a part's shape counts as lost"
    )
    view: View = View()

    _once = field_validator("steps")(each_once)

    @field_validator("levels")
    @classmethod
    def _each_once(cls, value: tuple[Level, ...]) -> tuple[Level, ...]:
        names = [FULL, *(level.name for level in value)]
        twice = next((name for name in names if names.count(name) > 1), None)
        if twice is not None:
            raise ValueError(f"two levels are called “{twice}”")
        return value

    def in_force(self, numbers: tuple[int, ...] = ()) -> dict[str, tuple[Operation, int]]:
        """The operations for a part that the exceptions with these numbers hold for, by name in the order in which they
        are done, with the number of the exception that decided, -1 for the job; lengths in metres."""
        return steps_in_force(_ORDER, self.steps, self.exceptions, numbers)


_ORDER = [operation.name() for operation in OPERATIONS]
