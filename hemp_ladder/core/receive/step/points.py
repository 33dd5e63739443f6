"""Points of an exchange file whose coordinates are no lengths: not numbers, infinite, or beyond reason."""

import re
from pathlib import Path

import numpy as np

#: From 1E20 on, whatever the unit: no drawing is as large as a galaxy.
_ABSURD = re.compile(
    rb"#(\d+)\s*=\s*(?:IFC)?CARTESIAN_?POINT\s*\([^;(]*\(([^);]*?(?:E\+?0*(?:[2-9]\d|[1-9]\d{2,})|NAN|INF)[^);]*)\)",
    re.IGNORECASE,
)
_CHUNK, _OVERLAP = 1 << 22, 1 << 12


def absurd_points(path: Path) -> list[str]:
    """Each such point as it stands in the file, `#12 (1.E300,0.)`."""
    found: dict[str, None] = {}
    tail = b""
    with path.open("rb") as file:
        while chunk := file.read(_CHUNK):
            block = tail + chunk
            if _may_hold_any(block):
                for number, values in _ABSURD.findall(block):
                    found[f"#{number.decode()} ({values.decode('latin-1')[:60]})"] = None
            tail = block[-_OVERLAP:]
    return list(found)


def _may_hold_any(block: bytes) -> bool:
    """A quick look that only a block with such a number answers with yes; the pattern takes forty times as long."""
    letters = np.frombuffer(block, np.uint8)
    marks = np.flatnonzero((letters[1:-4] & 0xDF) == ord("E")) + 1
    digits = letters - np.uint8(ord("0"))
    marks = marks[(digits[marks - 1] < 10) | (letters[marks - 1] == ord("."))]
    marks += letters[marks + 1] == ord("+")
    # Behind the mark of an exponent two digits, a third where the first is 0.
    first, second, third = (digits[marks + k] for k in (1, 2, 3))
    if ((first < 10) & (second < 10) & ((first > 0) | (third < 10))).any():
        return True
    loud = block.upper()
    return b"NAN" in loud or b"INF" in loud
