"""A part from the kernel's shape, whichever reader brought it."""

from collections.abc import Sequence

import numpy as np
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Shape

from hemp_ladder.core.kernel.extents import quick_box
from hemp_ladder.core.kernel.shapes import EDGE, FACE, SOLID, VERTEX, ShapeMap, explore, open_edges, write_shape
from hemp_ladder.core.keys import content_key
from hemp_ladder.core.model.bodies import BodySink, Exact
from hemp_ladder.core.model.model import Part


def part_of(shape: TopoDS_Shape, label: str, name: str, sink: BodySink) -> tuple[Part, ShapeMap]:
    """The part with its figures, and its faces by number; a shape with faces goes to the sink."""
    data = write_shape(shape)
    faces = ShapeMap()
    TopExp.MapShapes_s(shape, FACE, faces)
    box = quick_box(shape)
    part = Part(
        label=label,
        name=name,
        key=content_key(data),
        body=Exact(
            np.zeros((2, 3)) if box is None else box,
            faces=faces.Extent(),
            solids=sum(1 for _ in explore(shape, SOLID)),
            open_edges=open_edges(shape),
            curves=sum(1 for _ in explore(shape, EDGE, FACE)),
            points=sum(1 for _ in explore(shape, VERTEX, EDGE)),
        ),
    )
    if part.body.has_surface:
        sink(part.key, data)
    return part, faces


def exact_of(part: Part) -> Exact:
    """The body of a part that came from the kernel."""
    assert isinstance(part.body, Exact)
    return part.body


def word_for(part: Part) -> str:
    """What a nameless part that came from the kernel is called."""
    return "Solid" if exact_of(part).solids else "Surface" if part.body.has_surface else "Curve"


def numbers_of(faces: ShapeMap, piece: TopoDS_Shape) -> list[int]:
    """Which faces, by number from 0, belong to a piece of the shape."""
    found = ShapeMap()
    TopExp.MapShapes_s(piece, FACE, found)
    numbers = (faces.FindIndex(found.FindKey(k)) - 1 for k in range(1, found.Extent() + 1))
    return [number for number in numbers if number >= 0]


def named_layers(named: Sequence[str | None]) -> list[str]:
    """Each layer once, in order of first use."""
    return list(dict.fromkeys(layer for layer in named if layer))
