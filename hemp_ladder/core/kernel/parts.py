"""A part from the kernel's shape, whichever reader brought it."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.Geom import Geom_CylindricalSurface
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Shape

from hemp_ladder.core.kernel.extents import quick_box
from hemp_ladder.core.kernel.shapes import EDGE, FACE, SOLID, VERTEX, ShapeMap, explore, open_edges, write_shape
from hemp_ladder.core.keys import content_key
from hemp_ladder.core.model.bodies import BodySink, Exact
from hemp_ladder.core.model.model import Part


class Known:
    """Parts that were made before their names were known, by their shapes."""

    def __init__(self) -> None:
        self._shapes = ShapeMap()
        self._found: list[tuple[Part, ShapeMap]] = []

    def add(self, shape: TopoDS_Shape, sink: BodySink) -> Part | None:
        """The part that a shape will be; None where there is one already."""
        if self._shapes.Contains(shape):
            return None
        self._shapes.Add(shape)
        self._found.append(part_of(shape, "", "", sink))
        return self._found[-1][0]

    def part_of(self, shape: TopoDS_Shape, label: str, name: str, sink: BodySink) -> tuple[Part, ShapeMap]:
        """As the function, which is asked where the shape, facing this way and at this place, was not known."""
        number = self._shapes.FindIndex(shape)
        if not number or not self._shapes.FindKey(number).IsEqual(shape):
            return part_of(shape, label, name, sink)
        part, faces = self._found[number - 1]
        return replace(part, label=label, name=name, face_colours={}, face_styles={}), faces


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
            holes=holes_of(faces),
        ),
    )
    if part.body.has_surface:
        sink(part.key, data)
    return part, faces


#: Of fewer equal holes nothing can be said: one may be a bearing's seat or a porthole. So many sizes are told.
_EQUAL, _SIZES = 4, 3


def holes_of(faces: ShapeMap) -> tuple[tuple[float, int], ...]:
    """Radii of round holes of which there are several alike, and how many: the most frequent first."""
    axes: dict[float, set[tuple[float, ...]]] = {}
    for number in range(1, faces.Extent() + 1):
        face = TopoDS.Face(faces.FindKey(number))
        surface = BRep_Tool.Surface_s(face)
        if not isinstance(surface, Geom_CylindricalSurface):
            continue
        hollow = (face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED) == surface.Cylinder().Direct()
        if not hollow:
            continue
        axis, radius = surface.Cylinder().Axis(), float(f"{surface.Radius():.6g}")
        at = np.array([axis.Location().X(), axis.Location().Y(), axis.Location().Z()])
        way = np.array([axis.Direction().X(), axis.Direction().Y(), axis.Direction().Z()])
        # Half a hole is on the same axis as its other half, wherever along it each begins.
        foot = np.round((at - (at @ way) * way) / (1e-3 * radius)).tolist()
        axes.setdefault(radius, set()).add(tuple(foot))
    several = [(radius, len(found)) for radius, found in axes.items() if len(found) >= _EQUAL]
    return tuple(sorted(several, key=lambda item: (-item[1], item[0]))[:_SIZES])


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
