"""Telling the kernel's own files by their first bytes."""

import re
from pathlib import Path

from hemp_ladder.core.errors import UnreadableSource

_TEXT = re.compile(rb"^\s*(DBRep_DrawableShape\s+)?CASCADE Topology V\d", re.IGNORECASE)
_BINARY = re.compile(rb"^\s*Open CASCADE Topology V\d", re.IGNORECASE)


def is_brep(head: bytes) -> bool:
    """The kernel's exact shape, as text or binary."""
    return is_text(head) or is_binary(head)


def is_text(head: bytes) -> bool:
    return _TEXT.match(head) is not None


def is_binary(head: bytes) -> bool:
    return _BINARY.match(head) is not None


_TABLE = re.compile(
    rb"^(Locations|Curve2ds|Curves|Polygon3D|PolygonOnTriangulations|Surfaces|Triangulations|TShapes) (-?\d+)",
    re.MULTILINE,
)


def check_counts(path: Path) -> None:
    """The kernel believes what a table says of its length. Raises UnreadableSource where the file has no room for it."""
    size = path.stat().st_size
    with path.open("rb") as file:
        data = file.read()
    for name, count in _TABLE.findall(data):
        if not 0 <= int(count) <= size // 2:
            raise UnreadableSource(
                f"The table {name.decode()} says that it has {int(count):,} entries, for which the file has no room.",
                "The file was damaged or made up. Ask for it again.",
            )
