"""The operations of Mend that a person decides on, in the order in which they are done."""

from hemp_ladder.core.chain.steps import Operation
from hemp_ladder.core.mend.facing import Facing
from hemp_ladder.core.mend.normals import Normals
from hemp_ladder.core.mend.repair.repair import Repair
from hemp_ladder.core.mend.rounding.rounding import Round
from hemp_ladder.core.mend.weld import Weld

#: What repairs comes before what judges the whole; rounding needs to know its edges, and shading comes last. Shells are
#: told apart and turned by hand where `SHELLS` stands, between facing and rounding.
OPERATIONS: tuple[type[Operation], ...] = (Weld, Repair, Facing, Round, Normals)
#: So many of them come before shells are told apart.
BEFORE_SHELLS = 3
