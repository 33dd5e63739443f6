"""Reading PLY (G. Turk, "The PLY polygon file format", 1994)."""

from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import finding
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.meshed.colours import linear
from hemp_ladder.core.receive.meshed.parts import Builder, Polygons
from hemp_ladder.core.receive.meshed.polygons import triangulated
from hemp_ladder.core.receive.report import Report

_TYPES = {
    "char": "i1", "int8": "i1", "uchar": "u1", "uint8": "u1", "short": "i2", "int16": "i2", "ushort": "u2",
    "uint16": "u2", "int": "i4", "int32": "i4", "uint": "u4", "uint32": "u4", "float": "f4", "float32": "f4",
    "double": "f8", "float64": "f8",
}  # fmt: skip
_DAMAGED = ("The header of the PLY file cannot be read.", "It was damaged. Ask for it again.")


@dataclass
class _Element:
    """`properties`: name, type, and the type of the count for lists."""

    name: str
    count: int
    properties: list[tuple[str, str, str | None]] = field(default_factory=list)

    @property
    def lists(self) -> bool:
        return any(count for _, _, count in self.properties)


class _CutShort(Exception):
    pass


def read_ply(path: Path, report: Report) -> Model:
    """The model in a PLY file. It says neither unit nor axis; metres are taken, as scans have.

    Raises UnreadableSource when nothing can be got from the file.
    """
    report.stage("reading", 0)
    data = path.read_bytes()
    form, elements, start, comments = _header(data)
    builder = Builder(report, path)
    found: dict[str, dict[str, NDArray[np.generic]]] = {}
    source = _Text(data[start:]) if form == "ascii" else _Binary(data, start, ">" if "big" in form else "<")
    try:
        for element in elements:
            found[element.name] = source.element(element)
    except _CutShort:
        builder.findings.append(finding("cut-short", path.name, "The file stops before its end."))
        found.setdefault(element.name, source.part)
    vertex, face = found.get("vertex", {}), found.get("face", {})
    if not all(axis in vertex for axis in "xyz"):
        raise UnreadableSource("The PLY file holds no points.", "Ask for it again.")
    positions = np.stack([np.asarray(vertex[axis], np.float64) for axis in "xyz"], axis=1)
    names = [name for name in ("vertex_indices", "vertex_index") if name in face]
    counts = np.asarray(face.get("count", np.zeros(0, np.int64)), np.int64)
    corners = np.asarray(face[names[0]] if names else np.zeros(0), np.int64)
    if not len(corners):
        builder.leave("point", len(positions))
    if len(counts) and counts.min() == counts.max() == 3:
        triangles = corners.reshape(-1, 3)
    else:
        inside = (corners >= 0) & (corners < len(positions))
        at, _ = triangulated(positions, np.where(inside, corners, 0), counts)
        triangles = np.where(inside, corners, -1)[at]
    attributes = _attributes(vertex)
    part = builder.part("", Polygons(positions, triangles, attributes))
    if part is not None:
        builder.node(path.stem, -1, part)
        builder.parts[part].label = path.stem or builder.parts[part].label
    return builder.model("PLY", Fraction(1), None, None, schema=form, writer=comments)


def _header(data: bytes) -> tuple[str, list[_Element], int, str]:
    end = data.find(b"end_header")
    line_end = data.find(b"\n", end)
    if end < 0 or line_end < 0 or end > 1 << 20:
        raise UnreadableSource(*_DAMAGED)
    form, elements, comments = "", [], ""
    try:
        for line in data[:end].decode("latin-1").splitlines()[1:]:
            words = line.split()
            if not words:
                continue
            if words[0] == "format":
                form = words[1]
            elif words[0] == "comment" and not comments:
                comments = " ".join(words[1:])[:80]
            elif words[0] == "element":
                count = int(words[2])
                if not 0 <= count <= len(data):
                    raise UnreadableSource(
                        f"It says that it has {count:,} of {words[1][:20]}, for which the file has no room.",
                        _DAMAGED[1],
                    )
                elements.append(_Element(words[1], count))
            elif words[0] == "property":
                many = words[1] == "list"
                kind, count_kind = (_TYPES[words[3]], _TYPES[words[2]]) if many else (_TYPES[words[1]], None)
                elements[-1].properties.append((words[-1], kind, count_kind))
    except (KeyError, IndexError, ValueError) as error:
        raise UnreadableSource(*_DAMAGED) from error
    if form not in ("ascii", "binary_little_endian", "binary_big_endian"):
        raise UnreadableSource(*_DAMAGED)
    return form, elements, line_end + 1, comments


class _Binary:
    def __init__(self, data: bytes, start: int, order: str) -> None:
        self._data, self._at, self._order = data, start, order
        self.part: dict[str, NDArray[np.generic]] = {}

    def element(self, element: _Element) -> dict[str, NDArray[np.generic]]:
        self.part = {}
        if not element.lists:
            kind = np.dtype([(name, self._order + kind) for name, kind, _ in element.properties])
            count = min(element.count, (len(self._data) - self._at) // max(1, kind.itemsize))
            rows = np.frombuffer(self._data, kind, count=count, offset=self._at)
            self._at += count * kind.itemsize
            self.part = {name: rows[name] for name, _, _ in element.properties}
            if count < element.count:
                raise _CutShort
            return self.part
        return self._lists(element)

    def _lists(self, element: _Element) -> dict[str, NDArray[np.generic]]:
        """Rows with lists: as many as have lists of the same lengths are taken at once."""
        wanted = next(name for name, _, count in element.properties if count)
        corners: list[NDArray[np.generic]] = []
        counts: list[NDArray[np.int64]] = []
        done = 0
        try:
            while done < element.count:
                kind, long = self._row(element)
                most = min(element.count - done, (len(self._data) - self._at) // kind.itemsize)
                rows = np.frombuffer(self._data, kind, count=most, offset=self._at)
                if not most:
                    raise _CutShort
                same = np.ones(most, bool)
                for name, _, count in element.properties:
                    if count:
                        same &= rows[f"#{name}"] == rows[f"#{name}"][0]
                run = most if same.all() else int(np.argmin(same))
                corners.append(rows[wanted][:run].reshape(-1))
                counts.append(np.full(run, long[wanted], np.int64))
                self._at += run * kind.itemsize
                done += run
        finally:
            self.part = {
                wanted: np.concatenate(corners) if corners else np.zeros(0, np.int64),
                "count": np.concatenate(counts) if counts else np.zeros(0, np.int64),
            }
        return self.part

    def _row(self, element: _Element) -> tuple[np.dtype[np.void], dict[str, int]]:
        """The layout of the row that comes next, and how long its lists are."""
        fields: list[Any] = []
        long: dict[str, int] = {}
        at = self._at
        for name, kind, count_kind in element.properties:
            if count_kind is None:
                fields.append((name, self._order + kind))
                at += np.dtype(kind).itemsize
                continue
            counted = np.dtype(self._order + count_kind)
            if at + counted.itemsize > len(self._data):
                raise _CutShort
            count = int(np.frombuffer(self._data, counted, 1, at)[0])
            if count < 0 or at + count * np.dtype(kind).itemsize > len(self._data):
                raise _CutShort
            long[name] = count
            fields += [(f"#{name}", self._order + count_kind), (name, self._order + kind, (count,))]
            at += counted.itemsize + count * np.dtype(kind).itemsize
        return np.dtype(fields), long


class _Text:
    def __init__(self, data: bytes) -> None:
        self._lines = data.split(b"\n")
        self._at = 0
        self.part: dict[str, NDArray[np.generic]] = {}

    def element(self, element: _Element) -> dict[str, NDArray[np.generic]]:
        lines = [line for line in self._lines[self._at : self._at + element.count] if line.strip()]
        self._at += element.count
        rows = [line.split() for line in lines]
        names = [name for name, _, _ in element.properties]
        try:
            if not element.lists:
                whole = [row[: len(names)] for row in rows if len(row) >= len(names)]
                table = np.array(whole, dtype="S40").astype(np.float64).reshape(-1, len(names))
                self.part = {name: table[:, column] for column, name in enumerate(names)}
            else:
                self.part = self._lists(element, rows)
        except (ValueError, IndexError) as error:
            raise _CutShort from error
        if len(lines) < element.count:
            raise _CutShort
        return self.part

    @staticmethod
    def _lists(element: _Element, rows: list[list[bytes]]) -> dict[str, NDArray[np.generic]]:
        wanted = next(name for name, _, count in element.properties if count)
        corners: list[bytes] = []
        counts: list[int] = []
        for row in rows:
            at = 0
            for name, _, count in element.properties:
                long = int(row[at]) if count else 1
                at += 1 if count else 0
                if name == wanted:
                    own = row[at : at + long]
                    if len(own) == long:
                        corners += own
                        counts.append(long)
                at += long
        return {
            wanted: np.array(corners, dtype="S24").astype(np.float64).astype(np.int64),
            "count": np.array(counts, np.int64),
        }


def _attributes(vertex: dict[str, NDArray[np.generic]]) -> dict[str, NDArray[np.float32]]:
    attributes: dict[str, NDArray[np.float32]] = {}

    def take(name: str, *columns: str) -> NDArray[np.float32] | None:
        if not all(column in vertex for column in columns):
            return None
        return np.stack([np.asarray(vertex[column], np.float32) for column in columns], axis=1)

    normals = take("normal", "nx", "ny", "nz")
    if normals is not None and np.abs(normals).max(initial=0) > 0:
        attributes["normal"] = normals
    for columns in (("u", "v"), ("s", "t"), ("texture_u", "texture_v")):
        uv = take("uv", *columns)
        if uv is not None:
            attributes["uv"] = uv
            break
    colours = take("colour", "red", "green", "blue")
    if colours is not None:
        whole = 255.0 if np.asarray(vertex["red"]).dtype.kind in "iu" or colours.max(initial=0) > 1 else 1.0
        alpha = take("alpha", "alpha")
        attributes["colour"] = linear(colours / whole, None if alpha is None else alpha[:, 0] / whole)
    return attributes
