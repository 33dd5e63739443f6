"""`python -m bench.building FILE ours|library`: a building read by us, or opened and built by its format library alone."""

import sys
from pathlib import Path


def library(path: Path) -> int:
    """Open the file and have the library's iterator build every product, as its own examples do."""
    import ifcopenshell
    import ifcopenshell.geom

    file = ifcopenshell.open(str(path))
    iterator = ifcopenshell.geom.iterator(ifcopenshell.geom.settings(), file, 1, geometry_library="opencascade")
    count = 0
    if iterator.initialize():
        while True:
            iterator.get()
            count += 1
            if not iterator.next():
                break
    return count


def ours(path: Path) -> int:
    """Structure, properties and every shape, as a child of ours does it."""
    from hemp_ladder.core.receive import reader_of
    from hemp_ladder.core.receive.report import Kept

    return len(reader_of(path)(path, Kept()).placements)


if __name__ == "__main__":
    print({"ours": ours, "library": library}[sys.argv[2]](Path(sys.argv[1])))
