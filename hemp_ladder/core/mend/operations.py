"""The operations of Mend, in the order in which they are done."""

from hemp_ladder.core.chain.steps import Operation
from hemp_ladder.core.mend.normals import Normals
from hemp_ladder.core.mend.weld import Weld

OPERATIONS: tuple[type[Operation], ...] = (Weld, Normals)
