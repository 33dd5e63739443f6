"""A factor that a known length asks for: which common mistake it is, and which unit explains it."""

from dataclasses import dataclass
from fractions import Fraction

from hemp_ladder.core.units import UNITS

#: So near counts as the same: hand-typed lengths have three digits.
NEAR = 0.005

#: Common practice: what goes wrong between programs, as ratios of two units.
_MISTAKES: tuple[tuple[Fraction, str], ...] = (
    (Fraction(10), "ten: millimetres and centimetres taken for each other"),
    (Fraction(100), "a hundred: centimetres and metres taken for each other"),
    (Fraction(1000), "a thousand: millimetres and metres taken for each other"),
    (Fraction(254, 10), "25.4: inches and millimetres taken for each other"),
    (Fraction(254, 100), "2.54: inches and centimetres taken for each other"),
    (Fraction(3048, 10), "304.8: feet and millimetres taken for each other"),
    (Fraction(3048, 100), "30.48: feet and centimetres taken for each other"),
    (Fraction(10_000, 254), "39.37: inches and metres taken for each other"),
    (Fraction(10_000, 3048), "3.281: feet and metres taken for each other"),
    (Fraction(12), "twelve: inches and feet taken for each other"),
    (Fraction(3937, 1200), "US survey feet and metres taken for each other"),
)
#: Units in the order in which one is offered where several are as near.
_LIKELY = ("mm", "m", "cm", "in", "ft", "usft", "yd", "um", "km", "mil", "px", "pt", "mi")
#: Two readings so near each other cannot be told apart by a typed length.
_SAME = 1e-5


@dataclass(frozen=True)
class Mistake:
    """What a factor is: the ratio that it is near to, in words; off (a share); and the unit that explains it."""

    said: str
    off: float
    unit: str | None


def mistake_of(factor: float, metres: Fraction) -> Mistake | None:
    """What a factor for numbers that count as so many metres each may come of; None where it matches nothing known.

    A factor within half a percent of one is none either: measuring.
    """
    if not 0 < factor < float("inf") or abs(factor - 1) <= NEAR:
        return None
    unit = unit_of(factor * float(metres))
    ratio = factor if factor > 1 else 1 / factor
    close = [(abs(ratio / float(known) - 1), said) for known, said in _MISTAKES]
    close = [item for item in close if item[0] <= NEAR]
    if not close:
        if unit is None:
            return None
        return Mistake(
            f"the numbers are in {UNITS[unit].name}s", abs(factor * float(metres) / float(UNITS[unit].metres) - 1), unit
        )
    off, said = min(close, key=lambda item: (item[0] > _SAME, item[0]) if "survey" in item[1] else (False, item[0]))
    return Mistake(f"a factor of {said}", off, unit)


def unit_of(metres: float) -> str | None:
    """The unit that is so many metres long, within half a percent; a survey foot only where it is told from a foot."""
    near = {code: abs(metres / float(UNITS[code].metres) - 1) for code in _LIKELY}
    found = [code for code in _LIKELY if near[code] <= NEAR]
    if not found:
        return None
    if "usft" in found and near["usft"] < 1e-7 < near.get("ft", 1):
        return "usft"
    found = [code for code in found if code != "usft"] or found
    return min(found, key=lambda code: near[code])
