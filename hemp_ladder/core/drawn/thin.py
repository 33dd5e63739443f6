"""Walls that are too thin for a nozzle: found, measured, and made wide enough.

What an opening by half the nozzle (shrink, then grow) does not give back is
too thin (mathematical morphology; J. Serra, 1982). Corners lose their tips
to it as well, sharp ones long ones: a remainder that hangs on the rest at one
end only counts when it is a rib of some width, and not a tip that tapers off.
"""

from dataclasses import dataclass

import manifold3d as m3
import numpy as np

from hemp_ladder.core.drawn.area import Sheet

#: A remainder smaller than this share of the square of the nozzle is the tip of a corner, not a wall.
_TIP = 0.3
#: Widths are measured to this share of the nozzle.
_STEPS = 7
#: Of its length, what is left of a rib when a third of its width is taken off each flank; a wedge keeps a third.
_RIB = 0.6


@dataclass(frozen=True)
class Thin:
    """One thin place: where, in the part's own coordinates, how wide it is there, and its outline."""

    x: float
    y: float
    width: float


def thin_places(sheet: Sheet, area: m3.CrossSection, nozzle: float) -> list[tuple[Thin, m3.CrossSection]]:
    """Places narrower than the nozzle, thinnest first."""
    if area.is_empty() or nozzle <= 0:
        return []
    # Opened by a hair less, so that a wall of just the nozzle's width is not thin.
    half = nozzle / 2 * 0.999
    opened = sheet.offset(sheet.offset(area, -half), half * 1.002)
    rest = area - opened
    found = []
    least = _TIP * (nozzle * sheet.scale) ** 2
    for piece in rest.decompose():
        if piece.area() < least:
            continue
        ring = np.asarray(max(piece.to_polygons(), key=len)) / sheet.scale
        width = _width(sheet, piece, nozzle)
        if width <= 0 or piece.area() < width * sheet.scale * nozzle * sheet.scale * 0.5:
            continue
        if _tapers(sheet, piece, opened, width):
            continue
        x, y = _inside(ring)
        found.append((Thin(x, y, width), piece))
    return sorted(found, key=lambda item: item[0].width)


def thickened(sheet: Sheet, area: m3.CrossSection, nozzle: float) -> m3.CrossSection:
    """The area with each thin place grown until it is as wide as the nozzle."""
    places = thin_places(sheet, area, nozzle)
    grown = [sheet.offset(piece, (nozzle - place.width) / 2 * 1.02) for place, piece in places]
    return m3.CrossSection.batch_boolean([area, *grown], m3.OpType.Add) if grown else area


def _width(sheet: Sheet, piece: m3.CrossSection, nozzle: float) -> float:
    """Twice the largest distance from the border that a piece reaches, by halving."""
    low, high = 0.0, nozzle / 2
    for _ in range(_STEPS):
        middle = (low + high) / 2
        if sheet.offset(piece, -middle).is_empty():
            high = middle
        else:
            low = middle
    return low + high


def _tapers(sheet: Sheet, piece: m3.CrossSection, rest: m3.CrossSection, width: float) -> bool:
    """Whether it hangs on the rest at one end and most of its length goes when its flanks are shaved off."""
    touching = sheet.offset(piece, 0.02 * width) ^ rest
    if touching.is_empty() or len(touching.decompose()) > 1:
        return False
    core = sheet.offset(piece, -0.35 * width)
    return _reach(core) < _RIB * _reach(piece)


def _reach(area: m3.CrossSection) -> float:
    if area.is_empty():
        return 0.0
    points = np.concatenate([np.asarray(ring) for ring in area.to_polygons()])
    return float(np.linalg.norm(np.ptp(points, axis=0)))


def _inside(ring: np.ndarray) -> tuple[float, float]:
    """A point well inside of a ring."""
    import shapely

    point = shapely.point_on_surface(shapely.make_valid(shapely.Polygon(ring)))
    if point.is_empty:
        return float(ring[0, 0]), float(ring[0, 1])
    return float(point.x), float(point.y)
