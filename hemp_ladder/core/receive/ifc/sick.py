"""Products that are not to be touched: their geometry would bring the format library down."""

from collections.abc import Collection, Iterable, Sequence
from typing import Any

from hemp_ladder.core.receive.ifc.ask import Asker

BROUGHT_DOWN = "brought the reader down, or held it up too long"
STANDS_ON_ITSELF = "could not be placed: the placement goes round in a circle"


def sick(products: Sequence[Any], skip: Collection[int], ask: Asker) -> dict[int, str]:
    """Why each product that must be left out is, by its number: what the caller names, whatever shares its shape
    with one of those, and what is placed relative to itself."""
    found = {item.id(): STANDS_ON_ITSELF for item in _in_circles(products, ask)}
    shared = {number for item in products if item.id() in skip for number in _shapes_of(item)}
    for item in products if skip else ():
        if item.id() in skip or not shared.isdisjoint(_shapes_of(item)):
            found[item.id()] = BROUGHT_DOWN
    return found


def _shapes_of(product: Any) -> set[int]:
    """The shared shapes that a product is an instance of, by number."""
    shapes = getattr(product.Representation, "Representations", None) or ()
    items = [item for shape in shapes for item in getattr(shape, "Items", None) or ()]
    return {item.MappingSource.id() for item in items if item.is_a("IfcMappedItem") and item.MappingSource}


def _in_circles(products: Iterable[Any], ask: Asker) -> list[Any]:
    good: set[int] = set()
    out = []
    for product in products:
        at, chain = ask(product, "ObjectPlacement"), set[int]()
        circle = False
        while at is not None and (number := at.id()) not in good and not circle:
            circle = number in chain
            chain.add(number)
            at = ask(at, "PlacementRelTo")
        if circle:
            out.append(product)
        else:
            good |= chain
    return out
