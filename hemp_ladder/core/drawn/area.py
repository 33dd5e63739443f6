"""What of a shape is solid: fill rules, pens, clips, rings, and other shapes, as one set of polygons.

Clipper2 does the areas (through manifold3d's cross-sections). It rounds to
eight digits behind the point, so every shape is brought to a size of a
thousand first: what is rounded is then under a hundred-billionth of it.
"""

import math
from collections.abc import Iterable, Sequence

import manifold3d as m3
import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.drawn.curves import Points, Subpath, bounds, polyline
from hemp_ladder.core.drawn.flatten import Fineness, arc_steps, flatten, flatten_measured
from hemp_ladder.core.drawn.shape import Rule, Shape, Stroke, shift
from hemp_ladder.core.drawn.solid import Solid
from hemp_ladder.core.drawn.stroke import stroked

SIZE = 1000.0
#: Of the chord error, what an offset curve may be simplified by.
_SMOOTHED = 0.1
_RULES = {"nonzero": m3.FillRule.NonZero, "evenodd": m3.FillRule.EvenOdd}


class Sheet:
    """A scale for areas, their fineness in it, and how far curves strayed from their chords so far."""

    def __init__(self, shape: Shape, solid: Solid, fine: Fineness) -> None:
        across = _across(shape) + 2 * solid.wall + (solid.stroke or 0.0)
        if shape.stroke is not None:
            across += shape.stroke.width * _stretch(shape)
        self.scale = SIZE / across if across > 0 and math.isfinite(across) else 1.0
        self.given = fine
        self.fine = Fineness(fine.chord * self.scale, fine.angle, fine.segments)
        self.off = 0.0

    def filled(self, subpaths: Iterable[Subpath], rule: Rule, fine: Fineness | None = None) -> m3.CrossSection:
        """The area inside closed outlines; those that are open are closed by a straight line."""
        rings: list[Points] = []
        for path in subpaths:
            ring, off = flatten_measured(path, fine or self.given)
            if len(ring) > 2 and math.isfinite(float(ring.sum())):
                rings.append(ring * self.scale)
                self.off = max(self.off, off * self.scale)
        return m3.CrossSection(rings, _RULES[rule]) if rings else m3.CrossSection()

    def area(self, shape: Shape, width: float | None = None) -> m3.CrossSection:
        """The area of a shape within its clips; `width` is one on the sheet, for the pen's line."""
        if shape.stroke is None:
            found = self.filled(shape.subpaths, shape.rule)
        else:
            pen = shape.stroke
            wide = pen.width if width is None else width / max(_stretch(shape), 1e-300)
            found = self.line(shape.subpaths, pen, wide, _stretch(shape))
        for clip in shape.clips:
            window = m3.CrossSection.batch_boolean(
                [self.filled(area.subpaths, area.rule) for area in clip] or [m3.CrossSection()], m3.OpType.Add
            )
            found = found ^ window
        return found

    def line(self, subpaths: Sequence[Subpath], pen: Stroke, width: float, stretch: float = 1.0) -> m3.CrossSection:
        """The area of a pen's line. With segments a curve, the curve gets them before the pen follows it."""
        fine = self.given
        if fine.segments:
            runs = [(flatten(path, fine), path.closed) for path in subpaths]
            subpaths = [polyline(points, closed) for points, closed in runs]
            fine = Fineness(math.inf, 2 * math.pi / fine.segments)
        drawn = stroked(tuple(subpaths), pen, width, self.given.chord / max(stretch, 1e-300))
        return self.filled((path.moved(pen.matrix) for path in drawn), "nonzero", fine)

    def offset(self, area: m3.CrossSection, by: float) -> m3.CrossSection:
        """Grown by a length on the sheet, or shrunk by a negative one; corners are rounded as a cutter rounds them."""
        length = by * self.scale
        steps = self.fine.segments or arc_steps(abs(length), abs(length), 2 * math.pi, self.fine)
        return area.offset(length, m3.JoinType.Round, 2.0, max(8, 4 * math.ceil(steps / 4)))

    def polygons(self, area: m3.CrossSection) -> list[Points]:
        """Its rings back on the sheet: outer ones counter-clockwise, holes clockwise."""
        return [np.asarray(ring) / self.scale for ring in area.to_polygons()]


def _across(shape: Shape) -> float:
    """About how large a shape is. A lone circle, of which drawings are full, needs no look at its extremes."""
    if len(shape.subpaths) == 1 and shape.stroke is None and len(shape.subpaths[0].segments) == 1:
        verb, v = shape.subpaths[0].segments[0]
        if verb == "A":
            return 2 * (abs(v[2]) + abs(v[3]) + abs(v[4]) + abs(v[5]))
    return float(np.ptp(bounds(shape.on_sheet), axis=0).max())


def _stretch(shape: Shape) -> float:
    """By how much, on average, a pen's space is stretched on the sheet."""
    if shape.stroke is None:
        return 1.0
    a, b, _, d, e, _ = shape.stroke.matrix
    return math.sqrt(abs(a * e - b * d))


def solid_area(sheet: Sheet, shape: Shape, solid: Solid, others: Sequence[Shape]) -> m3.CrossSection:
    """The shape after the others were taken away or joined, and its ring where one is asked for."""
    area = sheet.area(shape, solid.stroke)
    for other, told in zip(others, solid.others, strict=True):
        one = sheet.area(other.moved(shift(told.x, told.y)), told.stroke)
        area = area - one if told.does == "minus" else area + one
    if solid.wall > 0:
        area = _ring(sheet, area, shape, solid)
    return area


def _ring(sheet: Sheet, area: m3.CrossSection, shape: Shape, solid: Solid) -> m3.CrossSection:
    def edge(by: float) -> m3.CrossSection:
        # Every corner of a curve became a little arc: those are flattened again, for a tenth of the chord error.
        grown = sheet.offset(area, by)
        return grown.simplify(_SMOOTHED * sheet.fine.chord) if math.isfinite(sheet.fine.chord) else grown

    if shape.stroke is None and all(not path.closed for path in shape.subpaths):
        # An open line has no inside: the wall stands astride of it.
        return sheet.line(shape.subpaths, Stroke(solid.wall, "round", "round"), solid.wall)
    if solid.side == "outward":
        return edge(solid.wall) - area
    if solid.side == "inward":
        return area - edge(-solid.wall)
    return edge(solid.wall / 2) - edge(-solid.wall / 2)


def area_of(rings: Sequence[NDArray[np.float64]]) -> float:
    """What rings enclose, holes taken off, by the shoelace formula."""
    total = 0.0
    for ring in rings:
        x, y = (ring - ring[0]).T
        total += float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2
    return total
