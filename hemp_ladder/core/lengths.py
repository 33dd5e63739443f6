"""Lengths as people type them: `0.1mm`, `13' 1 15/16"`, `1 850`, `1.850,5 m`, `2m + 35cm`.

The one reader of typed lengths: the command line, the settings and the
screen all ask it. Feet and inches stand side by side; other terms may be
joined by a plus. Thousands are parted by spaces, points or commas, as SI and
the habits of several countries have it (common practice). A lone mark before
exactly three digits can be either: a comma is then taken to part thousands,
as our own figures have it, a point to be a decimal one, and the other reading
is told beside it.
"""

import re
from dataclasses import dataclass
from fractions import Fraction
from typing import Annotated

from pydantic import BeforeValidator

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.units import UNITS, Unit, unit

_SPACE = r"[ \u00a0\u202f]"
_NUMBER = (
    rf"\d+{_SPACE}+\d+{_SPACE}*[/⁄]{_SPACE}*\d+"  # 1 15/16
    rf"|\d+{_SPACE}*[/⁄]{_SPACE}*\d+"  # 15/16
    rf"|\d{{1,3}}(?:{_SPACE}\d{{3}})+(?:[.,]\d+)?(?!\d)"  # 1 850.5
    r"|(?:\d[\d.,]*|[.,]\d+)(?:[eE][-+]?\d+)?"  # 1,850.5 and 1e-3
)
_TERM = re.compile(rf"\s*(?P<number>{_NUMBER})\s*(?P<unit>[^\d\s.,/⁄+-][^\d.,/⁄+-]*)?\s*")
_LONGEST = 80
_HOW = "Write it like 0.1mm, 1/32in, 13' 1 15/16\" or 2m + 35cm."


class LengthError(SettingsError):
    """Text that is no length: `at` is where in it reading stopped, `length` how far the doubt reaches."""

    def __init__(self, message: str, remedy: str = _HOW, at: int = 0, length: int = 0) -> None:
        super().__init__(message, remedy)
        self.at, self.length = at, length


@dataclass(frozen=True)
class Reading:
    """A length as it was read, in metres, and what else the text could mean."""

    metres: Fraction
    other: Fraction | None = None


def read_length(text: str, bare: str | None = None, signed: bool = False) -> Reading:
    """The length that the text says. `bare` is the unit that a number without one stands for.

    Raises LengthError where it is none, where a unit is missing and none is
    given, or for a negative one that may not be.
    """
    source = text.strip()
    if not source:
        raise LengthError("A length is missing.")
    if len(source) > _LONGEST:
        raise LengthError("That is too long for a length.", at=_LONGEST, length=len(source) - _LONGEST)
    shift = len(text) - len(text.lstrip())
    at, sign = 0, 1
    if source[0] in "-−":
        if not signed:
            raise LengthError("This length cannot be negative.", "Leave the minus out.", shift, 1)
        at, sign = 1, -1
    values: list[tuple[Fraction, Fraction | None, Unit]] = []
    while at < len(source):
        # Between feet and inches builders write a dash, between others a plus.
        if values:
            at += len(re.match(r"\s*[+]?\s*" if values[-1][2].code != "ft" else r"\s*[+-]?\s*", source[at:])[0])  # type: ignore[index]
        term = _TERM.match(source, at)
        if term is None:
            raise LengthError(
                f"“{source[at : at + 20]}” is not understood here.", at=shift + at, length=len(source) - at
            )
        value, other = _number(term["number"], shift + term.start("number"))
        values.append((value, other, _unit_of(term, bare, values, source, shift)))
        at = term.end()
    total = sum((value * one.metres for value, _, one in values), Fraction(0))
    doubtful = any(other is not None for _, other, _ in values)
    other = sum(((value if o is None else o) * one.metres for value, o, one in values), Fraction(0))
    return Reading(sign * total, sign * other if doubtful else None)


def _unit_of(
    term: re.Match[str], bare: str | None, before: list[tuple[Fraction, Fraction | None, Unit]], source: str, shift: int
) -> Unit:
    word = (term["unit"] or "").strip()
    if word:
        try:
            return unit(word)
        except SettingsError as error:
            raise LengthError(error.message, error.remedy, shift + term.start("unit"), len(word)) from error
    if before and before[-1][2].code == "ft":
        return UNITS["in"]
    if bare is None or before or term.end() < len(source):
        number = term["number"].strip()
        raise LengthError(f"“{number}” has no unit.", at=shift + term.start("number"), length=len(number))
    return UNITS[bare]


def _number(text: str, at: int) -> tuple[Fraction, Fraction | None]:
    """The value, and the other value that it could have."""
    if "/" in text or "⁄" in text:
        *whole, last = re.sub(rf"{_SPACE}*[/⁄]{_SPACE}*", "/", text).split()
        top, bottom = last.split("/")
        if int(bottom) == 0:
            raise LengthError(f"“{text}” divides by zero.", at=at, length=len(text))
        return Fraction(int(whole[0]) if whole else 0) + Fraction(int(top), int(bottom)), None
    text = re.sub(_SPACE, "", text) if re.search(_SPACE, text) else text
    digits, _, power = text.lower().partition("e")
    if power and abs(int(power)) > 30:
        raise LengthError(f"“{text}” is no length that anything has.", at=at, length=len(text))
    scale = Fraction(10) ** int(power or 0)
    marks = [mark for mark in digits if mark in ".,"]
    wrong = LengthError(f"“{text}” is not a number.", at=at, length=len(text))
    if not marks:
        return Fraction(digits) * scale, None
    if len(marks) > 1:
        # The mark that comes once and last is the decimal one; the others part thousands.
        decimal = marks[-1] if marks.count(marks[-1]) == 1 else None
        thousands = {mark for mark in marks if mark != decimal}
        grouped, _, rest = digits.rpartition(decimal) if decimal else (digits, "", "")
        if len(thousands) != 1 or not re.fullmatch(rf"\d{{1,3}}(?:[{thousands.pop()}]\d{{3}})+", grouped):
            raise wrong
        return Fraction(f"{re.sub('[.,]', '', grouped)}.{rest or 0}") * scale, None
    before, after = re.split("[.,]", digits)
    if not before and not after:
        raise wrong
    as_decimal = Fraction(f"{before or 0}.{after or 0}") * scale
    if power or len(after) != 3 or not 0 < len(before) <= 3 or before.startswith("0"):
        return as_decimal, None
    as_thousands = Fraction(before + after)
    return (as_thousands, as_decimal) if marks[0] == "," else (as_decimal, as_thousands)


def parse_length(text: str) -> Fraction:
    """A length with its unit, in metres. Raises LengthError without one."""
    return read_length(text).metres


def _length_or_number(value: object) -> object:
    return float(parse_length(value)) if isinstance(value, str) else value


#: A length in metres; text with a unit is taken too.
Metres = Annotated[float, BeforeValidator(_length_or_number)]
