"""Reading IGES with the kernel. Runs in a child process that may die."""

from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np
from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.collections import Sequence_TDF_Label
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.IGESCAFControl import IGESCAFControl_Reader
from OCP.TDF import TDF_Label
from OCP.TopExp import TopExp
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Compound, TopoDS_Shape
from OCP.XCAFDoc import XCAFDoc_ShapeTool

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import finding
from hemp_ladder.core.kernel.document import Harvest, TreeWalk, new_document
from hemp_ladder.core.kernel.extents import overall_box
from hemp_ladder.core.kernel.parts import exact_of, named_layers, numbers_of, part_of
from hemp_ladder.core.kernel.sew import Sewn, sew
from hemp_ladder.core.kernel.shapes import FACE, SHELL, SOLID, ShapeMap, explore, hush, is_mirrored
from hemp_ladder.core.model.labels import unique_label
from hemp_ladder.core.model.model import Colour, Model, Node
from hemp_ladder.core.receive.iges.header import read_header
from hemp_ladder.core.receive.report import Report, shape_sink

#: Trimmed surfaces whose edges lie nearer than this, in millimetres, are joined.
SEWN_WITHIN = 0.01


def read_iges(path: Path, report: Report) -> Model:
    """The model in an IGES file. The kernel scales to millimetres, so a coordinate is one, whatever the file's unit.

    Solids come as they are; surfaces that stand alone are sewn, and each
    connected shell is a part.

    Raises UnreadableSource when nothing can be got from the file.
    """
    header = read_header(path)
    hush()
    report.stage("reading", 0)
    reader = IGESCAFControl_Reader()
    reader.SetColorMode(True)
    reader.SetNameMode(True)
    reader.SetLayerMode(True)
    if reader.ReadFile(str(path)) != IFSelect_ReturnStatus.IFSelect_RetDone:
        raise UnreadableSource(
            "The file begins like IGES, but its parameter section cannot be parsed.",
            "It was damaged on its way or badly written. Ask for it again.",
        )
    report.stage("translating", 0)
    document = new_document()
    if not reader.Transfer(document):
        raise UnreadableSource(
            "The file holds no shape that can be translated."
            if header.whole
            else "The file stops before its end, and what is there holds no shape.",
            "Ask for an export with solids or trimmed surfaces; drawings have none."
            if header.whole
            else "It was cut on its way. Ask for it again.",
        )
    walk = _Walk(document, shape_sink(report), lambda count: report.stage("parts", count))
    harvest = walk.run()
    model = Model(
        format="IGES", schema=header.version, writer=header.writer, unit=header.unit, up="z",
        metres_per_coordinate=Fraction(1, 1000), parts=harvest.parts, nodes=harvest.nodes,
        local=np.array(harvest.local).reshape(-1, 4, 4), box=np.zeros((2, 3)),
        layers=named_layers([part.layer for part in harvest.parts] + [node.layer for node in harvest.nodes]),
        hidden=header.hidden, leftovers=header.leftovers,
    )  # fmt: skip
    for part in model.parts:
        part.body = replace(exact_of(part), curves=0, points=0)  # counted by kind in the header already
    if walk.sewn:
        message = (
            f"{walk.loose:,} surfaces that belong to no solid were sewn within {SEWN_WITHIN} mm "
            f"into {walk.closed} closed and {walk.sewn - walk.closed} open shells."
        )
        model.findings.append(finding("sewn", "IGES", message))
    lost = header.trimmed - sum(part.body.face_count for part in model.parts)
    if lost > 0:
        message = f"{lost:,} of {header.trimmed:,} trimmed surfaces could not be translated."
        model.findings.append(finding("unreadable-entity", "IGES", message))
    if not header.whole:
        message = "The file stops before its end: its last section is missing. What came before was read."
        model.findings.append(finding("cut-short", "IGES", message))
    placed = np.array(model.placements, dtype=np.int64)
    if len(placed):
        parts = np.array([model.nodes[i].part for i in placed], dtype=np.int64)
        model.box = overall_box([part.box for part in model.parts], parts, model.world()[placed], harvest.shapes)
    return model


#: Colour, layer and name.
_Look = tuple[Colour | None, str | None, str]


class _Walk(TreeWalk):
    """As for any document, but surfaces that stand alone at the root wait until all are known, and are sewn."""

    loose = 0
    sewn = 0
    closed = 0

    def run(self) -> Harvest:
        roots = Sequence_TDF_Label()
        self._shapes.GetFreeShapes(roots)
        waiting: list[TDF_Label] = []
        for i in range(1, len(roots) + 1):
            label = roots.Value(i)
            shape = XCAFDoc_ShapeTool.GetShape_s(label)
            if not XCAFDoc_ShapeTool.IsAssembly_s(label) and _is_loose(shape):
                waiting.append(label)
            else:
                self._visit(label, label, -1)
        if waiting:
            self._sew(waiting)
        return self.harvest

    def _sew(self, labels: list[TDF_Label]) -> None:
        """Sew the surfaces of these labels together; each shell that comes of it is a part."""
        builder, together = BRep_Builder(), TopoDS_Compound()
        builder.MakeCompound(together)
        looks: list[_Look] = []
        for label in labels:
            shape = XCAFDoc_ShapeTool.GetShape_s(label)
            for face, look in self._looks(label, shape):
                builder.Add(together, _unmirrored(face))
                looks.append(look)
        sewn = sew(together, SEWN_WITHIN)
        self.loose = len(looks)
        self._parts_of(sewn, looks)

    def _looks(self, label: TDF_Label, shape: TopoDS_Shape) -> list[tuple[TopoDS_Shape, _Look]]:
        """Each face with its colour, layer and name: its own, else those of the smallest group that has any."""
        faces = ShapeMap()
        TopExp.MapShapes_s(shape, FACE, faces)
        looks = [(self._colour(label), self._layer(label), self._name(label))] * faces.Extent()
        groups = Sequence_TDF_Label()
        XCAFDoc_ShapeTool.GetSubShapes_s(label, groups)
        inner = [groups.Value(i) for i in range(1, len(groups) + 1)]
        members = [(numbers_of(faces, XCAFDoc_ShapeTool.GetShape_s(group)), group) for group in inner]
        for numbers, group in sorted(members, key=lambda item: -len(item[0])):
            colour, layer, name = self._colour(group), self._layer(group), self._name(group)
            for number in numbers:
                over = looks[number]
                looks[number] = (colour or over[0], layer or over[1], name or over[2])
        return [(faces.FindKey(number + 1), look) for number, look in enumerate(looks)]

    def _parts_of(self, sewn: Sewn, looks: list[_Look]) -> None:
        pieces: list[TopoDS_Shape] = [
            *explore(sewn.shape, SOLID), *explore(sewn.shape, SHELL, SOLID), *explore(sewn.shape, FACE, SHELL),
        ]  # fmt: skip
        for piece in pieces:
            part, faces = part_of(piece, "", "", self._sink)
            mine = [
                (faces.FindIndex(new) - 1, look)
                for new, look in zip(sewn.new, looks, strict=True)
                if faces.Contains(new)
            ]
            names = {look[2] for _, look in mine}
            layers = {look[1] for _, look in mine if look[1]}
            part.name = names.pop() if len(names) == 1 else ""
            part.layer = layers.pop() if len(layers) == 1 else None
            fallback = f"Level {part.layer} shell" if part.layer else "Shell"
            part.label = unique_label(part.name or fallback, self._refs)
            colours = [look[0] for _, look in mine]
            part.colour = max(set(colours), key=colours.count) if colours else None
            part.face_colours = {n: look[0] for n, look in mine if look[0] is not None and look[0] != part.colour}
            self.sewn += 1
            self.closed += int(exact_of(part).open_edges == 0)
            self.harvest.nodes.append(Node(part.name, -1, len(self.harvest.parts)))
            self.harvest.local.append(np.eye(4))
            self.harvest.parts.append(part)
            self.harvest.shapes.append(piece)
            self._part_found(len(self.harvest.parts))


def _unmirrored(face: TopoDS_Shape) -> TopoDS_Shape:
    """The face with its geometry in place where it stands by a mirror image: such a face is taken by some of the
    kernel to face one way, by some the other."""
    if not is_mirrored(face):
        return face
    place = face.Location().Transformation()
    return BRepBuilderAPI_Transform(face.Located(TopLoc_Location()), place, True).Shape()


def _is_loose(shape: TopoDS_Shape) -> bool:
    """Faces, and none of them in a solid."""
    return next(iter(explore(shape, FACE)), None) is not None and next(iter(explore(shape, SOLID)), None) is None
