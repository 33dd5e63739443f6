"""A damaged text made whole enough for the library: entities with words for numbers left out, the end put on."""

from collections.abc import Iterator
from pathlib import Path

#: Group codes whose values are real numbers, and those whose are whole ones (DXF reference, "Group Code Value Types").
_REAL = {*range(10, 60), *range(110, 150), *range(210, 240), *range(460, 470), *range(1010, 1060)}
_WHOLE = {*range(60, 80), *range(90, 100), *range(160, 180), *range(270, 290), *range(370, 390), *range(400, 410),
          *range(420, 430), *range(440, 460), *range(1060, 1072)}  # fmt: skip


def mended(path: Path, copy: Path) -> list[str]:
    """Write a copy that can be read, and tell what was left out of it, in words.

    Codes and values take turns on lines; code 0 begins an entity. The last
    entity of a file that stops before its end is cut, so it is left out.
    """
    lines = path.read_bytes().splitlines(keepends=True)
    whole = any(line.strip() == b"EOF" for line in lines[-4:])
    lost: list[str] = []
    with copy.open("wb") as out:
        entities = list(_entities(lines))
        for number, (start, stop) in enumerate(entities):
            kind = lines[start + 1].strip() if start + 1 < stop else b""
            if not whole and number == len(entities) - 1 and number:
                break
            wrong = next((i for i in range(start, stop - 1, 2) if not _sound(lines[i], lines[i + 1])), None)
            if wrong is None or kind in (b"SECTION", b"ENDSEC", b"EOF"):
                out.writelines(lines[start:stop])
            else:
                word = lines[wrong + 1].strip()[:20].decode("latin-1")
                lost.append(f"{kind.decode('latin-1')[:20]} at line {start + 1:,} has “{word}” for a number")
        if not whole:
            out.write(b"  0\nENDSEC\n  0\nEOF\n")
    return lost


def _entities(lines: list[bytes]) -> Iterator[tuple[int, int]]:
    start = 0
    for i in range(2, len(lines) - 1, 2):
        if lines[i].strip() == b"0":
            yield start, i
            start = i
    yield start, len(lines)


def _sound(code: bytes, value: bytes) -> bool:
    try:
        number = int(code)
        if number in _REAL:
            float(value)
        elif number in _WHOLE:
            int(value)
    except ValueError:
        return False
    return True
