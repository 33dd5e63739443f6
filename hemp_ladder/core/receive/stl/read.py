"""Reading STL."""

import re
import struct
from fractions import Fraction
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import finding
from hemp_ladder.core.mesh.triangles import folded
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.meshed.parts import Builder, Polygons
from hemp_ladder.core.receive.report import Report

#: A facet: its normal, three corners, two bytes that nobody agrees on.
_FACET = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("more", "<u2")])
_SOLID = re.compile(rb"^\s*solid\b[ \t]*([^\r\n]*)", re.MULTILINE | re.IGNORECASE)


def read_stl(path: Path, report: Report) -> Model:
    """The model in an STL file; every `solid` of a text is a part. Neither unit nor axis is said; millimetres are taken.

    Normals are those of the triangles: the file's own add nothing. Raises UnreadableSource when nothing can be got.
    """
    report.stage("reading", 0)
    data = path.read_bytes()
    builder = Builder(report, path)
    declared = struct.unpack_from("<I", data, 80)[0] if len(data) >= 84 else 0
    there = max(0, len(data) - 84) // 50
    is_text = data[:6].lstrip()[:5].lower() == b"solid" and b"vertex" in data[:8192].lower()
    if len(data) == 84 + 50 * declared or (not is_text and there):
        if declared > there:
            message = f"It says that it has {declared:,} triangles; {there:,} are there."
            builder.findings.append(finding("cut-short", path.name, message))
        facets = np.frombuffer(data, _FACET, count=min(declared or there, there), offset=84)
        title = data[:80].split(b"\0", 1)[0].decode("latin-1").strip()
        _solid(builder, "", facets["corners"].reshape(-1, 3).astype(np.float64))
        return builder.model("STL", Fraction(1, 1000), None, None, schema="binary", writer=title[:80])
    if not is_text:
        raise UnreadableSource("The file is no STL: it holds no triangles.", "Ask for it again.")
    begins = [*_SOLID.finditer(data)]
    for number, match in enumerate(begins):
        end = begins[number + 1].start() if number + 1 < len(begins) else len(data)
        name = match[1].decode("utf-8", "replace").strip()
        _solid(builder, name, _vertices(data[match.end() : end]))
    if b"endsolid" not in data[-4096:].lower():
        builder.findings.append(finding("cut-short", path.name, "The file stops before its end."))
    return builder.model("STL", Fraction(1, 1000), None, None, schema="text")


def _solid(builder: Builder, name: str, corners: NDArray[np.float64]) -> None:
    index, places = folded(corners)
    mesh = Polygons(places, index.reshape(-1, 3))
    part = builder.part(name, mesh)
    if part is not None:
        builder.node(builder.parts[part].label, -1, part)


def _vertices(text: bytes) -> NDArray[np.float64]:
    """Whatever stands behind `vertex`, three numbers each; whole triangles only."""
    words = re.findall(rb"vertex\s+(\S+)\s+(\S+)\s+(\S+)", text, re.IGNORECASE)
    try:
        values = np.array(words, dtype="S32").astype(np.float64)
    except ValueError:
        values = np.array([[_number(word) for word in row] for row in words], dtype=np.float64)
    values = values.reshape(-1, 3)
    return values[: len(values) // 3 * 3]


def _number(word: bytes) -> float:
    try:
        return float(word)
    except ValueError:
        return float("nan")
