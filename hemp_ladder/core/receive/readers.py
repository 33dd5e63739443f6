"""The formats in. To add one: its folder beside this, which exports READER, and its line here."""

from pathlib import Path

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.receive import (
    amf,
    brep,
    collada,
    dxf,
    gltf,
    ifc,
    iges,
    obj,
    off,
    ply,
    step,
    stl,
    svg,
    threemf,
    usd,
    x3d,
)
from hemp_ladder.core.receive.reader import Evidence, Reader

#: In the order in which they are asked: buildings are exchange files like STEP's, with a schema of their own.
READERS: tuple[Reader, ...] = (
    ifc.READER, iges.READER, brep.READER, step.READER, dxf.READER, svg.READER,
    usd.READER, threemf.READER, amf.READER, collada.READER, x3d.READER, gltf.READER, ply.READER, off.READER, obj.READER,
    stl.READER,
)  # fmt: skip
_BY_NAME = {reader.name: reader for reader in READERS}


def reader_for(path: Path) -> Reader | None:
    """The reader of the format that the file's content is of, None where there is none."""
    evidence = Evidence.of(path)
    return next((reader for reader in READERS if reader.owns(evidence)), None)


def reader_called(name: str) -> Reader | None:
    """The reader whose models say that they are of this format."""
    return _BY_NAME.get(name)


def need_reader(path: Path) -> Reader:
    """The reader for the file. Raises UnreadableSource when there is none."""
    found = reader_for(path)
    if found is not None:
        return found
    if not Evidence.of(path).head.strip(b"\0 \t\r\n"):
        raise UnreadableSource("The file is empty.", "Ask for the file again.")
    known = ", ".join(reader.name for reader in READERS)
    *others, last = [reader.asked_for for reader in READERS]
    raise UnreadableSource(
        f"This is no kind of file that can be read here: it does not begin like any of {known}.",
        f"Ask for an export as {', '.join(others)} or {last}.",
    )
