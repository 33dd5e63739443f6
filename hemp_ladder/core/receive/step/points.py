"""Points of an exchange file whose coordinates are no lengths: not numbers, infinite, or beyond reason."""

import re
from pathlib import Path

#: From 1E20 on, whatever the unit: no drawing is as large as a galaxy.
_ABSURD = re.compile(
    rb"#(\d+)\s*=\s*(?:IFC)?CARTESIAN_?POINT\s*\([^;(]*\(([^);]*?(?:E\+?0*(?:[2-9]\d|[1-9]\d{2,})|NAN|INF)[^);]*)\)",
    re.IGNORECASE,
)
#: Three quick looks that only a file with such a number can answer; the pattern takes four times as long.
_LARGE = re.compile(rb"[.\d][Ee]\+?0*[1-9]\d")
_CHUNK, _OVERLAP = 1 << 22, 1 << 12


def absurd_points(path: Path) -> list[str]:
    """Each such point as it stands in the file, `#12 (1.E300,0.)`."""
    found: dict[str, None] = {}
    tail = b""
    with path.open("rb") as file:
        while chunk := file.read(_CHUNK):
            block = tail + chunk
            loud = block.upper()
            if not (b"NAN" in loud or b"INF" in loud or _LARGE.search(block)):
                tail = block[-_OVERLAP:]
                continue
            for number, values in _ABSURD.findall(block):
                found[f"#{number.decode()} ({values.decode('latin-1')[:60]})"] = None
            tail = block[-_OVERLAP:]
    return list(found)
