"""Receive: which reader takes a file, told from its content, and what is noticed about the model.

To add a format: one reader beside these, one line in `_READERS`.
"""

from collections.abc import Callable
from importlib import import_module
from pathlib import Path
from typing import Any

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.model import Model
from hemp_ladder.core.receive.brep.header import is_brep
from hemp_ladder.core.receive.dxf.header import is_dxf
from hemp_ladder.core.receive.ifc.header import is_ifc
from hemp_ladder.core.receive.iges.header import is_iges
from hemp_ladder.core.receive.report import Report
from hemp_ladder.core.receive.step.header import is_step
from hemp_ladder.core.receive.svg.header import is_svg

Reader = Callable[[Path, Report], Model]
#: Of a file's beginning, enough to hold the longest header.
_HEAD = 1 << 16

#: name, does a file that begins so belong to it, module and function of its reader
#: (imported only when needed: a reader may bring a kernel along)
_READERS: list[tuple[str, Callable[[bytes], bool], str, str]] = [
    ("IFC", is_ifc, "hemp_ladder.core.receive.ifc.read", "read_ifc"),
    ("IGES", is_iges, "hemp_ladder.core.receive.iges.read", "read_iges"),
    ("BREP", is_brep, "hemp_ladder.core.receive.brep.read", "read_brep"),
    ("STEP", is_step, "hemp_ladder.core.receive.step.read", "read_step"),
    ("DXF", is_dxf, "hemp_ladder.core.receive.dxf.read", "read_dxf"),
    ("SVG", is_svg, "hemp_ladder.core.receive.svg.read", "read_svg"),
]


def kind_of(path: Path) -> str | None:
    """The name of the format by the file's content, None when nobody reads it."""
    with path.open("rb") as file:
        head = file.read(_HEAD)
    return next((name for name, belongs, _, _ in _READERS if belongs(head)), None)


def reader_of(path: Path) -> Reader:
    """The reader for the file. Raises UnreadableSource when there is none."""
    with path.open("rb") as file:
        head = file.read(_HEAD)
    for _, belongs, module, function in _READERS:
        if belongs(head):
            reader: Any = getattr(import_module(module), function)
            return reader  # type: ignore[no-any-return]
    if not head.strip(b"\0 \t\r\n"):
        raise UnreadableSource("The file is empty.", "Ask for the file again.")
    known = ", ".join(dict.fromkeys(name for name, *_ in _READERS))
    raise UnreadableSource(
        f"This is no kind of file that can be read here: it does not begin like any of {known}.",
        "Ask for an export as STEP (AP203, AP214, AP242), IFC, IGES, DXF or SVG.",
    )
