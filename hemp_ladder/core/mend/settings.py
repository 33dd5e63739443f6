"""What a person decides at Mend."""

from typing import TYPE_CHECKING

from pydantic import Field, field_validator

from hemp_ladder.core.chain.steps import Operation, each_once, one_of
from hemp_ladder.core.mend.operations import OPERATIONS
from hemp_ladder.core.refs import PartRef
from hemp_ladder.core.settings import MOST_PARTS, Settings

if TYPE_CHECKING:
    AnyOperation = Operation
else:
    AnyOperation = one_of(OPERATIONS)


class MendOverride(Settings):
    """Operations of one part's own: with other settings than the job's, beside the job's, or not done."""

    steps: tuple[AnyOperation, ...] = ()
    without: frozenset[str] = Field(frozenset(), description="names of the job's operations that it goes without")

    _once = field_validator("steps")(each_once)


class MendSettings(Settings):
    """Which operations every part goes through, which parts differ, and which are turned inside out by hand."""

    steps: tuple[AnyOperation, ...] = Field((), description="one of each kind at most, whatever their order")
    parts: dict[PartRef, MendOverride] = Field(
        default_factory=dict, max_length=MOST_PARTS, description="overrides by part"
    )
    flipped: frozenset[PartRef] = Field(
        frozenset(), max_length=MOST_PARTS, description="parts whose facing is reversed"
    )

    _once = field_validator("steps")(each_once)

    def in_force(self, ref: str) -> list[Operation]:
        """The operations for the part called `ref`, in the order in which they are done; lengths in metres."""
        own = self.parts.get(ref)
        steps = {step.does: step for step in self.steps}
        if own is not None:
            steps = {name: step for name, step in steps.items() if name not in own.without}
            steps |= {step.does: step for step in own.steps}
        return [steps[name] for name in _ORDER if name in steps]


_ORDER = [operation.name() for operation in OPERATIONS]
