"""Another large assembly to measure on: 300 castings, most of their faces splines, 3,000 placements. Invented."""

import math
import random
from pathlib import Path

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeWire
from OCP.BRepOffsetAPI import BRepOffsetAPI_ThruSections
from OCP.collections import HArray1_gp_Pnt
from OCP.GeomAPI import GeomAPI_Interpolate
from OCP.gp import gp_Pnt
from OCP.TopoDS import TopoDS_Shape, TopoDS_Wire

from bench.assembly import scatter
from demo.shapes import cut, cylinder


def write_castings(path: Path) -> Path:
    """Write the assembly unless it is there."""
    return scatter(path, _part, random.Random(23), "Foundry", "Row", layers=9, reach=(6e3, 2e3))


def _part(number: int, dice: random.Random) -> tuple[str, TopoDS_Shape]:
    """One of four kinds of loft through closed spline sections, no two alike."""
    kind, size = number % 4, dice.uniform(50, 220)
    lobes = 3 + number % 5
    if kind == 0:
        rings = [
            _ring(size * s, size * h, lobes, 0.12, 0.0) for s, h in ((0.5, 0), (0.62, 0.5), (0.4, 1.1), (0.46, 1.5))
        ]
        return "Housing", cut(_loft(rings), cylinder(size * 0.18, size * 3, (0, 0, -size)))
    if kind == 1:
        rings = [_ring(size * 0.5, size * 0.25 * k, 2, 0.45, 0.25 * k) for k in range(6)]
        return "Blade", _loft(rings)
    if kind == 2:
        rings = [_ring(size * (0.3 + 0.08 * math.sin(k)), size * 0.2 * k, lobes, 0.05, 0.1 * k) for k in range(8)]
        holes = [
            cylinder(size * 0.05, size * 4, (size * 0.12 * math.cos(a), size * 0.12 * math.sin(a), -size))
            for a in (0, 2, 4)
        ]
        return "Nozzle", cut(_loft(rings), *holes)
    rings = [_ring(size * s, size * h, lobes, 0.2, 0.0) for s, h in ((0.7, 0), (0.7, 0.1), (0.55, 0.16))]
    return "Flange", cut(_loft(rings), *[
        cylinder(size * 0.06, size, (size * 0.35 * math.cos(k * math.pi / 3), size * 0.35 * math.sin(k * math.pi / 3), -size * 0.3))
        for k in range(6)
    ])  # fmt: skip


def _ring(radius: float, height: float, lobes: int, deep: float, turn: float) -> list[tuple[float, float, float]]:
    """Points around a lobed section."""
    angles = [2 * math.pi * k / 48 for k in range(48)]
    return [
        (r * math.cos(a + turn), r * math.sin(a + turn), height)
        for a in angles
        for r in [radius * (1 + deep * math.cos(lobes * a))]
    ]


def _loft(rings: list[list[tuple[float, float, float]]]) -> TopoDS_Shape:
    """A solid through closed splines."""
    maker = BRepOffsetAPI_ThruSections(True, False)
    for ring in rings:
        maker.AddWire(_closed(ring))
    maker.Build()
    return maker.Shape()


def _closed(points: list[tuple[float, float, float]]) -> TopoDS_Wire:
    """A smooth closed curve through points."""
    array = HArray1_gp_Pnt(1, len(points))
    for number, point in enumerate(points, 1):
        array.SetValue(number, gp_Pnt(*point))
    curve = GeomAPI_Interpolate(array, True, 1e-6)
    curve.Perform()
    return BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(curve.Curve()).Edge()).Wire()
