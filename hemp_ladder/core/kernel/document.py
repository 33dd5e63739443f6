"""From the kernel's document to a `Model`: tree, names, layers, colours, shapes."""

import re
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from OCP.collections import Sequence_TDF_Label
from OCP.Quantity import Quantity_ColorRGBA
from OCP.TCollection import TCollection_AsciiString, TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label, TDF_Tool
from OCP.TDocStd import TDocStd_Document
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFApp import XCAFApp_Application
from OCP.XCAFDoc import XCAFDoc_ColorType, XCAFDoc_DocumentTool, XCAFDoc_ShapeTool

from hemp_ladder.core.kernel.parts import Known, numbers_of
from hemp_ladder.core.kernel.shapes import ShapeMap, matrix_of
from hemp_ladder.core.model.bodies import BodySink
from hemp_ladder.core.model.labels import unique_label
from hemp_ladder.core.model.model import Colour, Matrix, Node, Part

# Names that translators invent where the author gave none.
_INVENTED = re.compile(
    r"^(=>\[.*\]|\[?\d+(:\d+)+\]?|(NAUO|SOLID|SHELL|COMPOUND|COMPSOLID|FACE|WIRE|EDGE|SHAPE|BODY|NONE)[ _-]?\d*"
    r"|Open CASCADE STEP translator.*)$",
    re.IGNORECASE,
)
_COLOUR_KINDS = (
    XCAFDoc_ColorType.XCAFDoc_ColorSurf,
    XCAFDoc_ColorType.XCAFDoc_ColorGen,
)


@dataclass
class Harvest:
    """What the walk over a document brings home."""

    parts: list[Part] = field(default_factory=list)
    shapes: list[TopoDS_Shape] = field(default_factory=list)
    nodes: list[Node] = field(default_factory=list)
    local: list[Matrix] = field(default_factory=list)


def new_document() -> TDocStd_Document:
    """An empty document for a reader to fill."""
    document = TDocStd_Document(TCollection_ExtendedString("XmlOcaf"))
    XCAFApp_Application.GetApplication_s().InitDocument(document)
    return document


class TreeWalk:
    """Walks the kernel's document once; every shape is written once, whatever its placements.

    `placed` puts right what the kernel makes of an occurrence's placement, by its name; `known` are parts made before.
    """

    def __init__(
        self,
        document: TDocStd_Document,
        sink: BodySink,
        part_found: Callable[[int], None],
        placed: Callable[[Matrix, str], Matrix] = lambda matrix, name: matrix,
        known: Known | None = None,
    ) -> None:
        self._made = known or Known()
        self._placed = placed
        main = document.Main()
        self._colours = XCAFDoc_DocumentTool.ColorTool_s(main)
        self._layers = XCAFDoc_DocumentTool.LayerTool_s(main)
        self._shapes = XCAFDoc_DocumentTool.ShapeTool_s(main)
        self._sink = sink
        self._part_found = part_found
        self._known: dict[str, int] = {}
        self._refs: set[str] = set()
        self.harvest = Harvest()

    def run(self) -> Harvest:
        roots = Sequence_TDF_Label()
        self._shapes.GetFreeShapes(roots)
        for i in range(1, len(roots) + 1):
            self._visit(roots.Value(i), roots.Value(i), -1)
        self._name_by_product()
        return self.harvest

    def _name_by_product(self) -> None:
        """Call a part without a name like the product that is only a wrapper around it: some systems write the
        shape of a product as an unnamed thing below it."""
        nodes, parts = self.harvest.nodes, self.harvest.parts
        bodies = Counter(node.parent for node in nodes if node.part >= 0 and parts[node.part].body.has_surface)
        for node in nodes:
            part = parts[node.part] if node.part >= 0 else None
            if part is None or part.name.strip() or node.parent < 0 or bodies[node.parent] != 1:
                continue
            name = nodes[node.parent].name.strip()
            if name and part.body.has_surface:
                self._refs.discard(part.label)
                part.name, part.label = name, unique_label(name, self._refs)

    def _visit(self, place: TDF_Label, shape: TDF_Label, parent: int) -> None:
        """Add the node for `place`, which stands for the shape defined at `shape`, and its children.

        A stack, not recursion: how deep a file nests is the file's choice.
        """
        stack = [(place, shape, parent)]
        while stack:
            place, shape, parent = stack.pop()
            index = len(self.harvest.nodes)
            group = XCAFDoc_ShapeTool.IsAssembly_s(shape)
            name = self._name(place) if place != shape else ""
            node = Node(name or self._name(shape), parent)
            if place != shape:
                node.layer, node.colour = self._layer(place), self._colour(place)
            if group:
                node.layer = node.layer or self._layer(shape)
                node.colour = node.colour or self._colour(shape)
            else:
                node.part = self._part(shape)
            self.harvest.nodes.append(node)
            location = XCAFDoc_ShapeTool.GetLocation_s(place)
            matrix = np.eye(4) if location.IsIdentity() else matrix_of(location.Transformation())
            self.harvest.local.append(self._placed(matrix, name))
            if group:
                children = Sequence_TDF_Label()
                XCAFDoc_ShapeTool.GetComponents_s(shape, children, False)
                for i in range(len(children), 0, -1):
                    child = children.Value(i)
                    referred = TDF_Label()
                    if XCAFDoc_ShapeTool.GetReferredShape_s(child, referred):
                        stack.append((child, referred, index))

    def _part(self, label: TDF_Label) -> int:
        entry = _entry(label)
        if entry in self._known:
            return self._known[entry]
        shape = XCAFDoc_ShapeTool.GetShape_s(label)
        name = self._name(label)
        part, faces = self._made.part_of(shape, unique_label(name, self._refs), name, self._sink)
        part.layer, part.colour = self._layer(label), self._colour(label)
        self._dress(label, faces, part)
        index = len(self.harvest.parts)
        self._known[entry] = index
        self.harvest.parts.append(part)
        self.harvest.shapes.append(shape)
        self._part_found(index + 1)
        return index

    def _dress(self, label: TDF_Label, faces: ShapeMap, part: Part) -> None:
        """Colours and layers that the file gives to pieces of the part: faces, or solids inside it."""
        pieces = Sequence_TDF_Label()
        XCAFDoc_ShapeTool.GetSubShapes_s(label, pieces)
        whole: list[tuple[list[int], Colour]] = []
        layers: set[str] = set()
        for i in range(1, len(pieces) + 1):
            piece = pieces.Value(i)
            layer = self._layer(piece)
            if layer:
                layers.add(layer)
            colour = self._colour(piece)
            if colour is None:
                continue
            whole.append((numbers_of(faces, XCAFDoc_ShapeTool.GetShape_s(piece)), colour))
        # The larger pieces first, so that a face's own colour has the last word.
        for numbers, colour in sorted(whole, key=lambda item: -len(item[0])):
            if len(numbers) == part.body.face_count and part.colour is None:
                part.colour = colour
                continue
            for number in numbers:
                part.face_colours[number] = colour
        part.face_colours = {n: c for n, c in part.face_colours.items() if c != part.colour}
        if part.layer is None and len(layers) == 1:
            part.layer = layers.pop()

    def _name(self, label: TDF_Label) -> str:
        # Asked first: the binding crashes on an attribute that is not there.
        if not label.IsAttribute(TDataStd_Name.GetID_s()):
            return ""
        attribute = TDataStd_Name()
        label.FindAttribute(TDataStd_Name.GetID_s(), attribute)
        name = attribute.Get().ToExtString()
        return "" if _INVENTED.match(name.strip()) else name

    def _layer(self, label: TDF_Label) -> str | None:
        layers = Sequence_TDF_Label()
        self._layers.GetLayers(label, layers)
        if not len(layers):
            return None
        name = TCollection_ExtendedString()
        return name.ToExtString() if self._layers.GetLayer(layers.Value(1), name) else None

    def _colour(self, label: TDF_Label) -> Colour | None:
        found = Quantity_ColorRGBA()
        for kind in _COLOUR_KINDS:
            if self._colours.GetColor_s(label, kind, found):
                rgb = found.GetRGB()
                return Colour.from_linear(rgb.Red(), rgb.Green(), rgb.Blue(), found.Alpha())
        return None


def _entry(label: TDF_Label) -> str:
    text = TCollection_AsciiString()
    TDF_Tool.Entry_s(label, text)
    return text.ToCString()
