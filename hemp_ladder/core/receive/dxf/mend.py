"""A damaged text made whole enough for the library: what is in error left out, and no more than that; the end put on.

Codes and values take turns on lines, and code 0 begins an entity. Where a
line is lost or doubled, all after it changes places; then what begins an
entity is known by its look, a code of 0 and a name after it, wherever it
stands.
"""

import re
from collections.abc import Iterator
from itertools import islice
from pathlib import Path

#: Group codes whose values are real numbers, and those whose are whole ones (DXF reference, "Group Code Value Types").
_REAL = {*range(10, 60), *range(110, 150), *range(210, 240), *range(460, 470), *range(1010, 1060)}
_WHOLE = {*range(60, 80), *range(90, 100), *range(160, 180), *range(270, 290), *range(370, 390), *range(400, 410),
          *range(420, 430), *range(440, 460), *range(1060, 1072)}  # fmt: skip
_NAME = re.compile(rb"[A-Z_][A-Z0-9_]*$")
#: What the rest of a drawing cannot be read rightly without, of all that its header says.
_NEEDED = (b"$ACADVER", b"$DWGCODEPAGE", b"$INSUNITS", b"$MEASUREMENT")
#: What other entities stand in or end at: left in as they are, for the library to put in order.
_FRAME = {b"SECTION", b"ENDSEC", b"TABLE", b"ENDTAB", b"BLOCK", b"ENDBLK", b"EOF"}


def mended(path: Path, copy: Path, by_look: bool = False) -> list[str]:
    """Write a copy that can be read, and tell what was left out of it, in words. `by_look` where lines were lost.

    The last entity of a file that stops before its end is cut, so it is left out.
    """
    lines = path.read_bytes().splitlines(keepends=True)
    whole = any(line.strip() == b"EOF" for line in lines[-4:])
    lost: list[str] = []
    with copy.open("wb") as out:
        entities = list(_entities(lines, by_look))
        for number, (start, stop) in enumerate(entities):
            entity = lines[start:stop]
            kind = entity[1].strip() if len(entity) > 1 else b""
            if not whole and number == len(entities) - 1 and number:
                break
            wrong = _wrong(entity)
            if wrong is None or (not by_look and kind in (b"SECTION", b"ENDSEC", b"EOF")):
                out.writelines(entity)
                continue
            if by_look and kind == b"SECTION" and b"HEADER" in (line.strip() for line in entity[2:5]):
                out.writelines(_header(entity))
            elif by_look and kind in _FRAME:
                out.writelines(_sound(entity))
            lost.append(f"{kind.decode('latin-1')[:20]} at line {start + 1:,}, which {wrong}")
        if not whole:
            out.write(b"  0\nENDSEC\n  0\nEOF\n")
    return lost


def out_of_step(path: Path) -> bool:
    """Whether anything stands for a group code that is none: a line was lost, or doubled, or a code spoiled."""
    with path.open("rb") as file:
        return any(line.strip() and not line.strip().lstrip(b"-").isdigit() for line in islice(file, 0, None, 2))


def _entities(lines: list[bytes], by_look: bool) -> Iterator[tuple[int, int]]:
    start = 0
    for i in range(1, len(lines) - 1) if by_look else range(2, len(lines) - 1, 2):
        if lines[i].strip() == b"0" and (not by_look or _NAME.match(lines[i + 1].strip())):
            yield start, i
            start = i
    yield start, len(lines)


def _wrong(entity: list[bytes]) -> str | None:
    """What is in error in the lines of an entity, in words; None where nothing is."""
    for code, value in zip(entity[::2], entity[1::2], strict=False):
        try:
            number = int(code)
        except ValueError:
            return f"has “{_shown(code)}” for a group code"
        try:
            if number in _REAL:
                float(value)
            elif number in _WHOLE:
                int(value)
        except ValueError:
            return f"has “{_shown(value)}” for a number"
        if number == 9 and not value.strip().startswith(b"$"):
            return f"has “{_shown(value)}” for a variable"
    last = entity[-1].strip()
    return "lacks a line" if len(entity) % 2 and last else None


def _sound(entity: list[bytes]) -> Iterator[bytes]:
    """Its codes with their values as long as they take turns, but for those in error."""
    for pair in zip(entity[::2], entity[1::2], strict=False):
        if not pair[0].strip().lstrip(b"-").isdigit():
            return
        if _wrong(list(pair)) is None:
            yield from pair


def _shown(line: bytes) -> str:
    return line.strip()[:20].decode("latin-1")


def _header(lines: list[bytes]) -> Iterator[bytes]:
    """A header that says what is needed, as far as it is there and sound."""
    yield b"  0\nSECTION\n  2\nHEADER\n"
    told = [line.strip() for line in lines]
    for name in _NEEDED:
        at = told.index(name) if name in told else -1
        if 0 <= at < len(lines) - 2 and _wrong(lines[at + 1 : at + 3]) is None:
            yield b"  9\n%b\n%b\n%b\n" % (name, told[at + 1], told[at + 2])
