"""Lengths, transforms and view boxes, as SVG 2 and CSS define them.

Lengths: CSS Values and Units 3, 6.2 (96 px = 1 in, 72 pt = 1 in, 6 pc = 1 in,
40 Q = 1 cm). Transforms: CSS Transforms 1, the syntax of the attribute. The
map of a view box: SVG 2, 8.2 and 8.6.
"""

import math
import re
from dataclasses import dataclass
from fractions import Fraction

from hemp_ladder.core.drawn.curves import IDENTITY, Affine
from hemp_ladder.core.drawn.shape import shift, times

NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_LENGTH = re.compile(rf"\s*({NUMBER})\s*(px|mm|cm|in|pt|pc|q|em|ex|rem|ch|%)?\s*$", re.IGNORECASE)
_NUMBERS = re.compile(NUMBER)
#: A number with what is behind it; numbers may follow each other with nothing but a sign between them.
_MEASURE = re.compile(rf"{NUMBER}(?:[a-z]+|%)?", re.IGNORECASE)
_ANGLE = re.compile(rf"\s*({NUMBER})\s*(deg|rad|grad|turn)?\s*$", re.IGNORECASE)
_TURNS = {"deg": 1 / 360, "": 1 / 360, "rad": 1 / (2 * math.pi), "grad": 1 / 400, "turn": 1.0}
_FUNCTION = re.compile(r"(matrix|translate[XY]?|scale[XY]?|rotate|skew[XY]?)\s*\(([^)]*)\)", re.IGNORECASE)
_PLACES = {"left": 0.0, "top": 0.0, "center": 0.5, "right": 1.0, "bottom": 1.0}
#: User units of each, exact.
UNITS: dict[str, Fraction] = {
    "px": Fraction(1), "": Fraction(1), "in": Fraction(96), "cm": Fraction(9600, 254), "mm": Fraction(960, 254),
    "q": Fraction(240, 254), "pt": Fraction(4, 3), "pc": Fraction(16),
}  # fmt: skip
#: Of a font that nobody named: what browsers take.
_FONT = 16.0


@dataclass(frozen=True)
class Viewport:
    """What percentages are of, in user units."""

    width: float
    height: float

    @property
    def diagonal(self) -> float:
        return math.hypot(self.width, self.height) / math.sqrt(2)


def numbers(text: str) -> list[float]:
    """All numbers in a list; what is too large for any drawing is infinite, and no error."""
    return [float(item) for item in _NUMBERS.findall(text)]


def length(text: str | None, whole: float, otherwise: float = 0.0) -> float:
    """A length in user units; `whole` is what a percentage is of."""
    found = _LENGTH.match(text or "")
    if not found:
        return otherwise
    value, unit = float(found[1]), (found[2] or "").lower()
    if unit == "%":
        return value / 100 * whole
    if unit in ("em", "rem"):
        return value * _FONT
    if unit in ("ex", "ch"):
        return value * _FONT / 2
    return value * float(UNITS[unit])


def physical(text: str | None) -> tuple[float, str] | None:
    """A number and the unit behind it ("" for none), None for a percentage, nothing, or no length at all."""
    found = _LENGTH.match(text or "")
    if not found or (found[2] or "").lower() not in UNITS:
        return None
    return float(found[1]), (found[2] or "").lower()


def angle(text: str | None) -> float:
    """An angle in radians; degrees where it names no unit, 0 where it is none."""
    found = _ANGLE.match(text or "")
    return 2 * math.pi * float(found[1]) * _TURNS[(found[2] or "").lower()] if found else 0.0


def transform(text: str | None, port: Viewport | None = None, origin: str | None = None) -> Affine:
    """The map of a `transform`, as attribute or in a style sheet, about its origin. What does not parse is left out.

    `port` is what its percentages are of.
    """
    out = IDENTITY
    port = port or Viewport(0.0, 0.0)
    for name, inside in _FUNCTION.findall(text or ""):
        one = _map(name.lower(), _MEASURE.findall(inside), port)
        if one is not None:
            out = times(out, one)
    if out != IDENTITY and origin:
        x, y = _origin(origin, port)
        out = times(times(shift(x, y), out), shift(-x, -y))
    return out


def _map(name: str, told: list[str], port: Viewport) -> Affine | None:
    v = [numbers(item)[0] for item in told]
    if name == "matrix" and len(v) == 6:
        return (v[0], v[2], v[4], v[1], v[3], v[5])
    if not v or name == "matrix":
        return None
    if name == "translatey":
        return shift(0.0, length(told[0], port.height))
    if name.startswith("translate"):
        return shift(length(told[0], port.width), length(told[1], port.height) if len(told) > 1 else 0.0)
    if name.startswith("scale"):
        x, y = v[0], v[1] if len(v) > 1 else v[0]
        return (1.0 if name[-1] == "y" else x, 0.0, 0.0, 0.0, 1.0 if name[-1] == "x" else y, 0.0)
    if name == "rotate":
        c, s = math.cos(angle(told[0])), math.sin(angle(told[0]))
        turn: Affine = (c, -s, 0.0, s, c, 0.0)
        return times(times(shift(v[1], v[2]), turn), shift(-v[1], -v[2])) if len(v) > 2 else turn
    lean = [math.tan(angle(item)) for item in told]
    if name == "skewy":
        return (1.0, 0.0, 0.0, lean[0], 1.0, 0.0)
    return (1.0, lean[0], 0.0, lean[1] if len(lean) > 1 and name == "skew" else 0.0, 1.0, 0.0)


def _origin(text: str, port: Viewport) -> tuple[float, float]:
    """A `transform-origin`: lengths, percentages of the viewport, or words, the upright one first or last."""
    words = text.lower().split()[:2]
    if len(words) == 1:
        words = ["center", *words] if words[0] in ("top", "bottom") else [*words, "center"]
    if words[0] in ("top", "bottom") or words[1] in ("left", "right"):
        words.reverse()
    x, y = (
        _PLACES[word] * whole if word in _PLACES else length(word, whole)
        for word, whole in zip(words, (port.width, port.height), strict=True)
    )
    return x, y


def view_box(text: str | None) -> tuple[float, float, float, float] | None:
    """Left, top, width and height; None where it is not given or has no area."""
    v = numbers(text or "")
    if len(v) != 4 or not (v[2] > 0 and v[3] > 0) or not all(map(math.isfinite, v)):
        return None
    return v[0], v[1], v[2], v[3]


def fit(box: tuple[float, float, float, float], width: float, height: float, how: str | None) -> Affine:
    """The map of a view box into a viewport at the origin, by `preserveAspectRatio`."""
    words = (how or "xMidYMid meet").split()
    words = [word for word in words if word != "defer"] or ["xMidYMid"]
    sx, sy = width / box[2], height / box[3]
    if words[0] != "none":
        sx = sy = max(sx, sy) if "slice" in words[1:] else min(sx, sy)
    x, y = -box[0] * sx, -box[1] * sy
    if "xMid" in words[0]:
        x += (width - box[2] * sx) / 2
    elif "xMax" in words[0]:
        x += width - box[2] * sx
    if "YMid" in words[0]:
        y += (height - box[3] * sy) / 2
    elif "YMax" in words[0]:
        y += height - box[3] * sy
    return (sx, 0.0, x, 0.0, sy, y)
