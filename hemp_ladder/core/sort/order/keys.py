"""What placements are gathered by where several are to be one mesh."""

from typing import Literal

from hemp_ladder.core.model.join import Joined
from hemp_ladder.core.sort import Sorted
from hemp_ladder.core.sort.order.climb import Order

KeyBy = Literal["layer", "class", "storey", "group", "source"]
#: What placements without one are gathered under.
_WITHOUT = {"layer": "no layer", "storey": "no storey", "class": "no class", "group": "model", "source": "model"}


def keys_of(
    model: Joined, sorted_: Sorted, order: Order, by: KeyBy
) -> tuple[dict[int, str], dict[str, tuple[float, float, float]]]:
    """For each placement by its node what it is to be one mesh with, in words; and the pivots of those that have one."""
    nodes = sorted_.placements.tolist()
    without = _WITHOUT[by]
    if by == "layer":
        return {
            node: sorted_.layers[code] or without for node, code in zip(nodes, sorted_.layer_of.tolist(), strict=True)
        }, {}
    if by == "source":
        owners = model.member_of_node[sorted_.placements].tolist()
        return {node: model.members[owner].given.name for node, owner in zip(nodes, owners, strict=True)}, {}
    if by in ("storey", "class"):
        told = [
            (model.nodes[node].tags.storey if by == "storey" else model.nodes[node].tags.ifc_class) for node in nodes
        ]
        return {node: word or without for node, word in zip(nodes, told, strict=True)}, {}
    tree = order.tree
    if tree is None:
        return {node: _group_above(model, node) or without for node in nodes}, {}
    called: list[str] = []
    taken: set[str] = set()
    pivots = {}
    for index, stand in enumerate(tree.groups):
        name = stand.name
        if name in taken and stand.parent >= 0:
            name = f"{called[stand.parent]} / {name}"
        while name in taken:
            name = f"{name} {index}"
        taken.add(name)
        called.append(name)
        if stand.pivot is not None:
            pivots[name] = stand.pivot
    return {node: called[at] if at >= 0 else without for node, at in zip(nodes, tree.of.tolist(), strict=True)}, pivots


def _group_above(model: Joined, node: int) -> str:
    parent = model.nodes[node].parent
    return model.nodes[parent].name if parent >= 0 else ""
