"""Every step there is, by its name: what a queue or a file says of a chain becomes a chain again.

To add an operation: its file in its rung, and its line in that rung's `operations.py`.
"""

from collections.abc import Mapping
from typing import Any

from hemp_ladder.core.chain.came import AsItCame
from hemp_ladder.core.chain.relief import Relief
from hemp_ladder.core.chain.steps import Chain, First, Operation
from hemp_ladder.core.choose.cut import Cut
from hemp_ladder.core.drawn.step import Solidify
from hemp_ladder.core.facet.even import Even
from hemp_ladder.core.facet.longest import Longest
from hemp_ladder.core.facet.shortest import Shortest
from hemp_ladder.core.facet.step import Facet
from hemp_ladder.core.limbs import Assemble
from hemp_ladder.core.mend.operations import OPERATIONS as MEND
from hemp_ladder.core.mend.shells.pick import Pick
from hemp_ladder.core.mend.shells.split import Split
from hemp_ladder.core.mend.shells.turned import Turn
from hemp_ladder.core.trim.operations import OPERATIONS as TRIM
from hemp_ladder.core.trim.operations import STAND_INS

FIRSTS: dict[str, type[First]] = {
    step.model_fields["does"].default: step for step in (Facet, Solidify, AsItCame, Relief, Assemble)
}
_ALL: tuple[type[Operation], ...] = (Cut, *MEND, Split, Pick, Turn, Shortest, Even, Longest, *TRIM, *STAND_INS)
OPERATIONS: dict[str, type[Operation]] = {step.name(): step for step in _ALL}


def chain_from_dict(values: Mapping[str, Any]) -> Chain:
    """What `Chain.as_dict` gave, also after it went through JSON."""
    first, *others = values["steps"]
    steps = tuple(OPERATIONS[step["does"]].model_validate(step) for step in others)
    return Chain(values["part"], values["faces"], FIRSTS[first["does"]].model_validate(first), steps)
