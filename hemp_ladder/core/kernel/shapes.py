"""The few kernel calls that every user of exact shapes needs.

Importing the kernel takes 1.5 s and 260 MB, so nothing outside child
processes imports this module, and no module imports it at its top that the
web process imports.
"""

import io
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray
from OCP import BinTools as _bin
from OCP.BRep import BRep_Tool
from OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher
from OCP.gp import gp_Trsf
from OCP.Message import Message, Message_Gravity
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

#: Shapes numbered from 1, each once.
ShapeMap = IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher

FACE = TopAbs_ShapeEnum.TopAbs_FACE
EDGE = TopAbs_ShapeEnum.TopAbs_EDGE
VERTEX = TopAbs_ShapeEnum.TopAbs_VERTEX
SOLID = TopAbs_ShapeEnum.TopAbs_SOLID
SHELL = TopAbs_ShapeEnum.TopAbs_SHELL
COMPOUND = TopAbs_ShapeEnum.TopAbs_COMPOUND


def hush() -> None:
    """Keep the kernel's own chatter off standard output, which may carry JSON."""
    for printer in Message.DefaultMessenger_s().Printers():
        printer.SetTraceLevel(Message_Gravity.Message_Fail)


def write_shape(shape: TopoDS_Shape) -> bytes:
    """The exact shape in the kernel's binary form, without triangles."""
    stream = io.BytesIO()
    version = _bin.BinTools_FormatVersion.BinTools_FormatVersion_VERSION_4
    _bin.BinTools.Write_s(shape, stream, False, False, version)
    return stream.getvalue()


def read_shape(data: bytes) -> TopoDS_Shape:
    """The shape that `write_shape` wrote."""
    shape = TopoDS_Shape()
    _bin.BinTools.Read_s(shape, io.BytesIO(data))
    return shape


def faces_of(shape: TopoDS_Shape) -> list[TopoDS_Face]:
    """Its distinct faces, in an order that survives writing and reading."""
    found = ShapeMap()
    TopExp.MapShapes_s(shape, FACE, found)
    return [TopoDS.Face(found.FindKey(i)) for i in range(1, found.Extent() + 1)]


def explore(shape: TopoDS_Shape, kind: TopAbs_ShapeEnum, *avoid: TopAbs_ShapeEnum) -> Iterator[TopoDS_Shape]:
    """Sub-shapes of a kind, leaving out those inside a shape of the kind to avoid."""
    walker = TopExp_Explorer(shape, kind, *avoid)
    while walker.More():
        yield walker.Current()
        walker.Next()


def is_mirrored(shape: TopoDS_Shape) -> bool:
    """Whether it stands by a mirror image. The kernel's own `IsNegative` sees only those with a negative scale."""
    location = shape.Location()
    return not location.IsIdentity() and bool(np.linalg.det(matrix_of(location.Transformation())[:3, :3]) < 0)


def matrix_of(move: gp_Trsf) -> NDArray[np.float64]:
    """A kernel transformation as a 4x4 float64 matrix."""
    matrix = np.eye(4)
    for row in range(3):
        for column in range(4):
            matrix[row, column] = move.Value(row + 1, column + 1)
    return matrix


def open_edges(shape: TopoDS_Shape) -> int:
    """Edges that bound one face only: where a shell ends. Seams and collapsed edges do not count."""
    uses: dict[int, int] = {}
    known = ShapeMap()
    for face in faces_of(shape):
        for item in explore(face, EDGE):
            edge: TopoDS_Edge = TopoDS.Edge(item)
            if not BRep_Tool.Degenerated_s(edge):
                number = known.Add(edge)
                uses[number] = uses.get(number, 0) + 1
    return sum(1 for count in uses.values() if count == 1)
