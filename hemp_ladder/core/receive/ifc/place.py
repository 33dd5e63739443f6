"""Units of a building, and where on a map it stands."""

import math
from fractions import Fraction
from typing import Any

from hemp_ladder.core.model.model import MapPlace
from hemp_ladder.core.units import UNITS

_PREFIX = {
    "EXA": 18, "PETA": 15, "TERA": 12, "GIGA": 9, "MEGA": 6, "KILO": 3, "HECTO": 2, "DECA": 1, None: 0,
    "DECI": -1, "CENTI": -2, "MILLI": -3, "MICRO": -6, "NANO": -9, "PICO": -12, "FEMTO": -15, "ATTO": -18,
}  # fmt: skip


def declared_length(file: Any) -> tuple[str | None, float | None]:
    """The code of the declared unit of length, and its metres; the code is None for a unit that has no name here."""
    for assignment in [*_of_projects(file), *file.by_type("IfcUnitAssignment")]:
        for unit in getattr(assignment, "Units", None) or ():
            if unit.is_a("IfcNamedUnit") and unit.UnitType == "LENGTHUNIT":
                metres = _metres(unit)
                if metres:
                    return _code(metres), metres
    return None, None


def metres_a_coordinate(file: Any) -> Fraction:
    """What the format library makes of the file's own unit: metres, by the units of the project. Where there is no
    project, or it has none, it hands over the numbers as they stand."""
    if _of_projects(file):
        return Fraction(1)
    code, metres = declared_length(file)
    return UNITS[code].metres if code else Fraction(metres or 1.0)


def _of_projects(file: Any) -> list[Any]:
    units = [project.UnitsInContext for project in file.by_type("IfcProject")]
    return [item for item in units if item is not None and item.is_a("IfcUnitAssignment")]


def _metres(unit: Any, depth: int = 0) -> float | None:
    if unit is None:
        return None
    if unit.is_a("IfcSIUnit"):
        return 10.0 ** _PREFIX.get(unit.Prefix, 0) if unit.Name == "METRE" else None
    if unit.is_a("IfcConversionBasedUnit") and depth < 8:
        factor = unit.ConversionFactor
        below = _metres(factor.UnitComponent, depth + 1) if factor is not None else None
        value = factor.ValueComponent if below else None
        return float(value.wrappedValue) * below if below and value is not None else None
    return None


def _code(metres: float) -> str | None:
    for code, unit in UNITS.items():
        # International and survey foot are two millionths apart; files write seven digits or more.
        if abs(metres / float(unit.metres) - 1) < 5e-7:
            return code
    return None


def map_place(file: Any) -> MapPlace | None:
    """The map conversion of the model's context (IFC4 on): metres, whatever unit the map has."""
    for name in ("IfcMapConversion", "IfcRigidOperation"):
        try:
            found = file.by_type(name)
        except RuntimeError:  # a schema without the class
            continue
        for item in found:
            grid = item.TargetCRS
            named = (grid.Name or "") if grid is not None else ""
            factor = _metres(grid.MapUnit) if getattr(grid, "MapUnit", None) else declared_length(file)[1]
            factor = factor or 1.0
            if name == "IfcRigidOperation":
                first, second = (
                    float(getattr(item, key).wrappedValue) for key in ("FirstCoordinate", "SecondCoordinate")
                )
                return MapPlace(first * factor, second * factor, float(item.Height or 0) * factor, grid=named)
            turn = 0.0
            if item.XAxisAbscissa is not None and item.XAxisOrdinate is not None:
                turn = math.degrees(math.atan2(item.XAxisOrdinate, item.XAxisAbscissa))
            return MapPlace(
                item.Eastings * factor, item.Northings * factor, item.OrthogonalHeight * factor,
                turn, float(item.Scale or 1.0), named,
            )  # fmt: skip
    return None
