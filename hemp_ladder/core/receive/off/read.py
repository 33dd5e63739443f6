"""Reading OFF: numbers of corners, then polygons with how many corners each has."""

import re
from fractions import Fraction
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import finding
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.meshed.colours import linear
from hemp_ladder.core.receive.meshed.parts import Builder, Polygons
from hemp_ladder.core.receive.meshed.polygons import triangulated
from hemp_ladder.core.receive.report import Report

_DAMAGED = ("The OFF file cannot be read.", "It was damaged. Ask for it again.")
_KEYWORD = re.compile(rb"\s*(ST)?(C)?(N)?OFF\b")


def read_off(path: Path, report: Report) -> Model:
    """The model in an OFF file: one part. It says neither unit nor axis; metres are taken, as renderers do.

    Raises UnreadableSource when nothing can be got from the file.
    """
    report.stage("reading", 0)
    text = re.sub(rb"#[^\n]*", b"", path.read_bytes().removeprefix(b"\xef\xbb\xbf"))
    found = _KEYWORD.match(text)
    if found is None or text[found.end() :].lstrip()[:6] == b"BINARY":
        raise UnreadableSource("The OFF file is of a kind that is not read here.", "Ask for it as text.")
    flat, coloured, directed = (group is not None for group in found.groups())
    lines = [line.split() for line in text[found.end() :].split(b"\n") if line.strip()]
    try:
        count, faces = int(lines[0][0]), int(lines[0][1])
    except (IndexError, ValueError) as error:
        raise UnreadableSource(*_DAMAGED) from error
    rows = lines[1 : 1 + max(count, 0)]
    builder = Builder(report, path)
    if len(lines) < 1 + count + faces or count < 0 or faces < 0:
        builder.findings.append(finding("cut-short", path.name, "The file stops before its end."))
    table = _numbers(rows)
    at = 3 + 3 * directed
    # Colours of corners stand between normals and UV; where there are two more numbers only, those are UV.
    attributes: dict[str, NDArray[np.float32]] = {}
    if directed and table.shape[1] >= 6:
        attributes["normal"] = table[:, 3:6].astype(np.float32)
    if flat and table.shape[1] >= at + 2:
        attributes["uv"] = table[:, -2:].astype(np.float32)
    behind = table[:, at : table.shape[1] - 2 * flat]
    if coloured and behind.shape[1] >= 3 and np.isfinite(behind).all() and len(behind):
        scale = 255.0 if behind.max() > 1 else 1.0
        alpha = behind[:, 3] / scale if behind.shape[1] >= 4 else None
        attributes["colour"] = linear(behind[:, :3] / scale, alpha)
    report.stage("translating", 0)
    corners, counts = _faces(lines[1 + len(rows) : 1 + len(rows) + faces])
    positions = table[:, :3]
    inside = (corners >= 0) & (corners < len(positions))
    places, _ = triangulated(positions, np.where(inside, corners, 0), counts)
    triangles = np.where(inside, corners, -1)[places]
    part = builder.part("", Polygons(positions, triangles, attributes))
    if part is not None:
        builder.node(path.stem, -1, part)
    return builder.model("OFF", Fraction(1), None, None)


def _numbers(rows: list[list[bytes]]) -> NDArray[np.float64]:
    """Rows of numbers as a table as wide as the first; what is none becomes none."""
    width = max(3, len(rows[0]) if rows else 3)
    try:
        table = np.array(list(rows), dtype="S40").astype(np.float64)
        if table.ndim == 2 and table.shape[1] >= 3:
            return np.asarray(table)
    except ValueError:
        pass
    table = np.full((len(rows), width), np.nan)
    for number, row in enumerate(rows):
        for column, word in enumerate(row[:width]):
            try:
                table[number, column] = float(word)
            except ValueError:
                continue
    return table


def _faces(rows: list[list[bytes]]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Corners of all polygons one behind another, and how many each has; colours behind them are passed over."""
    counts, corners = [], []
    for row in rows:
        try:
            own = [int(word) for word in row[1 : 1 + max(int(row[0]), 0)]]
        except (IndexError, ValueError):
            continue
        counts.append(len(own))
        corners += own
    limit = 1 << 40
    return np.array([min(max(c, -1), limit) for c in corners], np.int64), np.array(counts, np.int64)
