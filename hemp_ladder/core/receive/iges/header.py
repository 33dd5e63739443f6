"""What an IGES 5.3 file says of itself, read from its fixed columns.

Section and field numbers: IGES 5.3 (US PRO, 1996), 2.2.4 (start, global,
directory) and table 2 (global parameters).
"""

import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

from hemp_ladder.core.errors import UnreadableSource

#: Global parameter 14: units flag, table 2. 3 means the unit is named in parameter 15.
_UNITS = {1: "in", 2: "mm", 4: "ft", 5: "mi", 6: "m", 7: "km", 8: "mil", 9: "um", 10: "cm"}
_NAMES = {
    "IN": "in",
    "INCH": "in",
    "MM": "mm",
    "FT": "ft",
    "MI": "mi",
    "M": "m",
    "KM": "km",
    "MIL": "mil",
    "UM": "um",
    "CM": "cm",
}
#: Entity types that have no surface, when they stand for themselves (section 4).
_KINDS = {
    **dict.fromkeys((100, 102, 104, 106, 110, 112, 126, 130), "curve"),
    116: "point", 123: "direction", 124: "transformation",
    **dict.fromkeys((202, 206, 210, 212, 213, 214, 216, 218, 220, 222, 228, 230), "annotation"),
    404: "drawing", 410: "view",
}  # fmt: skip
_SURFACES = {108, 114, 118, 120, 122, 128, 140, 143, 144, 186, 502, 504, 508, 510, 514}


@dataclass
class IgesHeader:
    """`leftovers` counts what has no surface by kind; `hidden` the levels whose every surface is
    blanked; `trimmed` counts trimmed surfaces and faces of solids; `whole`: its closing line is there."""

    version: str = ""
    writer: str = ""
    unit: str | None = None
    leftovers: dict[str, int] = field(default_factory=dict)
    hidden: list[str] = field(default_factory=list)
    trimmed: int = 0
    whole: bool = True


def is_iges(head: bytes) -> bool:
    """Lines of 80 columns, the first of them numbered S      1 in column 73, or one of the two packed forms."""
    line = re.split(rb"\r\n|\r|\n", head, maxsplit=1)[0]
    return re.match(rb"^[SCB]\s{0,6}0{0,6}1\s*$", line[72:82]) is not None


def read_header(path: Path) -> IgesHeader:
    """Raises UnreadableSource for the compressed and binary forms, and where sections are missing."""
    text, directory = [], []
    with path.open("rb") as file:
        first = file.read(80)
        if first[72:73] in (b"C", b"B"):
            raise UnreadableSource(
                "The file is IGES in its compressed or binary form.", "Ask for it in the plain (ASCII) form."
            )
    for line in _lines(path):
        kind = line[72:73]
        if kind == "G":
            text.append(line[:72])
        elif kind == "D":
            directory.append(line)
        elif kind in "PT":
            break
    if not text or len(directory) < 2:
        raise UnreadableSource(
            "The file begins like IGES, but its global or directory section is missing.",
            "It was cut off on its way. Ask for it again.",
        )
    values = list(_parameters("".join(text)))
    header = IgesHeader()
    header.writer = _at(values, 4) or _at(values, 5)
    flag = _at(values, 13)
    # Table 2: the default of the units flag is 1, inches.
    number = int(flag) if flag.isdigit() else 1 if not flag else 0
    header.unit = _NAMES.get(_at(values, 14).strip().upper()) if number == 3 else _UNITS.get(number)
    version = _at(values, 22)
    header.version = {"8": "IGES 5.0", "9": "IGES 5.1", "10": "IGES 5.2", "11": "IGES 5.3"}.get(version, "IGES")
    _count(header, directory)
    with path.open("rb") as file:
        file.seek(max(0, path.stat().st_size - 2000))
        header.whole = any(line.ljust(80)[72:73] == b"T" for line in file.read().splitlines())
    return header


def _lines(path: Path) -> Iterator[str]:
    with path.open("r", encoding="latin-1", newline=None) as file:
        for line in file:
            yield line.rstrip("\r\n").ljust(80)


def _parameters(text: str) -> Iterator[str]:
    """Free-format values; strings are counted (`4Hname`), the delimiters may be redefined by the first two."""
    comma, end, at = ",", ";", 0
    for number in range(26):
        counted = re.match(r"\s*(\d+)H", text[at:])
        if counted:
            start = at + counted.end()
            length = int(counted[1])
            value = text[start : start + length]
            at = start + length
        else:
            stop = min((i for i in (text.find(comma, at), text.find(end, at)) if i >= 0), default=len(text))
            value, at = text[at:stop].strip(), stop
        if number == 0 and value:
            comma = value[0]
        if number == 1 and value:
            end = value[0]
        yield value
        while at < len(text) and text[at] == " ":
            at += 1
        if at >= len(text) or text[at] == end:
            return
        at += 1


def _at(values: list[str], index: int) -> str:
    return values[index] if index < len(values) else ""


def _count(header: IgesHeader, directory: list[str]) -> None:
    """Entities that stand for themselves (subordinate switch 00) and have no surface; levels wholly blanked."""
    kinds: Counter[str] = Counter()
    shown: dict[str, bool] = {}
    for first in directory[::2]:
        try:
            kind, level, status = int(first[0:8]), first[32:40].strip(), first[64:72].replace(" ", "0")
        except ValueError:
            continue
        blanked, depends = status[0:2] == "01", status[2:4] != "00"
        header.trimmed += kind in (143, 144, 510)
        if kind in _SURFACES and level.isdigit() and level != "0":
            shown[level] = shown.get(level, False) or not blanked
        if not depends and kind in _KINDS and _KINDS[kind] not in ("direction", "transformation"):
            kinds[_KINDS[kind]] += 1
    header.leftovers = dict(sorted(kinds.items()))
    header.hidden = [level for level, visible in shown.items() if not visible]
