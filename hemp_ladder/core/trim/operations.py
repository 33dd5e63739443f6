"""The operations of Trim that a person decides on, in the order in which they are done."""

from hemp_ladder.core.chain.steps import Operation
from hemp_ladder.core.trim.flats import Flats
from hemp_ladder.core.trim.reduce import Reduce
from hemp_ladder.core.trim.stand_in import StandIn

#: What is lost nothing by comes first; a stand-in is for lighter levels only.
OPERATIONS: tuple[type[Operation], ...] = (Flats, Reduce)
STAND_INS: tuple[type[Operation], ...] = (Reduce, StandIn)
