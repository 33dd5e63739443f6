"""Units of length as exact rationals, and lengths as they are shown.

Factors: NIST Special Publication 811 (2008), appendix B.8. The US survey
foot is 1200/3937 m there; the international foot 0.3048 m.
"""

import math
import re
from dataclasses import dataclass
from fractions import Fraction

from hemp_ladder.core.errors import SettingsError


@dataclass(frozen=True)
class Unit:
    """One unit of length: its short name, its name, metres as an exact ratio."""

    code: str
    name: str
    metres: Fraction


UNITS: dict[str, Unit] = {
    unit.code: unit
    for unit in (
        Unit("um", "micrometre", Fraction(1, 1_000_000)),
        Unit("mm", "millimetre", Fraction(1, 1000)),
        Unit("cm", "centimetre", Fraction(1, 100)),
        Unit("dm", "decimetre", Fraction(1, 10)),
        Unit("m", "metre", Fraction(1)),
        Unit("km", "kilometre", Fraction(1000)),
        Unit("mil", "mil (thousandth of an inch)", Fraction(254, 10_000_000)),
        Unit("in", "inch", Fraction(254, 10_000)),
        Unit("ft", "foot", Fraction(3048, 10_000)),
        Unit("usft", "US survey foot", Fraction(1200, 3937)),
        Unit("yd", "yard", Fraction(9144, 10_000)),
        Unit("mi", "mile", Fraction(1_609_344, 1000)),
        # CSS Values and Units 3, 6.2: 96 pixels and 72 points to the inch.
        Unit("px", "CSS pixel (1/96 inch)", Fraction(254, 960_000)),
        Unit("pt", "point (1/72 inch)", Fraction(254, 720_000)),
    )
}

#: Usual for what is written: what renderers and slicers take.
TARGET_UNITS = ("mm", "cm", "m", "in", "ft")

_SPELLINGS = {
    **{code: code for code in UNITS},
    "µm": "um", "μm": "um", "micron": "um", "micrometre": "um", "micrometer": "um",
    "millimetre": "mm", "millimeter": "mm", "centimetre": "cm", "centimeter": "cm",
    "decimetre": "dm", "decimeter": "dm",
    "metre": "m", "meter": "m", "kilometre": "km", "kilometer": "km", "thou": "mil",
    "inch": "in", "inches": "in", '"': "in", "″": "in", "”": "in",
    "foot": "ft", "feet": "ft", "'": "ft", "′": "ft", "’": "ft",
    "pixel": "px", "point": "pt", "survey foot": "usft", "us survey foot": "usft", "survey feet": "usft", "us survey feet": "usft",
    "yard": "yd", "mile": "mi",
}  # fmt: skip


def unit(text: str) -> Unit:
    """The unit called `text` in any of its usual spellings.

    Raises SettingsError for a word that is no unit of length.
    """
    word = " ".join(text.strip().lower().split())
    code = _SPELLINGS.get(word) or _SPELLINGS.get(word.removesuffix("s"))
    if code is None:
        raise SettingsError(
            f"“{text[:40]}” is not a unit of length known here.",
            f"Use one of: {', '.join(UNITS)}.",
        )
    return UNITS[code]


def parse_angle(text: str) -> float:
    """An angle in radians: `20deg`, `20°`, `0.35rad`. Raises SettingsError without a unit."""
    match = re.fullmatch(r"\s*([\d.]+(?:[eE][-+]?\d+)?)\s*(deg|°|degrees?|rad|radians?)\s*", text)
    if match is None:
        raise SettingsError(f"“{text[:40]}” is not an angle.", "Write it like 20deg or 0.35rad.")
    try:
        value = float(match[1])
    except ValueError as error:
        raise SettingsError(f"“{text[:40]}” is not an angle.") from error
    return value if match[2].startswith("rad") else math.radians(value)


def say_metric(metres: float) -> str:
    """A length for people: `4.20 m`, `35.2 mm`, `0.80 mm`, `12 µm`."""
    size = abs(metres)
    for limit, factor, name in ((1e-4, 1e6, "µm"), (1.0, 1e3, "mm"), (1e4, 1.0, "m")):
        if size < limit and (size or name != "µm"):
            return f"{_digits(metres * factor)} {name}"
    return f"{_digits(metres / 1000)} km"


def say_bytes(count: int) -> str:
    """A size for people: `812 B`, `35 kB`, `1.4 MB`, `2.10 GB`."""
    for limit, factor, name, digits in ((1e3, 1, "B", 0), (1e6, 1e3, "kB", 0), (1e9, 1e6, "MB", 1)):
        if count < limit:
            return f"{count / factor:.{digits}f} {name}"
    return f"{count / 1e9:.2f} GB"


def _digits(value: float) -> str:
    size = abs(value)
    return f"{value:.2f}" if size < 10 else f"{value:.1f}" if size < 100 else f"{value:,.0f}"


def say_imperial(metres: float) -> str:
    """A length in feet and inches to the nearest sixteenth; thousandths below one inch."""
    inches = metres / 0.0254
    if abs(inches) < 1:
        return f"{inches:.3f}″"
    sixteenths = round(abs(inches) * 16)
    feet, rest = divmod(sixteenths, 12 * 16)
    whole, part = divmod(rest, 16)
    fraction = Fraction(part, 16)
    sign = "-" if inches < 0 else ""
    text = f"{sign}{feet:,}′ " if feet else sign
    if not fraction:
        return f"{text}{whole}″"
    between = f"{whole} " if whole or feet else ""
    return f"{text}{between}{fraction.numerator}/{fraction.denominator}″"
