"""The spatial structure: project, site, building, storey, space, element, in the order it is told."""

from collections import defaultdict
from dataclasses import dataclass
from typing import Any

from hemp_ladder.core.model.model import UNTAGGED, Node
from hemp_ladder.core.receive.ifc.ask import Asker
from hemp_ladder.core.receive.ifc.looks import Looks


@dataclass(frozen=True)
class Tree:
    """Nodes with the product each stands for; parents come first, branches are runs."""

    nodes: list[Node]
    products: list[Any]


def build_tree(file: Any, looks: Looks, ask: Asker) -> Tree:
    """Everything that hangs below the project, then what hangs nowhere.

    Decomposition, containment, filling and voiding are all "below". A file
    can say that things contain each other in a circle: each product stands
    once, where it is met first.
    """
    below = _below(file)
    nodes: list[Node] = []
    products: list[Any] = []
    met: set[int] = set()
    of_class: dict[str, tuple[bool, bool]] = {}

    def plant(root: Any, parent: int, storey: str | None) -> None:
        stack = [(root, parent, storey)]
        while stack:
            item, over, level = stack.pop()
            number = item.id()
            if number in met:
                continue
            met.add(number)
            kind = item.is_a()
            if kind not in of_class:
                of_class[kind] = item.is_a("IfcProduct"), item.is_a("IfcBuildingStorey")
            product, is_storey = of_class[kind]
            name = (ask(item, "Name", kind) or "").strip()
            if is_storey:
                level = name or f"storey #{number}"
            index = len(nodes)
            nodes.append(
                Node(
                    name or f"{kind.removeprefix('Ifc')} #{number}",
                    over,
                    layer=looks.layer(item) if product else None,
                    tags=looks.tags(item, kind, level) if product else UNTAGGED,
                )
            )
            products.append(item)
            stack += [(child, index, level) for child in reversed(below.get(number, ()))]

    for project in file.by_type("IfcProject"):
        plant(project, -1, None)
    stray = [product for product in file.by_type("IfcProduct") if product.id() not in met]
    hanging = {child.id() for children in below.values() for child in children}
    for product in sorted(stray, key=lambda item: item.id() in hanging):
        plant(product, -1, None)
    return Tree(nodes, products)


#: Relations that hang one thing below another: class, the upper, the lower.
_RELATIONS = [
    ("IfcRelAggregates", "RelatingObject", "RelatedObjects"),
    ("IfcRelNests", "RelatingObject", "RelatedObjects"),
    ("IfcRelContainedInSpatialStructure", "RelatingStructure", "RelatedElements"),
    ("IfcRelVoidsElement", "RelatingBuildingElement", "RelatedOpeningElement"),
    ("IfcRelProjectsElement", "RelatingElement", "RelatedFeatureElement"),
]


def _below(file: Any) -> dict[int, list[Any]]:
    below: dict[int, list[Any]] = defaultdict(list)
    for name, upper, lower in _RELATIONS:
        for relation in _by_type(file, name):
            over, under = getattr(relation, upper), getattr(relation, lower)
            if over is None or under is None:
                continue
            below[over.id()] += under if isinstance(under, tuple) else [under]
    return below


def _by_type(file: Any, name: str) -> list[Any]:
    """All of a class; none where the file's schema has no such class."""
    try:
        return list(file.by_type(name))
    except RuntimeError:
        return []
