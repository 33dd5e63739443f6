"""Shapes of a STEP file one after another, before the kernel is asked for the whole.

The kernel's reader gives nothing of a file before all of it is translated, which is half of the time that a large one
takes to become meshes. But what it translated once it keeps, and takes up again for the whole: so the representations of
parts are translated first, each by itself, and each shape can go on to be meshed at once. The whole takes no longer for it
(a file of 300 castings: 3.0 s and then 0.3 s, against 3.2 s in one).

Entities cannot be given back to the kernel through its binding (8.0: they arrive as none), but lists of them can; and a
list of one is cut from the list of all. They are asked for by the names of the kernel's classes: by the names of the
standard it dies of files with types that it does not know.
"""

from collections.abc import Callable, Iterator

from OCP.collections import HSequence_Standard_Transient as Entities
from OCP.Standard import Standard_Failure
from OCP.STEPControl import STEPControl_Reader
from OCP.TopoDS import TopoDS_Shape

#: Representations whose shapes are parts by themselves (ISO 10303-514 and -509; from memory).
_REPRESENTATIONS = ("StepShape_AdvancedBrepShapeRepresentation", "StepShape_ManifoldSurfaceShapeRepresentation")


def shapes_ahead(reader: STEPControl_Reader, about: Callable[[int], None]) -> Iterator[TopoDS_Shape]:
    """The shapes of parts in the file that the reader has parsed, as it will give them again with the whole; those that can
    be had by themselves. `about` hears before each which it is, from 1, and 0 in the end."""
    number = 1
    about(number)
    for kind in _REPRESENTATIONS:
        left = reader.GiveList(f"xst-long-type({kind})")
        while left is not None and left.Length():
            about(number)
            number += 1
            following = Entities()
            if left.Length() > 1:
                left.Split(2, following)
            try:
                found = reader.TransferList(left)
            except Standard_Failure:
                # It will come up again in the whole, where what becomes of it is decided.
                found = 0
            if found:
                yield reader.Shape(1)
            left = following
    reader.ClearShapes()
    about(0)
