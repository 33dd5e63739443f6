"""Wavefront OBJ, and the materials in the MTL beside it."""

import re
from pathlib import Path

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.reader import PICTURES, Evidence, Reader
from hemp_ladder.core.receive.report import Report

#: A corner's position, and a face of three corners at least: no other text has such lines.
_LINE = re.compile(
    rb"^[ \t]*(v[ \t]+[-+.\d]+([eE][-+]?\d+)?[ \t]+[-+.\d]|f[ \t]+-?\d+[/ \t\d-]*[ \t]-?\d)", re.MULTILINE
)
_LIBRARY = re.compile(rb"^[ \t]*mtllib[ \t]+(.+?)[ \t\r]*$", re.MULTILINE)
#: Libraries are named at the beginning; in a file of gigabytes the rest is not looked through.
_LOOKED = 64 << 20


def is_obj(evidence: Evidence) -> bool:
    """By lines that no other format has; by its name where its head is all comments."""
    text = evidence.head
    if b"\0" in text[:512]:
        return False
    return _LINE.search(text) is not None or (evidence.name.lower().endswith(".obj") and bool(text.strip()))


def libraries(path: Path) -> list[str]:
    """The MTL files that an OBJ names, as it names them; of several on a line the line as a whole, for names have blanks."""
    with path.open("rb") as file:
        text = file.read(_LOOKED)
    # Few lines name one: only where the word stands is anything matched.
    names: list[bytes] = []
    at = text.find(b"mtllib")
    while at >= 0:
        start, end = text.rfind(b"\n", 0, at) + 1, text.find(b"\n", at)
        end = len(text) if end < 0 else end
        names += _LIBRARY.findall(text[start:end])
        at = text.find(b"mtllib", end)
    return list(dict.fromkeys(name.decode("utf-8", "replace").strip('"') for name in names))[:100]


_MAP = re.compile(
    rb"^[ \t]*(?:map_(?:Kd|d|Ke|bump|Pr|Pm)|bump|disp|norm)[ \t]+(.+?)[ \t\r]*$", re.MULTILINE | re.IGNORECASE
)


def _beside(path: Path) -> list[str]:
    """The MTL files that it names, and the pictures that those name which lie beside it."""
    from hemp_ladder.core.receive.obj.maps import map_name

    found = libraries(path)
    for name in list(found):
        library = path.parent / re.split(r"[/\\]", name)[-1]
        if library.is_file() and library.stat().st_size < _LOOKED:
            found += [map_name(rest.decode("utf-8", "replace")) for rest in _MAP.findall(library.read_bytes())][:1000]
    return found


def _read(path: Path, report: Report) -> Model:
    from hemp_ladder.core.receive.obj.read import read_obj

    return read_obj(path, report)


READER = Reader(
    name="OBJ", owns=is_obj, read=_read, asked_for="OBJ with its MTL", refers=_beside, companions=(".mtl", *PICTURES),
    units=("m", "cm", "mm", "in", "ft"),
)  # fmt: skip
