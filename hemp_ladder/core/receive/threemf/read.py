"""Reading 3MF: objects with meshes or components, what is built of them, materials, colours and textures (materials and
properties extension 1.2), parts in further files (production extension 1.1)."""

import zipfile
from collections import defaultdict
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.finish import Finish, Map
from hemp_ladder.core.model.model import Matrix, Model
from hemp_ladder.core.receive.meshed.parts import Builder, Polygons, cornered
from hemp_ladder.core.receive.meshed.pictures import MOST_BYTES
from hemp_ladder.core.receive.meshed.tree import Below, Thing, lay_out
from hemp_ladder.core.receive.meshed.xml import stream
from hemp_ladder.core.receive.meshed.zips import MOST_UNPACKED, member, member_bytes, opened
from hemp_ladder.core.receive.report import Report

#: 3.4.1: what the unit of a model may be, and its own when none is said.
_UNITS = {
    "micron": ("µm", Fraction(1, 1_000_000)), "millimeter": ("mm", Fraction(1, 1000)), "centimeter": ("cm", Fraction(1, 100)),
    "inch": ("in", Fraction(254, 10_000)), "foot": ("ft", Fraction(3048, 10_000)), "meter": ("m", Fraction(1)),
}  # fmt: skip
_ROOT = "3D/3dmodel.model"


def read_3mf(path: Path, report: Report) -> Model:
    """The model in a 3MF file, Z up, in the unit that it says. Raises UnreadableSource when nothing can be got."""
    report.stage("reading", 0)
    builder = Builder(report, path)
    with opened(path, "3MF") as archive:
        name = next((n for n in archive.namelist() if n.lstrip("/").casefold() == _ROOT.casefold()), None)
        name = name or next((n for n in archive.namelist() if n.casefold().endswith(".model")), None)
        if name is None:
            raise UnreadableSource("The ZIP holds no 3MF model.", "Ask for it again.")
        package = _Package(archive, builder)
        root = package.document(name)
        report.stage("translating", 0)
        lay_out(builder, package.thing, [Below(package.key(root, b), b.local, b.name) for b in root.build], "3MF")
    code, metres = _UNITS.get(root.unit, _UNITS["millimeter"])
    return builder.model("3MF", metres, code, "z", writer=root.application)


@dataclass
class _Object:
    name: str = ""
    pid: str = ""
    pindex: int = 0
    vertices: list[tuple[str, str, str]] = field(default_factory=list)
    #: Corners, and for each triangle its property group with an index for each corner.
    triangles: list[tuple[str, str, str]] = field(default_factory=list)
    properties: dict[int, tuple[str, int, int, int]] = field(default_factory=dict)
    components: list[tuple[str, str, Matrix]] = field(default_factory=list)


@dataclass
class _Item:
    id: str
    path: str
    local: Matrix
    name: str


@dataclass
class _Group:
    """A property group: colours with names, or UV in a texture."""

    colours: list[tuple[str, Colour]] = field(default_factory=list)
    texture: str = ""
    uv: list[tuple[float, float]] = field(default_factory=list)


class _Document:
    """One model part, as it is read."""

    def __init__(self, name: str) -> None:
        self.name = name
        self.unit, self.application = "millimeter", ""
        self.objects: dict[str, _Object] = {}
        self.groups: dict[str, _Group] = defaultdict(_Group)
        self.textures: dict[str, str] = {}
        self.build: list[_Item] = []
        self._now = _Object()
        self._group = _Group()
        self._meta = ""

    def start(self, tag: str, told: dict[str, str]) -> None:
        if tag == "vertex":
            self._now.vertices.append((told.get("x", ""), told.get("y", ""), told.get("z", "")))
        elif tag == "triangle":
            self._now.triangles.append((told.get("v1", ""), told.get("v2", ""), told.get("v3", "")))
            if "p1" in told or "pid" in told:
                pid, first = told.get("pid", self._now.pid), _whole(told.get("p1", self._now.pindex))
                second, third = _whole(told.get("p2", first)), _whole(told.get("p3", first))
                self._now.properties[len(self._now.triangles) - 1] = (pid, first, second, third)
        elif tag == "object":
            self._now = self.objects[told.get("id", "")] = _Object(
                told.get("name", ""), told.get("pid", ""), _whole(told.get("pindex", 0))
            )
        elif tag == "component":
            self._now.components.append((told.get("objectid", ""), _path(told), _matrix(told.get("transform", ""))))
        elif tag == "item":
            self.build.append(
                _Item(
                    told.get("objectid", ""),
                    _path(told),
                    _matrix(told.get("transform", "")),
                    told.get("partnumber", ""),
                )
            )
        elif tag in ("basematerials", "colorgroup", "texture2dgroup"):
            self._group = self.groups[told.get("id", "")]
            self._group.texture = told.get("texid", "")
        elif tag in ("base", "color"):
            colour = _colour(told.get("displaycolor") or told.get("color") or "")
            self._group.colours.append((told.get("name", "") or colour.hex, colour))
        elif tag == "tex2coord":
            self._group.uv.append((_number(told.get("u")), _number(told.get("v"))))
        elif tag == "texture2d":
            self.textures[told.get("id", "")] = told.get("path", "")
        elif tag == "model":
            self.unit = told.get("unit", "millimeter").lower()
        elif tag == "metadata":
            self._meta = told.get("name", "")

    def end(self, tag: str, text: str) -> None:
        if tag == "metadata" and self._meta == "Application":
            self.application = text.strip()[:80]


class _Package:
    """The model parts of a package, each read once, and the parts made of their objects."""

    def __init__(self, archive: zipfile.ZipFile, builder: Builder) -> None:
        self._archive, self._builder = archive, builder
        self._documents: dict[str, _Document] = {}
        self._things: dict[str, Thing] = {}
        self._looks: dict[str, str] = {}

    def document(self, name: str) -> _Document:
        key = name.lstrip("/").casefold()
        if key not in self._documents:
            document = self._documents[key] = _Document(name)
            file = member(self._archive, name)
            if file is None:
                self._builder.dangling.append(name)
            else:
                with file:
                    stream(file, "3MF", document.start, document.end, MOST_UNPACKED)
        return self._documents[key]

    def key(self, document: _Document, item: _Item) -> str:
        return f"{item.path or document.name}#{item.id}"

    def thing(self, key: str) -> Thing | None:
        if key not in self._things:
            path, _, id_ = key.rpartition("#")
            document = self.document(path)
            found = document.objects.get(id_)
            if found is None:
                return None
            part = self._builder.part(found.name, self._mesh(document, found)) if found.triangles else None
            below = [Below(f"{where or path}#{other}", local) for other, where, local in found.components]
            self._things[key] = Thing(found.name, part, below)
            found.vertices, found.triangles = [], []
        return self._things[key]

    def _mesh(self, document: _Document, found: _Object) -> Polygons:
        positions = _table(found.vertices)
        told = _table(found.triangles)
        corners = np.where(np.abs(told) < 1 << 40, told, -1).astype(np.int64)
        count = len(corners)
        pids = [found.pid] * count
        index = np.full((count, 3), found.pindex, np.int64)
        for number, (pid, *own) in found.properties.items():
            pids[number], index[number] = pid, own
        materials: list[str | None] = [None]
        groups = np.zeros(count, np.int64)
        uv = np.zeros((count * 3, 2), np.float32)
        textured = False
        known: dict[tuple[str, int], int] = {}
        for number, pid in enumerate(pids):
            group = document.groups.get(pid)
            if group is None:
                continue
            # A triangle is of one material: of several colours at its corners the first.
            first = 0 if group.uv else int(index[number, 0])
            if (pid, first) not in known:
                known[pid, first] = len(materials)
                materials.append(self._look(document, pid, group, first))
            groups[number] = known[pid, first]
            if group.uv:
                textured = True
                for corner, at in enumerate(index[number].tolist()):
                    if 0 <= at < len(group.uv):
                        uv[3 * number + corner] = group.uv[at]
        if not textured:
            return Polygons(positions, corners, {}, groups, materials)
        safe = np.where((corners >= 0) & (corners < len(positions)), corners, 0).reshape(-1)
        if not len(positions):
            return Polygons(positions, corners)
        spots, vertex, attributes = cornered(positions, safe, {"uv": (uv, np.arange(len(uv)))})
        inside = (corners >= 0) & (corners < len(positions))
        return Polygons(spots, np.where(inside, vertex.reshape(-1, 3), -1), attributes, groups, materials)

    def _look(self, document: _Document, pid: str, group: _Group, index: int) -> str | None:
        if group.uv:
            name = document.textures.get(group.texture, "")
            style = name.rpartition("/")[2] or f"Texture {pid}"
            if style not in self._builder.looks:
                self._builder.look(style, Finish(roughness=0.6))
                data = member_bytes(self._archive, name, MOST_BYTES) if name else None
                picture = self._builder.pictures.take(data, style) if data is not None else None
                if picture is not None:
                    self._builder.put(style, "base colour", Map(picture))
                elif name:
                    self._builder.lacking.setdefault(style, {})["base colour"] = name
            return style
        if not 0 <= index < len(group.colours):
            return None
        name, colour = group.colours[index]
        taken = self._builder.looks.get(name)
        style = name if taken is None or taken.colour == colour else f"{name} {colour.hex}"
        self._builder.look(style, Finish(colour, roughness=0.6))
        return style


def _table(rows: list[tuple[str, str, str]]) -> NDArray[np.float64]:
    try:
        return np.array(rows, dtype="S32").astype(np.float64).reshape(-1, 3)
    except ValueError:
        return np.array([[_number(word, np.nan) for word in row] for row in rows], np.float64).reshape(-1, 3)


def _number(word: str | None, start: float = 0.0) -> float:
    try:
        return float(word or "")
    except ValueError:
        return start


def _whole(word: str | int) -> int:
    """A place in a list; -1 where it is none."""
    try:
        value = int(word)
    except ValueError:
        return -1
    return value if abs(value) < 1 << 40 else -1


def _path(told: dict[str, str]) -> str:
    """Of the production extension: in which part an object is."""
    return next((value for name, value in told.items() if name.rpartition(":")[2] == "path"), "")


def _matrix(text: str) -> Matrix:
    """Twelve numbers, a column of the turn at a time (3.3); none is no turn."""
    matrix = np.eye(4)
    try:
        numbers = [float(word) for word in text.split()]
    except ValueError:
        return matrix
    if len(numbers) == 12 and np.isfinite(numbers).all():
        matrix[:3, :4] = np.array(numbers).reshape(4, 3).T
    return matrix


def _colour(text: str) -> Colour:
    """`#RRGGBB` or `#RRGGBBAA`, sRGB (5.1)."""
    try:
        return Colour.from_hex(text) if len(text) in (7, 9) else Colour(0.8, 0.8, 0.8)
    except (ValueError, TypeError):
        return Colour(0.8, 0.8, 0.8)
