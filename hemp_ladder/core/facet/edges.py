"""How far the edges of an exact shape lie from the sides of triangles that stand for them."""

from dataclasses import dataclass

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Face

from hemp_ladder.core.facet.patch import Floats
from hemp_ladder.core.facet.surface.swept import curve_of
from hemp_ladder.core.kernel.shapes import EDGE, ShapeMap, explore
from hemp_ladder.core.mesh.triangles import dot, lengths

_LINE, _CIRCLE = GeomAbs_CurveType.GeomAbs_Line, GeomAbs_CurveType.GeomAbs_Circle
#: Between two parameters of these the curve is farthest from its chord in the middle: the ellipse is a stretched circle.
_MIDDLE = {GeomAbs_CurveType.GeomAbs_Circle, GeomAbs_CurveType.GeomAbs_Ellipse}
_SHARES = (0.25, 0.5, 0.75)


@dataclass(frozen=True)
class EdgesOff:
    """The largest distance found between an edge and its sides, from how many points, and whether it is exact."""

    largest: float
    samples: int
    exact: bool


def edges_off(faces: list[TopoDS_Face]) -> EdgesOff:
    """Of all edges of faces that have triangles: points of the exact curve between two of its vertices, and the chord."""
    seen = ShapeMap()
    largest, samples, exact = 0.0, 0, True
    for face in faces:
        triangles = BRep_Tool.Triangulation_s(face, TopLoc_Location())
        if triangles is None:
            continue
        for item in explore(face, EDGE):
            edge = TopoDS.Edge(item)
            known = seen.Extent()
            if BRep_Tool.Degenerated_s(edge) or seen.Add(edge) <= known:
                continue
            curve = BRepAdaptor_Curve(edge)
            kind = curve.GetType()
            if kind == _LINE:
                continue
            sides = BRep_Tool.PolygonOnTriangulation_s(edge, triangles, face.Location())
            if sides is None or not sides.HasParameters():
                exact = False
                continue
            nodes = np.array([sides.Parameter(node) for node in range(1, sides.NbNodes() + 1)])
            plain = kind in _MIDDLE
            if kind == _CIRCLE:
                # The sagitta, which is found without a point of the curve.
                off = 2 * curve.Circle().Radius() * np.square(np.sin(np.diff(nodes) / 4))
            else:
                off = _off(curve_of(curve).points, nodes, (0.5,) if plain else _SHARES)
            largest, samples, exact = max(largest, float(off.max(initial=0))), samples + len(off), exact and plain
    return EdgesOff(largest, samples, exact)


def _off(points, nodes: Floats, shares: tuple[float, ...]) -> Floats:  # type: ignore[no-untyped-def]
    """The distance of a curve, at shares of the way between parameters (n,), from the chords between those."""
    ends = points(nodes)
    start, way = ends[:-1], ends[1:] - ends[:-1]
    square = np.maximum(dot(way, way), 1e-300)
    found = []
    for share in shares:
        there = points(nodes[:-1] + share * np.diff(nodes)) - start
        along = (dot(there, way) / square).clip(0, 1)
        found.append(lengths(there - along[:, None] * way))
    return np.concatenate(found)
