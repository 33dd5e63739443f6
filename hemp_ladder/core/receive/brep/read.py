"""Reading the kernel's own files. Runs in a child process that may die."""

from fractions import Fraction
from pathlib import Path

import numpy as np
from OCP import BinTools as _bin
from OCP.BRep import BRep_Builder
from OCP.BRepTools import BRepTools
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Iterator, TopoDS_Shape

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.kernel.extents import overall_box
from hemp_ladder.core.kernel.parts import part_of, word_for
from hemp_ladder.core.kernel.shapes import COMPOUND, SHELL, SOLID, ShapeMap, explore, hush, matrix_of
from hemp_ladder.core.model.labels import unique_label
from hemp_ladder.core.model.model import Matrix, Model, Node, Part
from hemp_ladder.core.receive.brep.header import check_counts, is_binary
from hemp_ladder.core.receive.report import Report, shape_sink

#: As deep as anything that is meant goes; compounds in compounds beyond it are one part.
_DEEPEST = 64


def read_brep(path: Path, report: Report) -> Model:
    """The model in a BREP file, text or binary: compounds are groups, what stands in them parts.

    The format has no unit, no names, no layers and no colours; millimetres
    are taken.

    Raises UnreadableSource when nothing can be got from the file.
    """
    hush()
    report.stage("reading", 0)
    shape = TopoDS_Shape()
    with path.open("rb") as file:
        binary = is_binary(file.read(200))
    if not binary:
        check_counts(path)
    read = _bin.BinTools.Read_s(shape, str(path)) if binary else BRepTools.Read_s(shape, str(path), BRep_Builder())
    if not read or shape.IsNull():
        raise UnreadableSource(
            "The file begins like BREP, but what follows cannot be read.",
            "It was cut off or damaged. Ask for it again.",
        )
    walk = _Walk(report)
    walk.visit(shape)
    model = Model(
        format="BREP", schema="binary" if binary else "text", writer="", unit=None, up="z",
        metres_per_coordinate=Fraction(1, 1000), parts=walk.parts, nodes=walk.nodes,
        local=np.array(walk.local).reshape(-1, 4, 4), box=np.zeros((2, 3)),
    )  # fmt: skip
    placed = np.array(model.placements, dtype=np.int64)
    if len(placed):
        parts = np.array([model.nodes[i].part for i in placed], dtype=np.int64)
        model.box = overall_box([part.box for part in model.parts], parts, model.world()[placed], walk.shapes)
    return model


class _Walk:
    def __init__(self, report: Report) -> None:
        self.parts: list[Part] = []
        self.shapes: list[TopoDS_Shape] = []
        self.nodes: list[Node] = []
        self.local: list[Matrix] = []
        self._report = report
        self._refs: set[str] = set()
        self._known = ShapeMap()

    def visit(self, root: TopoDS_Shape) -> None:
        stack = [(root, -1, 0)]
        while stack:
            shape, parent, depth = stack.pop()
            index = len(self.nodes)
            children = _children(shape)
            group = depth < _DEEPEST and shape.ShapeType() == COMPOUND and not _is_one_part(children)
            location = shape.Location()
            self.local.append(np.eye(4) if location.IsIdentity() else matrix_of(location.Transformation()))
            self.nodes.append(Node("", parent))
            if group:
                self.nodes[index].name = "Compound"
                stack += [(child, index, depth + 1) for child in reversed(children)]
            else:
                self.nodes[index].part = self._part(shape.Located(TopLoc_Location()))

    def _part(self, shape: TopoDS_Shape) -> int:
        number = self._known.FindIndex(shape)
        if number:
            return number - 1
        self._known.Add(shape)
        part, _ = part_of(shape, "", "", shape_sink(self._report))
        kind = word_for(part)
        part.label = unique_label(f"{kind} {len(self.parts) + 1}", self._refs)
        self.parts.append(part)
        self.shapes.append(shape)
        self._report.stage("parts", len(self.parts))
        return len(self.parts) - 1


def _children(shape: TopoDS_Shape) -> list[TopoDS_Shape]:
    """Its direct pieces, each with its own location only."""
    walker = TopoDS_Iterator(shape, False, False)
    children = []
    while walker.More():
        children.append(walker.Value())
        walker.Next()
    return children


def _is_one_part(children: list[TopoDS_Shape]) -> bool:
    """Loose faces, or curves and points: pieces of one thing rather than things."""
    return not any(
        child.ShapeType() in (COMPOUND, SOLID, SHELL) or next(iter(explore(child, SOLID)), None) is not None
        for child in children
    )
