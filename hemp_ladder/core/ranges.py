"""What is offered for every number that is set by a slider, by rung or operation and name."""

from hemp_ladder.core.facet.settings import RANGES as FACET
from hemp_ladder.core.operations import OPERATIONS
from hemp_ladder.core.settings import Range
from hemp_ladder.core.trim.settings import COARSER

RANGES: dict[str, Range] = {
    **{f"facet.{name}": item for name, item in FACET.items()},
    **{f"{step}.{name}": item for step, operation in OPERATIONS.items() for name, item in operation.ranges.items()},
    "trim.coarser": COARSER,
}
