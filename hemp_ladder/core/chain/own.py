"""Which operations a part goes through: the job's, but for what exceptions say."""

from collections.abc import Sequence

from pydantic import Field

from hemp_ladder.core.chain.steps import Operation
from hemp_ladder.core.exceptions import Excepted


class OwnSteps(Excepted):
    """Operations of some parts' own: with other settings than the job's, beside the job's, or not done.

    A rung says in its own field `steps` which there can be.
    """

    steps: tuple[Operation, ...] = ()
    without: frozenset[str] = Field(frozenset(), description="names of the job's operations that they go without")

    def says(self, operation: str) -> tuple[bool, Operation | None]:
        """Whether it speaks of an operation, and the operation as it wants it; None for not done."""
        own = next((step for step in self.steps if step.does == operation), None)
        return own is not None or operation in self.without, own


def steps_in_force(
    order: Sequence[str], steps: Sequence[Operation], exceptions: Sequence[OwnSteps], numbers: Sequence[int]
) -> dict[str, tuple[Operation, int]]:
    """The operations for a part that the exceptions with these numbers hold for, by name in the order in which they are
    done, with the number of the exception that decided, -1 for the job; lengths in metres."""
    job = {step.does: step for step in steps}
    found: dict[str, tuple[Operation, int]] = {}
    for name in order:
        step: Operation | None = job.get(name)
        decided = -1
        for number in numbers:
            said, own = exceptions[number].says(name)
            if said:
                step, decided = own, number
                break
        if step is not None:
            found[name] = (step, decided)
    return found
