"""Reading OBJ: lines are gathered, numbers turned into arrays a block at a time."""

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
from hemp_ladder.core.receive.obj.lines import corners as corners_of
from hemp_ladder.core.receive.obj.lines import numbers, runs
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
        self._texts: dict[bytes, list[bytes]] = {b"v": [], b"vt": [], b"vn": [], b"f": []}
        self._counts = {b"v": 0, b"vt": 0, b"vn": 0, b"f": 0}
        #: From which face on how many positions, UV and normals stood before it, and which part and material it is of.
        self._states: list[tuple[int, int, int, int, int, int]] = []
        self._names: dict[tuple[str, str], int] = {}
        self._materials: dict[str | None, int] = {None: 0}
        self._lines_and_points = 0

    def read(self) -> None:
        texts, counts = self._texts, self._counts
        thing, group, material = "", "", 0
        state: tuple[int, ...] = ()
        for kind, text, count in runs(self._path):
            if kind:
                if kind == b"f":
                    now = (counts[b"v"], counts[b"vt"], counts[b"vn"], self._part(thing, group), material)
                    if now != state:
                        state = now
                        self._states.append((counts[b"f"], *now))
                texts[kind].append(text)
                counts[kind] += count
                continue
            word, _, rest = text.strip().partition(b" ")
            if word == b"o":
                thing, group = _text(rest), ""
            elif word == b"g":
                group = _text(rest)
            elif word == b"usemtl":
                material = self._materials.setdefault(_text(rest), len(self._materials))
            elif word in (b"l", b"p", b"curv", b"curv2", b"surf"):
                self._lines_and_points += 1
            elif word[:1] == b"#" and not self.comment:
                self.comment = _text(text.strip()[1:])[:80]

    def _part(self, thing: str, group: str) -> int:
        return self._names.setdefault((thing, group), len(self._names))

    def _numbers(self, kind: bytes, least: int) -> NDArray[np.float64]:
        return numbers(self._texts.pop(kind), self._counts[kind], least)

    def build(self, builder: Builder) -> None:
        builder.leave("curve", self._lines_and_points)
        table = self._numbers(b"v", 3)
        positions = table[:, :3]
        values = {
            "uv": self._numbers(b"vt", 2)[:, :2].astype(np.float32),
            "normal": self._numbers(b"vn", 3)[:, :3].astype(np.float32),
        }
        colours = linear(table[:, 3:6]) if table.shape[1] >= 6 and np.isfinite(table[:, 3:6]).all() else None
        counts, corners = corners_of(self._texts.pop(b"f"), self._counts[b"f"])
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
            lengths = counts[faces]
            behind = np.cumsum(lengths)
            rows = np.arange(int(behind[-1])) + np.repeat(starts[faces] - (behind - lengths), lengths)
            own = corners[rows]
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


def _text(rest: bytes) -> str:
    try:
        return rest.strip().decode("utf-8")
    except UnicodeDecodeError:
        return rest.strip().decode("latin-1")
