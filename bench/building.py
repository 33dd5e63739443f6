"""`python -m bench.building FILE ours|told|shapes`: seconds of processor for reading a building, imports left out.

`shapes` is the format library opening the file and building every product.
`told` is the library telling all that we take from a building, by its own
functions for it: name, class, storey, layer, materials and property sets of
every product, and its shape and place.
"""

import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.geom
import ifcopenshell.util.element as element

from hemp_ladder.core.receive.ifc.read import read_ifc
from hemp_ladder.core.receive.report import Kept


def shapes(path: Path) -> int:
    """As the library's own examples do it."""
    return len(_built(ifcopenshell.open(str(path))))


def _built(file: Any) -> list[Any]:
    iterator = ifcopenshell.geom.iterator(ifcopenshell.geom.settings(), file, 1, geometry_library="opencascade")
    placed: list[Any] = []
    if iterator.initialize():
        while True:
            shape = iterator.get()
            placed.append((shape.id, shape.transformation.matrix))
            if not iterator.next():
                break
    return placed


def told(path: Path) -> int:
    file = ifcopenshell.open(str(path))
    rows = []
    for product in file.by_type("IfcProduct"):
        above = element.get_container(product) or element.get_aggregate(product)
        rows.append((
            product.GlobalId, product.Name, product.is_a(), product.Description, product.ObjectType,
            above.Name if above else None,
            [layer.Name for layer in element.get_layers(file, product)],
            [material.Name for material in element.get_materials(product)],
            element.get_psets(product),
        ))  # fmt: skip
    return len(rows) and len(_built(file))


def ours(path: Path) -> int:
    """Structure, properties and every shape, as a child of ours does it."""
    return len(read_ifc(path, Kept()).placements)


if __name__ == "__main__":
    work: dict[str, Callable[[Path], int]] = {"ours": ours, "told": told, "shapes": shapes}
    began = time.process_time()
    count = work[sys.argv[2]](Path(sys.argv[1]))
    print(f"{time.process_time() - began:.2f} {count}")
