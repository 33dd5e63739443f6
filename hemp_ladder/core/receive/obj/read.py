"""Reading OBJ: lines are gathered, numbers turned into arrays a block at a time."""

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.findings import clip, finding
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.meshed.colours import linear
from hemp_ladder.core.receive.meshed.parts import Builder, Polygons, cornered
from hemp_ladder.core.receive.meshed.polygons import pieces, triangulated
from hemp_ladder.core.receive.obj import libraries
from hemp_ladder.core.receive.obj.mtl import read_mtl
from hemp_ladder.core.receive.report import Report


def read_obj(path: Path, report: Report) -> Model:
    """The model in an OBJ file: objects and groups are parts, materials by name. It says neither unit nor axis; metres
    are taken, as renderers do (common practice).

    Raises UnreadableSource when nothing can be got from the file.
    """
    report.stage("reading", 0)
    builder = Builder(report, path)
    for name in libraries(path):
        library = path.parent / name.replace("\\", "/").rpartition("/")[2]
        if library.is_file():
            read_mtl(library, builder)
        else:
            message = f"The materials in “{clip(name, 80)}” are not there."
            builder.findings.append(finding("missing-beside", path.name, message))
    lines = _Lines(path)
    lines.read()
    report.stage("translating", 0)
    lines.build(builder)
    return builder.model("OBJ", Fraction(1), None, None, writer=lines.comment)


class _Lines:
    """What stands in the file: rows of numbers, and for each face its corners, part and material."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self.comment = ""
        self._rows: dict[bytes, list[bytes]] = {b"v": [], b"vt": [], b"vn": []}
        self._faces: list[bytes] = []
        #: From which face on how many positions, UV and normals stood before it, and which part and material it is of.
        self._states: list[tuple[int, int, int, int, int, int]] = []
        self._names: dict[tuple[str, str], int] = {}
        self._materials: dict[str | None, int] = {None: 0}
        self._lines_and_points = 0

    def read(self) -> None:
        rows, faces = self._rows, self._faces
        positions, uvs, normals = rows[b"v"], rows[b"vt"], rows[b"vn"]
        thing, group, material = "", "", 0
        state: tuple[int, ...] = ()
        for line in _whole_lines(self._path):
            word, _, rest = line.partition(b" ")
            if word in rows:
                rows[word].append(rest)
            elif word == b"f":
                now = (len(positions), len(uvs), len(normals), self._part(thing, group), material)
                if now != state:
                    state = now
                    self._states.append((len(faces), *now))
                faces.append(rest)
            elif word == b"o":
                thing, group = _text(rest), ""
            elif word == b"g":
                group = _text(rest)
            elif word == b"usemtl":
                material = self._materials.setdefault(_text(rest), len(self._materials))
            elif word in (b"l", b"p", b"curv", b"curv2", b"surf"):
                self._lines_and_points += 1
            elif word[:1] == b"#" and not self.comment:
                self.comment = _text(line[1:])[:80]

    def _part(self, thing: str, group: str) -> int:
        return self._names.setdefault((thing, group), len(self._names))

    def build(self, builder: Builder) -> None:
        builder.leave("curve", self._lines_and_points)
        table = _numbers(self._rows.pop(b"v"), 3)
        positions = table[:, :3]
        values = {
            "uv": _numbers(self._rows.pop(b"vt"), 2)[:, :2].astype(np.float32),
            "normal": _numbers(self._rows.pop(b"vn"), 3)[:, :3].astype(np.float32),
        }
        colours = linear(table[:, 3:6]) if table.shape[1] >= 6 and np.isfinite(table[:, 3:6]).all() else None
        counts, corners = _corners(self._faces)
        self._faces = []
        states = np.array(self._states or [(0, 0, 0, 0, 0, 0)], dtype=np.int64)
        spans = np.diff(np.append(states[:, 0], len(counts)))
        of_face = np.repeat(np.arange(len(states)), spans)
        of_corner = np.repeat(of_face, counts)
        # Negative numbers count back from the last row before the face.
        for column in range(3):
            own = corners[:, column]
            corners[:, column] = np.where(own < 0, own + states[of_corner, 1 + column], own - 1)
        starts = np.concatenate([[0], np.cumsum(counts)])
        names = list(self._names)
        owners = {}
        materials = list(self._materials)
        for number, faces in pieces(states[of_face, 4]):
            rows = np.concatenate([np.arange(starts[f], starts[f + 1]) for f in faces]) if len(faces) else faces
            own, lengths = corners[rows], counts[faces]
            mesh = _mesh(positions, own, lengths, values, colours)
            triangles, of = mesh
            triangles.groups = states[of_face[faces], 5][of]
            triangles.materials = materials
            thing, group = names[number]
            part = builder.part(group or thing, triangles)
            if part is None:
                continue
            above = -1
            if thing and group:
                if thing not in owners:
                    owners[thing] = builder.node(thing, -1)
                above = owners[thing]
            builder.node(group or thing or builder.parts[part].label, above, part)


def _mesh(
    positions: NDArray[np.float64],
    corners: NDArray[np.int64],
    counts: NDArray[np.int64],
    values: dict[str, NDArray[np.float32]],
    colours: NDArray[np.float32] | None,
) -> tuple[Polygons, NDArray[np.int64]]:
    """One part's triangles, and for each the number of its face."""
    if not len(positions):
        return Polygons(positions, np.zeros((0, 3), np.int64)), np.zeros(0, np.int64)
    inside = (corners[:, 0] >= 0) & (corners[:, 0] < len(positions))
    safe = np.where(inside, corners[:, 0], 0)
    at, of = triangulated(positions, safe, counts)
    streams = {}
    for column, name in ((1, "uv"), (2, "normal")):
        own = corners[:, column]
        if len(values[name]) and ((own >= 0) & (own < len(values[name]))).all():
            streams[name] = (values[name], own)
    if colours is not None:
        streams["colour"] = (colours, safe)
    spots, vertex, attributes = cornered(positions, safe, streams)
    triangles = np.where(inside, vertex, -1)[at]
    return Polygons(spots, triangles, attributes), of


def _whole_lines(path: Path) -> Iterator[bytes]:
    """Lines without blanks around them, those that a backslash breaks joined."""
    held = b""
    with path.open("rb") as file:
        for raw in file:
            line = raw.strip().replace(b"\t", b" ")
            if line.endswith(b"\\"):
                held += line[:-1] + b" "
                continue
            if held:
                line, held = held + line, b""
            if line:
                yield line
    if held:
        yield held


def _text(rest: bytes) -> str:
    try:
        return rest.strip().decode("utf-8")
    except UnicodeDecodeError:
        return rest.strip().decode("latin-1")


def _numbers(rows: list[bytes], least: int) -> NDArray[np.float64]:
    """Rows of numbers as an array; short ones are filled with zeros, what is no number becomes none."""
    if not rows:
        return np.zeros((0, least))
    width = max(least, len(rows[0].split()))
    try:
        table = np.array(b" ".join(rows).split(), dtype="S40").astype(np.float64)
        if len(table) == width * len(rows):
            return table.reshape(len(rows), width)
    except ValueError:
        pass
    table = np.zeros((len(rows), width))
    for number, row in enumerate(rows):
        for column, word in enumerate(row.split()[:width]):
            try:
                table[number, column] = float(word)
            except ValueError:
                table[number, column] = np.nan
    return table


#: Faces whose numbers are turned into arrays together.
_BLOCK = 200_000


def _corners(faces: list[bytes]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """How many corners each face has, and of all corners position, UV and normal as numbered in the file, 0 for none."""
    counts, tables = [np.zeros(0, np.int64)], [np.zeros((0, 3), np.int64)]
    for start in range(0, len(faces), _BLOCK):
        words = [face.split() for face in faces[start : start + _BLOCK]]
        counts.append(np.array([len(face) for face in words], np.int64))
        tables.append(_table([word for face in words for word in face]))
    return np.concatenate(counts), np.concatenate(tables)


def _table(corners: list[bytes]) -> NDArray[np.int64]:
    if not corners:
        return np.zeros((0, 3), np.int64)
    slashes = corners[0].count(b"/")
    # Most files write all corners alike: `a`, `a/b`, `a//c` or `a/b/c`.
    text = b" ".join(corners)
    if text.count(b"/") == slashes * len(corners):
        try:
            plain = text.replace(b"//", b" 0 ").replace(b"/", b" ")
            values = np.array(plain.split(), dtype="S20").astype(np.int64)
            if len(values) == (slashes + 1) * len(corners):
                table = np.zeros((len(corners), 3), np.int64)
                table[:, : slashes + 1] = values.reshape(len(corners), slashes + 1)[:, :3]
                return table
        except (ValueError, OverflowError):
            pass
    table = np.zeros((len(corners), 3), np.int64)
    for number, word in enumerate(corners):
        for column, piece in enumerate(word.split(b"/")[:3]):
            try:
                table[number, column] = max(-(1 << 40), min(1 << 40, int(piece))) if piece else 0
            except ValueError:
                table[number, column] = 0
    return table
