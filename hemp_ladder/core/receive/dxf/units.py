"""What `$INSUNITS` stands for: metres a drawing unit, exact (DXF reference, HEADER section, values 0 to 24)."""

from fractions import Fraction

from hemp_ladder.core.units import UNITS

_FOOT, _INCH = UNITS["ft"].metres, UNITS["in"].metres
_SURVEY = UNITS["usft"].metres

INSUNITS: dict[int, Fraction] = {
    1: _INCH, 2: _FOOT, 3: UNITS["mi"].metres, 4: Fraction(1, 1000), 5: Fraction(1, 100), 6: Fraction(1),
    7: Fraction(1000), 8: _INCH / 1_000_000, 9: _INCH / 1000, 10: UNITS["yd"].metres,
    11: Fraction(1, 10**10), 12: Fraction(1, 10**9), 13: Fraction(1, 10**6), 14: Fraction(1, 10), 15: Fraction(10),
    16: Fraction(100), 17: Fraction(10**9),
    # IAU 2012, resolution B2; the Julian year of 365.25 days at the speed of light; 648000 / pi of the first.
    18: Fraction(149_597_870_700), 19: Fraction(9_460_730_472_580_800), 20: Fraction(30_856_775_814_913_673),
    21: _SURVEY, 22: _SURVEY / 12, 23: _SURVEY * 3, 24: _SURVEY * 5280,
}  # fmt: skip


def code_of(metres: Fraction) -> str | None:
    """The unit here with exactly this length, None where none has."""
    return next((code for code, unit in UNITS.items() if unit.metres == metres), None)
