"""Whom a name or a group is for: placements, said by what they are rather than one by one where that can be."""

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.choose.take import Taken, by_placement
from hemp_ladder.core.sort import Sorted
from hemp_ladder.core.sort.order.settings import Whom
from hemp_ladder.core.sort.settings import Rule
from hemp_ladder.core.sort.table import met

Mask = NDArray[np.bool_]


def whom_mask(taken: Taken, sorted_: Sorted, whom: Whom) -> Mask:
    """(r,) which of the placements that entered are meant."""
    model, rows = taken.model, taken.rows
    words = set(whom.match)
    if whom.by == "all":
        return np.ones(len(rows), bool)
    if whom.by == "material":
        wears = np.array([not words.isdisjoint(dress.materials) for dress in sorted_.dresses], bool)
        return np.asarray(wears[sorted_.dress_of]) if len(rows) else np.zeros(0, bool)
    if whom.by == "source":
        owners = [number for number, piece in enumerate(model.members) if piece.ref in words]
        return np.isin(model.member_of_node[sorted_.placements], owners)
    if whom.by == "placement":
        return by_placement(model, words)[rows]
    if whom.by == "group":
        below = np.zeros(len(model.nodes) + 1, np.int64)
        for node in (node for word in words for node in model.nodes_named.get(word, ())):
            below[node + 1] += 1
            below[int(model.columns.last[node]) + 1] -= 1
        return np.asarray(np.cumsum(below)[sorted_.placements] > 0)
    return np.asarray(met(model, Rule(by=whom.by, match=whom.match, material="-"))[rows])
