"""Small building blocks for the demo's shapes, in millimetres, Z up."""

import math
from collections.abc import Sequence

from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakePolygon,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipe
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakePrism,
    BRepPrimAPI_MakeRevol,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.collections import HArray1_gp_Pnt
from OCP.GeomAPI import GeomAPI_Interpolate
from OCP.gp import gp_Ax1, gp_Ax2, gp_Circ, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Shape

from hemp_ladder.core.kernel.shapes import EDGE, explore

Point = tuple[float, float, float]
Profile = Sequence[tuple[float, float]]
UP = gp_Dir(0, 0, 1)
AXIS = gp_Ax1(gp_Pnt(0, 0, 0), UP)


def place(x: float = 0, y: float = 0, z: float = 0, turn: float = 0, tilt: float = 0) -> TopLoc_Location:
    """Tilt about Y, turn about Z (degrees), then move."""
    tilted, turned, moved = gp_Trsf(), gp_Trsf(), gp_Trsf()
    tilted.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 1, 0)), math.radians(tilt))
    turned.SetRotation(AXIS, math.radians(turn))
    moved.SetTranslation(gp_Vec(x, y, z))
    return TopLoc_Location(moved.Multiplied(turned).Multiplied(tilted))


def around(radius: float, z: float, count: int, start: float = 0, tilt: float = 0) -> list[TopLoc_Location]:
    """Places evenly on a circle, each turned so that its X points outward."""
    places = []
    for number in range(count):
        angle = start + 360 * number / count
        x, y = radius * math.cos(math.radians(angle)), radius * math.sin(math.radians(angle))
        places.append(place(x, y, z, angle, tilt))
    return places


def spline(points: Sequence[Point]) -> TopoDS_Edge:
    """A smooth curve through points."""
    array = HArray1_gp_Pnt(1, len(points))
    for number, point in enumerate(points, 1):
        array.SetValue(number, gp_Pnt(*point))
    curve = GeomAPI_Interpolate(array, False, 1e-6)
    curve.Perform()
    return BRepBuilderAPI_MakeEdge(curve.Curve()).Edge()


def line(start: Point, end: Point) -> TopoDS_Edge:
    return BRepBuilderAPI_MakeEdge(gp_Pnt(*start), gp_Pnt(*end)).Edge()


def revolve(profile: Profile) -> TopoDS_Shape:
    """A closed polygon of (radius, height) turned about Z."""
    polygon = BRepBuilderAPI_MakePolygon()
    for radius, height in profile:
        polygon.Add(gp_Pnt(radius, 0, height))
    polygon.Close()
    face = BRepBuilderAPI_MakeFace(polygon.Wire(), True).Face()
    return BRepPrimAPI_MakeRevol(face, AXIS).Shape()


def revolve_edges(edges: Sequence[TopoDS_Edge]) -> TopoDS_Shape:
    """A closed outline of edges in the XZ plane turned about Z."""
    wire = BRepBuilderAPI_MakeWire()
    for edge in edges:
        wire.Add(edge)
    return BRepPrimAPI_MakeRevol(BRepBuilderAPI_MakeFace(wire.Wire(), True).Face(), AXIS).Shape()


def extrude(outline: Sequence[Point], along: Point) -> TopoDS_Shape:
    """A closed polygon pushed along a vector."""
    polygon = BRepBuilderAPI_MakePolygon()
    for point in outline:
        polygon.Add(gp_Pnt(*point))
    polygon.Close()
    face = BRepBuilderAPI_MakeFace(polygon.Wire(), True).Face()
    return BRepPrimAPI_MakePrism(face, gp_Vec(*along)).Shape()


def extrude_edges(edges: Sequence[TopoDS_Edge], along: Point) -> TopoDS_Shape:
    wire = BRepBuilderAPI_MakeWire()
    for edge in edges:
        wire.Add(edge)
    return BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(wire.Wire(), True).Face(), gp_Vec(*along)).Shape()


def pipe(edge: TopoDS_Edge, start: Point, heading: Point, radius: float) -> TopoDS_Shape:
    """A round bar along a curve that starts at `start` in direction `heading`."""
    circle = gp_Circ(gp_Ax2(gp_Pnt(*start), gp_Dir(*heading)), radius)
    ring = BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(circle).Edge()).Wire()
    path = BRepBuilderAPI_MakeWire(edge).Wire()
    return BRepOffsetAPI_MakePipe(path, BRepBuilderAPI_MakeFace(ring).Face()).Shape()


def box(x: float, y: float, z: float, at: Point = (0, 0, 0)) -> TopoDS_Shape:
    """A block centred in X and Y, standing on `at`."""
    return BRepPrimAPI_MakeBox(gp_Pnt(at[0] - x / 2, at[1] - y / 2, at[2]), x, y, z).Shape()


def cylinder(radius: float, height: float, at: Point = (0, 0, 0), heading: Point = (0, 0, 1)) -> TopoDS_Shape:
    return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(*at), gp_Dir(*heading)), radius, height).Shape()


def sphere(radius: float, at: Point = (0, 0, 0)) -> TopoDS_Shape:
    return BRepPrimAPI_MakeSphere(gp_Pnt(*at), radius).Shape()


def torus(radius: float, thickness: float) -> TopoDS_Shape:
    return BRepPrimAPI_MakeTorus(radius, thickness).Shape()


def fuse(first: TopoDS_Shape, *others: TopoDS_Shape) -> TopoDS_Shape:
    for other in others:
        first = BRepAlgoAPI_Fuse(first, other).Shape()
    return first


def cut(first: TopoDS_Shape, *others: TopoDS_Shape) -> TopoDS_Shape:
    for other in others:
        first = BRepAlgoAPI_Cut(first, other).Shape()
    return first


def fillet(shape: TopoDS_Shape, radius: float, which: Sequence[int] | None = None) -> TopoDS_Shape:
    """Round the edges with these numbers, or all."""
    maker = BRepFilletAPI_MakeFillet(shape)
    for edge in _edges(shape, which):
        maker.Add(radius, edge)
    return maker.Shape()


def chamfer(shape: TopoDS_Shape, width: float, which: Sequence[int] | None = None) -> TopoDS_Shape:
    maker = BRepFilletAPI_MakeChamfer(shape)
    for edge in _edges(shape, which):
        maker.Add(width, edge)
    return maker.Shape()


def _edges(shape: TopoDS_Shape, which: Sequence[int] | None) -> list[TopoDS_Edge]:
    edges: list[TopoDS_Edge] = []
    for item in explore(shape, EDGE):
        edge = TopoDS.Edge(item)
        if not any(edge.IsSame(known) for known in edges):
            edges.append(edge)
    return edges if which is None else [edges[i] for i in which]
