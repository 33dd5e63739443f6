"""Clues to size and to what is up: things that a source names or classes, and how large and how upright such things are.

All ranges are common practice, wide enough to hold what is made: a clue that
does not fit is a wrong unit, not an unusual door.
"""

import math
import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import numpy as np

from hemp_ladder.core.model.bodies import Exact
from hemp_ladder.core.model.model import Matrix, Model
from hemp_ladder.core.units import UNITS

#: Of so many placements the names are read; a source that names things does so from the start.
_LOOKED_AT = 20_000
#: Sides of paper in millimetres: ISO 216, and ANSI Y14.1 and letter sizes.
_SHEETS = {
    "A0": (841, 1189), "A1": (594, 841), "A2": (420, 594), "A3": (297, 420), "A4": (210, 297), "A5": (148, 210),
    "A6": (105, 148), "Letter": (215.9, 279.4), "Legal": (215.9, 355.6), "ANSI B": (279.4, 431.8),
    "ANSI C": (431.8, 558.8), "ANSI D": (558.8, 863.6), "ANSI E": (863.6, 1117.6),
}  # fmt: skip


@dataclass(frozen=True)
class Thing:
    """What a word or a class stands for: which side of it lies between which lengths, in metres; whether it stands tall
    or lies flat."""

    word: str
    least: float
    most: float
    side: str = "largest"
    stands: bool = False
    lies: bool = False


#: By the word in a name.
_THINGS: dict[str, Thing] = {
    thing.word: thing
    for thing in (
        Thing("door", 0.5, 8, stands=True), Thing("window", 0.2, 12), Thing("stool", 0.25, 1.2),
        Thing("chair", 0.4, 1.6, stands=True), Thing("bench", 0.4, 6), Thing("seat", 0.2, 4), Thing("table", 0.3, 8),
        Thing("desk", 0.5, 4), Thing("person", 1.0, 2.3, stands=True), Thing("brick", 0.1, 0.6),
        Thing("tread", 0.25, 8, lies=True), Thing("riser", 0.3, 8), Thing("stair", 0.5, 40), Thing("ladder", 0.6, 40),
        Thing("handrail", 0.3, 200), Thing("bottle", 0.05, 1.0, stands=True), Thing("cup", 0.04, 0.3),
        Thing("car", 2.2, 8), Thing("van", 3, 10), Thing("lorry", 4, 20), Thing("bicycle", 1.0, 2.4),
        Thing("bolt", 2e-3, 1.0), Thing("screw", 2e-3, 0.6), Thing("nut", 1.5e-3, 0.2), Thing("washer", 1.5e-3, 0.3),
        Thing("rivet", 1e-3, 0.2), Thing("hinge", 8e-3, 1.2), Thing("knob", 5e-3, 0.3), Thing("kerb", 0.2, 500),
        Thing("storey", 2, 400), Thing("floor", 0.5, 500, lies=True), Thing("deck", 0.5, 500, lies=True),
        Thing("slab", 0.3, 500, lies=True), Thing("wall", 0.3, 500), Thing("roof", 0.4, 500),
        Thing("column", 0.4, 60, stands=True), Thing("mast", 0.6, 120, stands=True), Thing("post", 0.1, 30, stands=True),
        Thing("chimney", 0.3, 200, stands=True), Thing("bracket", 8e-3, 2), Thing("plate", 2e-4, 0.15, side="smallest"),
        Thing("sheet", 1e-4, 0.03, side="smallest"), Thing("panel", 4e-4, 0.4, side="smallest"), Thing("rod", 4e-3, 12),
        Thing("bearing", 3e-3, 2), Thing("gear", 3e-3, 4), Thing("flange", 1e-2, 3), Thing("clamp", 5e-3, 1.5),
        Thing("spring", 2e-3, 1.5), Thing("gasket", 5e-5, 0.03, side="smallest"),
    )
}  # fmt: skip
#: Of buildings, by class (ISO 16739).
_CLASSES: dict[str, Thing] = {
    "IfcDoor": Thing("door", 0.5, 8, stands=True),
    "IfcWindow": Thing("window", 0.2, 15),
    "IfcStairFlight": Thing("flight of stairs", 0.4, 30),
    "IfcColumn": Thing("column", 0.4, 80, stands=True),
    "IfcWall": Thing("wall", 0.2, 600),
    "IfcWallStandardCase": Thing("wall", 0.2, 600),
    "IfcSlab": Thing("slab", 0.2, 600, lies=True),
    "IfcFurnishingElement": Thing("piece of furniture", 0.1, 12),
    "IfcFurniture": Thing("piece of furniture", 0.1, 12),
}
#: Across: what is drilled for bolts, pins, dowels and pipes, where there are four and more alike.
_HOLES = (3e-4, 0.15)
_THREAD = re.compile(r"(?<![a-z0-9])m(\d{1,2}(?:\.\d)?)(?:\s*[x×]\s*(\d{1,3}))?(?![a-z0-9])", re.IGNORECASE)
_FASTENERS = {"bolt", "screw", "nut", "washer", "stud"}
_LENGTH = re.compile(r"(?<![\w.,])(\d{1,4}(?:[.,]\d{1,3})?)\s?(mm|cm|in|inch)(?![a-z])", re.IGNORECASE)
_WORDS = re.compile(r"[a-z]+")
#: Things whose names say that they are part of something else: a door handle is no door.
_PARTS = {
    "handle",
    "frame",
    "leaf",
    "knob",
    "panel",
    "lock",
    "hinge",
    "stop",
    "glass",
    "pane",
    "bracket",
    "bolt",
    "screw",
    "leg",
    "sill",
}


@dataclass(frozen=True)
class Clue:
    """Something whose size is known about: `sides` in source coordinates, of which one lies between `least` and `most`
    metres, or between two of `others`; `exact` where it is named to the millimetre. `upright` are its extents along the
    source's axes."""

    said: str
    sides: tuple[float, ...]
    least: float
    most: float
    exact: bool = False
    upright: tuple[float, float, float] | None = None
    thing: Thing | None = None
    others: tuple[tuple[float, float], ...] = ()

    def fits(self, metres: float) -> bool:
        """Whether it makes sense where one coordinate is so many metres."""
        return self.likely(metres) > 0

    def likely(self, metres: float) -> float:
        """How well it makes sense there: 1 in the middle of what is usual, 0 outside."""
        best = 0.0
        for least, most in ((self.least, self.most), *self.others):
            for side in self.sides:
                if least <= side * metres <= most:
                    aside = abs(math.log(side * metres / math.sqrt(least * most)))
                    best = max(best, 1 - 0.9 * aside / math.log(math.sqrt(most / least)))
        return best


def clues_of(model: Model) -> list[Clue]:
    """All that a source holds."""
    found = list(_sheet(model))
    world = model.world()
    seen: dict[tuple[int, str | None], int] = {}
    for index, node in enumerate(model.nodes[:_LOOKED_AT]):
        if node.part < 0 or node.tags.kind != "body" or not model.parts[node.part].body.has_surface:
            continue
        part = model.parts[node.part]
        case = (node.part, node.tags.ifc_class)
        seen[case] = seen.get(case, 0) + 1
        if seen[case] > 1:
            continue
        extents = _extents(part.box, world[index])
        sides = tuple(sorted(_sides(part.box, world[index])))
        if not sides[2] > 0:
            continue
        found += _named(part.name or node.name, node.tags.ifc_class, sides, extents)
        if isinstance(part.body, Exact):
            size = float(np.linalg.norm(world[index][:3, 0]))
            for radius, count in part.body.holes:
                found.append(Clue(f"each of {count} equal holes", (2 * radius * size,), *_HOLES))
    return [*found, *_storeys(model, world)]


def _extents(box: Matrix, place: Matrix) -> tuple[float, float, float]:
    """Along the source's axes, of a box that stands at a place."""
    x, y, z = (np.abs(place[:3, :3]) @ (box[1] - box[0])).tolist()
    return x, y, z


def _sides(box: Matrix, place: Matrix) -> list[float]:
    """Of the box itself, as large as it is where it stands."""
    told: list[float] = ((box[1] - box[0]) * np.linalg.norm(place[:3, :3], axis=0)).tolist()
    return told


def _named(
    name: str, ifc_class: str | None, sides: tuple[float, ...], extents: tuple[float, float, float]
) -> Iterator[Clue]:
    kind, words = _read(name)
    thread = _THREAD.search(name)
    if thread and words & _FASTENERS:
        yield from _thread(name, float(thread[1]) / 1000, float(thread[2]) / 1000 if thread[2] else None, words, sides)
        return
    for number, word in _LENGTH.findall(name):
        metres = float(number.replace(",", ".")) * float(UNITS[word.lower() if word.lower() != "inch" else "in"].metres)
        if metres > 0:
            yield Clue(f"“{name[:40]}”", sides, metres * 0.985, metres * 1.015, exact=True)
    thing = _CLASSES.get(ifc_class or "") or kind
    if thing is not None:
        side = sides[2] if thing.side == "largest" else sides[0]
        yield Clue(thing.word, (side,), thing.least, thing.most, upright=extents, thing=thing)


def _thread(name: str, across: float, long: float | None, words: set[str], sides: tuple[float, ...]) -> Iterator[Clue]:
    """Heads and nuts are 1.4 to 2.2 times as wide as their thread (ISO 4014, 4032, 4762), washers 1.8 to 3.2 times."""
    told = f"“{name[:40]}”"
    if words & {"bolt", "screw", "stud"}:
        yield Clue(told, sides[:2], 0.85 * across, 2.4 * across, exact=True)
        if long:
            yield Clue(told, sides[2:], 0.95 * long, long + 1.6 * across, exact=True)
    else:
        yield Clue(told, sides[1:], 1.4 * across, 3.4 * across, exact=True)


@lru_cache(maxsize=20_000)
def _read(name: str) -> tuple[Thing | None, set[str]]:
    """The thing that a name speaks of, and its words: the last that is one, as in "kitchen chair"."""
    words = _WORDS.findall(re.sub(r"(?<=[a-z])(?=[A-Z])", " ", name).lower())
    words = [word if word in _THINGS or not word.endswith("s") else word[:-1] for word in words]
    thing = next((_THINGS[word] for word in reversed(words) if word in _THINGS), None)
    if thing is not None and thing.word not in _PARTS and _PARTS & set(words):
        thing = None
    return thing, set(words)


def _sheet(model: Model) -> Iterator[Clue]:
    """The paper that it was drawn on."""
    if model.page is None:
        return
    short, long = sorted((model.page[1] - model.page[0]).tolist())
    if not short > 0:
        return
    alike = [high / 1000 for wide, high in _SHEETS.values() if abs(long / short / (high / wide) - 1) < 0.01]
    if alike:
        first, *others = [(high * 0.985, high * 1.015) for high in alike]
        yield Clue("its sheet of paper", (long,), *first, exact=True, others=tuple(others))


def _storeys(model: Model, world: Matrix) -> Iterator[Clue]:
    """Heights from storey to storey, where a building has any."""
    names = {node.tags.storey for node in model.nodes if node.tags.storey}
    axis = {"x": 0, "y": 1, "z": 2}[(model.up or "z")[-1]]
    levels = sorted({
        round(float(world[i, axis, 3]), 6) for i, node in enumerate(model.nodes) if node.part < 0 and node.name in names
    })  # fmt: skip
    steps = [above - below for below, above in pairwise(levels) if above > below]
    if steps:
        yield Clue("height of a storey", tuple(steps), 1.8, 12)
