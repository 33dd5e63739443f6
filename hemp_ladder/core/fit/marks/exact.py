"""Marks of an exact shape: its true vertices, edges, circles and planes. Imports the kernel: for child processes only."""

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepGProp import BRepGProp
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.gp import gp_Dir, gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face

from hemp_ladder.core.fit.marks.marks import MOST_MARKS, Array, Kind, Marks, MarksBuilder
from hemp_ladder.core.kernel.shapes import EDGE, VERTEX, ShapeMap, explore, faces_of, read_shape

#: Points along a circle, and along an edge that is neither line nor circle.
_ROUND, _BENT = 48, 16


def exact_marks(data: bytes) -> Marks:
    """Marks of the shape that `write_shape` wrote."""
    shape = read_shape(data)
    build = MarksBuilder()
    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box, False)
    if not box.IsVoid():
        build.size = max(float(np.sqrt(box.SquareExtent())), 1e-12)
    faces = faces_of(shape)
    edges, seams, vertices = ShapeMap(), _seams(faces), ShapeMap()
    TopExp.MapShapes_s(shape, EDGE, edges)
    meeting: dict[int, set[int]] = {}
    for number in range(1, min(edges.Extent(), 4 * MOST_MARKS) + 1):
        edge = TopoDS.Edge(edges.FindKey(number))
        if seams.Contains(edge) or BRep_Tool.Degenerated_s(edge):
            continue
        _edge(build, edge)
        for vertex in explore(edge, VERTEX):
            meeting.setdefault(vertices.Add(vertex), set()).add(number)
    # Where a closed edge begins is no corner, and no other edge meets it there.
    for number, those in meeting.items():
        if len(those) > 1 or not _is_closed(TopoDS.Edge(edges.FindKey(next(iter(those))))):
            at = _xyz(BRep_Tool.Pnt_s(TopoDS.Vertex(vertices.FindKey(number))))
            build.mark(Kind.CORNER, at, weight=build.size)
    for face in faces[:MOST_MARKS]:
        _face(build, face)
    return build.build()


def _seams(faces: list[TopoDS_Face]) -> ShapeMap:
    """Edges where a face meets itself, as along a cylinder: nobody sees them."""
    found = ShapeMap()
    for face in faces:
        for item in explore(face, EDGE):
            edge = TopoDS.Edge(item)
            if BRep_Tool.IsClosed_s(edge, face):
                found.Add(edge)
    return found


def _is_closed(edge: TopoDS_Edge) -> bool:
    return bool(TopExp.FirstVertex_s(edge).IsSame(TopExp.LastVertex_s(edge)))


def _edge(build: MarksBuilder, edge: TopoDS_Edge) -> None:
    if BRep_Tool.Degenerated_s(edge):
        return
    curve = BRepAdaptor_Curve(edge)
    first, last = curve.FirstParameter(), curve.LastParameter()
    if not np.isfinite([first, last]).all() or max(abs(first), abs(last)) > 1e99 or last <= first:
        return
    kind = curve.GetType()
    if kind == GeomAbs_CurveType.GeomAbs_Line:
        ends = np.array([_xyz(curve.Value(first)), _xyz(curve.Value(last))])
        length = float(np.linalg.norm(ends[1] - ends[0]))
        if length > 0:
            build.line(
                ends, build.mark(Kind.EDGE_MIDDLE, ends.mean(axis=0), (ends[1] - ends[0]) / length, 0.0, length), length
            )
        return
    if kind == GeomAbs_CurveType.GeomAbs_Circle:
        circle = curve.Circle()
        radius = circle.Radius()
        number = build.mark(
            Kind.CENTRE, _xyz(circle.Location()), _xyz(circle.Axis().Direction()), radius, 2 * build.size + radius
        )
        steps = max(2, int(_ROUND * (last - first) / (2 * np.pi)) + 1)
        build.line(_along(curve, np.linspace(first, last, steps)), number, radius * (last - first))
        if last - first < 2 * np.pi - 1e-9:
            build.mark(Kind.EDGE_MIDDLE, _xyz(curve.Value((first + last) / 2)), weight=radius * (last - first))
        return
    points = _along(curve, np.linspace(first, last, _BENT))
    length = float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())
    if length > 0:
        half = GCPnts_AbscissaPoint(curve, GCPnts_AbscissaPoint.Length_s(curve) / 2, first)
        middle = half.Parameter() if half.IsDone() else (first + last) / 2
        build.line(points, build.mark(Kind.EDGE_MIDDLE, _xyz(curve.Value(middle)), weight=length), length)


def _face(build: MarksBuilder, face: TopoDS_Face) -> None:
    surface = BRepAdaptor_Surface(face, False)
    kind = surface.GetType()
    if kind == GeomAbs_SurfaceType.GeomAbs_Plane:
        told = GProp_GProps()
        BRepGProp.SurfaceProperties_s(face, told)
        area = told.Mass()
        if area > 0:
            normal = np.array(_xyz(surface.Plane().Axis().Direction()))
            # A plane's own axes can be left-handed; its outside is where du x dv points, turned with the face.
            normal = normal if surface.Plane().Direct() else -normal
            if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED:
                normal = -normal
            build.mark(Kind.FACE_CENTRE, _xyz(told.CentreOfMass()), normal, 0.0, 3 * build.size + float(np.sqrt(area)))
    elif kind == GeomAbs_SurfaceType.GeomAbs_Sphere:
        build.mark(Kind.CENTRE, _xyz(surface.Sphere().Location()), (0, 0, 0), surface.Sphere().Radius(), 2 * build.size)


def _along(curve: BRepAdaptor_Curve, parameters: Array) -> Array:
    return np.array([_xyz(curve.Value(float(t))) for t in parameters])


def _xyz(point: gp_Pnt | gp_Dir) -> tuple[float, float, float]:
    return point.X(), point.Y(), point.Z()
