"""Reading AMF: objects of volumes, constellations of objects, materials with a colour each."""

from collections import defaultdict
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path

import numpy as np

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.finish import Finish
from hemp_ladder.core.model.model import Matrix, Model
from hemp_ladder.core.receive.meshed.parts import Builder, Polygons
from hemp_ladder.core.receive.meshed.tree import Below, Thing, lay_out
from hemp_ladder.core.receive.meshed.xml import stream
from hemp_ladder.core.receive.meshed.zips import MOST_UNPACKED, is_zip, member, opened
from hemp_ladder.core.receive.report import Report

_UNITS = {
    "micrometer": ("µm", Fraction(1, 1_000_000)), "micron": ("µm", Fraction(1, 1_000_000)),
    "millimeter": ("mm", Fraction(1, 1000)), "meter": ("m", Fraction(1)), "inch": ("in", Fraction(254, 10_000)),
    "feet": ("ft", Fraction(3048, 10_000)), "foot": ("ft", Fraction(3048, 10_000)),
}  # fmt: skip


def read_amf(path: Path, report: Report) -> Model:
    """The model in an AMF file, Z up, in the unit that it says, millimetres where it says none. Raises UnreadableSource."""
    report.stage("reading", 0)
    told = _Told()
    if is_zip(path):
        with opened(path, "AMF") as archive:
            name = next((n for n in archive.namelist() if n.lower().endswith(".amf")), None)
            file = member(archive, name) if name else None
            if file is None:
                raise UnreadableSource("The ZIP holds no AMF file.", "Ask for it again.")
            with file:
                stream(file, "AMF", told.start, told.end, MOST_UNPACKED)
    else:
        with path.open("rb") as plain:
            stream(plain, "AMF", told.start, told.end, MOST_UNPACKED)
    report.stage("translating", 0)
    builder = Builder(report, path)
    for name, (red, green, blue, alpha) in told.materials():
        builder.look(name, Finish(Colour(red, green, blue, alpha), roughness=0.6))
    made: dict[str, Thing] = {}

    def find(id_: str) -> Thing | None:
        if id_ not in made:
            if id_ in told.constellations:
                made[id_] = Thing(told.names.get(("constellation", id_), ""), None, told.constellations[id_])
            elif id_ in told.objects:
                own = told.objects[id_]
                made[id_] = Thing(own.name, builder.part(own.name, _mesh(own, told)))
            else:
                return None
        return made[id_]

    instanced = {item.id for rows in told.constellations.values() for item in rows}
    roots = [id_ for id_ in [*told.constellations, *told.objects] if id_ not in instanced]
    lay_out(builder, find, [Below(id_, np.eye(4)) for id_ in roots or list(told.constellations)], "AMF")
    code, metres = _UNITS.get(told.unit, _UNITS["millimeter"])
    return builder.model("AMF", metres, code, "z")


@dataclass
class _Object:
    name: str = ""
    vertices: list[list[float]] = field(default_factory=list)
    triangles: list[list[int]] = field(default_factory=list)
    #: For each triangle the material of its volume.
    worn: list[str] = field(default_factory=list)


class _Told:
    """What stands in the document. Its numbers stand as text of elements of their own."""

    def __init__(self) -> None:
        self.unit = "millimeter"
        self.objects: dict[str, _Object] = {}
        self.constellations: dict[str, list[Below]] = defaultdict(list)
        self.names: dict[tuple[str, str], str] = {}
        self._colours: dict[str, dict[str, float]] = defaultdict(dict)
        self._now = _Object()
        self._open: list[str] = []
        self._id: dict[str, str] = {}
        self._numbers: dict[str, float] = {}
        self._meta = ""

    def start(self, tag: str, given: dict[str, str]) -> None:
        self._open.append(tag)
        if tag == "amf":
            self.unit = given.get("unit", "millimeter").lower()
        elif tag in ("object", "constellation", "material"):
            self._id[tag] = given.get("id", "")
            if tag == "object":
                self._now = self.objects[given.get("id", "")] = _Object()
            elif tag == "constellation":
                self.constellations[given.get("id", "")] = []
            else:
                self._colours[given.get("id", "")] = {}
        elif tag == "volume":
            self._id["volume"] = given.get("materialid", "")
        elif tag == "instance":
            self._id["instance"], self._numbers = given.get("objectid", ""), {}
        elif tag in ("coordinates", "triangle"):
            self._numbers = {}
        elif tag == "metadata":
            self._meta = given.get("type", "").lower()

    def end(self, tag: str, text: str) -> None:
        self._open.pop()
        above = self._open[-1] if self._open else ""
        if above in ("coordinates", "triangle", "instance"):
            self._numbers[tag] = _number(text)
        elif tag == "coordinates":
            self._now.vertices.append([self._numbers.get(axis, np.nan) for axis in "xyz"])
        elif tag == "triangle":
            self._now.triangles.append([_index(self._numbers.get(corner)) for corner in ("v1", "v2", "v3")])
            self._now.worn.append(self._id.get("volume", ""))
        elif tag == "instance":
            local = _placement(self._numbers)
            self.constellations[self._id.get("constellation", "")].append(Below(self._id["instance"], local))
        elif above == "color" and "material" in self._open:
            self._colours[self._id.get("material", "")][tag] = _number(text)
        elif tag == "metadata" and self._meta == "name" and above in ("object", "constellation", "material"):
            self.names[above, self._id.get(above, "")] = text.strip()[:200]
            if above == "object":
                self._now.name = text.strip()[:200]

    def material(self, id_: str) -> str | None:
        return self.names.get(("material", id_)) or f"Material {id_}" if id_ in self._colours else None

    def materials(self) -> list[tuple[str, tuple[float, float, float, float]]]:
        return [
            (
                self.material(id_) or "",
                (*(min(max(colour.get(c, 0.8), 0.0), 1.0) for c in "rgb"), min(max(colour.get("a", 1.0), 0.0), 1.0)),  # type: ignore[misc]
            )
            for id_, colour in self._colours.items()
        ]


def _mesh(own: _Object, told: _Told) -> Polygons:
    ids = list(dict.fromkeys(own.worn))
    number = {id_: at for at, id_ in enumerate(ids)}
    return Polygons(
        np.array(own.vertices, np.float64).reshape(-1, 3), np.array(own.triangles, np.int64).reshape(-1, 3), {},
        np.array([number[id_] for id_ in own.worn], np.int64), [told.material(id_) for id_ in ids],
    )  # fmt: skip


def _placement(numbers: dict[str, float]) -> Matrix:
    """Moved after it is turned about X, then Y, then Z, in degrees."""
    matrix = np.eye(4)
    for axis in range(3):
        angle = np.radians(numbers.get("r" + "xyz"[axis], 0.0))
        a, b = (axis + 1) % 3, (axis + 2) % 3
        turn = np.eye(4)
        turn[a, a] = turn[b, b] = np.cos(angle)
        turn[b, a], turn[a, b] = np.sin(angle), -np.sin(angle)
        matrix = turn @ matrix
    matrix[:3, 3] = [numbers.get("delta" + axis, 0.0) for axis in "xyz"]
    return matrix if np.isfinite(matrix).all() else np.eye(4)


def _index(value: float | None) -> int:
    return int(value) if value is not None and abs(value) < 1 << 40 else -1


def _number(text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        return float("nan")
    return value if abs(value) < 1e30 else float("nan")
