"""Sort: which material every surface wears, and which rule said so.

Works on rows, not on triangles. Placements that agree in part, layer, colour
and name share one answer, so 3,000 placements of 300 parts ask the table 300
times.
"""

import fnmatch
import re
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.choose.take import Taken
from hemp_ladder.core.material import UNDECIDED, Palette, source_id
from hemp_ladder.core.model import Colour, Part, Tags
from hemp_ladder.core.sort.palette import palette_of
from hemp_ladder.core.sort.settings import Rule, SortSettings

__all__ = ["Dress", "Rule", "SortSettings", "Sorted", "climb_sort"]

#: `Dress.rules`: the source's own colour decided; nothing decided.
BY_SOURCE, BY_NOTHING = -1, -2


@dataclass(frozen=True)
class Dress:
    """What one placement wears: material ids, the faces each covers, the rules that decided.

    `materials[0]` covers every face that `face_slots` does not name;
    `rules[k]` is the index of the rule that gave `materials[k]`, or
    BY_SOURCE or BY_NOTHING.
    """

    materials: tuple[str, ...]
    rules: tuple[int, ...]
    face_slots: tuple[tuple[int, int], ...] = ()

    @property
    def loose(self) -> bool:
        return BY_NOTHING in self.rules


@dataclass(frozen=True)
class Sorted:
    """What every placement that entered wears.

    placements, parts  (p,) indices of nodes and of parts
    dress_of           (p,) index into `dresses`, which holds each combination once
    layer_of           (p,) index into `layers`: the layer in force
    palette            every material that could be worn, by id
    """

    placements: NDArray[np.int32]
    parts: NDArray[np.int32]
    dress_of: NDArray[np.int64]
    dresses: list[Dress]
    layer_of: NDArray[np.int32]
    layers: list[str | None]
    palette: Palette

    def loose_parts(self) -> list[int]:
        """Indices of the parts with at least one loose placement."""
        loose = np.array([dress.loose for dress in self.dresses], dtype=bool)
        return np.unique(self.parts[loose[self.dress_of]]).tolist() if len(self.dresses) else []

    def materials(self) -> list[str]:
        """Ids of all materials in use, in order of first use."""
        return list(dict.fromkeys(m for dress in self.dresses for m in dress.materials))


def climb_sort(taken: Taken, settings: SortSettings) -> Sorted:
    """Hold every surface against the table of rules; the first rule that matches decides.

    A face's own colour comes before its placement's, and that before the
    part's. Layer and colour of a group reach down to what stands in it
    unless something nearer has its own.
    """
    model, columns = taken.model, taken.model.columns
    rows = taken.rows
    palette = palette_of(model, settings)
    table = [(rule, _matcher(rule)) for rule in settings.rules]
    name = (
        columns.name[rows] if any(rule.by == "name" for rule in settings.rules) else np.zeros_like(columns.name[rows])
    )
    asked = np.column_stack([columns.part[rows], columns.layer[rows], columns.colour[rows], columns.tags[rows], name])
    questions, first, answer_of = np.unique(asked, axis=0, return_index=True, return_inverse=True)
    dresses: dict[Dress, int] = {}
    answers = np.zeros(len(questions), dtype=np.int64)
    # In the order of first use, so that what is listed does not jump when a rule changes.
    for number in np.argsort(first, kind="stable"):
        part, layer, colour, tags, name_code = (int(code) for code in questions[number])
        asked_of = Asked(
            model.parts[part], columns.names[name_code], columns.layers[layer], columns.colours[colour],
            None, columns.all_tags[tags],
        )  # fmt: skip
        answers[number] = dresses.setdefault(_dress(asked_of, table, settings.keep_source, palette), len(dresses))
    return Sorted(
        columns.node[rows], columns.part[rows], answers[answer_of.reshape(-1)], list(dresses),
        columns.layer[rows], columns.layers, palette,
    )  # fmt: skip


@dataclass(frozen=True)
class Asked:
    """What a rule may look at: a part, its placement's name, and the layer, colour, style and tags in force."""

    part: Part
    name: str
    layer: str | None
    colour: Colour | None
    style: str | None
    tags: Tags


_Matcher = Callable[[Asked], bool]


def _matcher(rule: Rule) -> _Matcher:
    wanted = rule.match
    if rule.by == "name":
        pattern = re.compile(fnmatch.translate(wanted), re.IGNORECASE)
        return lambda asked: bool(pattern.match(asked.part.name) or pattern.match(asked.name))
    if rule.by == "colour":
        wanted = wanted.lower()
    return lambda asked: wanted in _LOOKS_AT[rule.by](asked)


_LOOKS_AT: dict[str, Callable[[Asked], tuple[str | None, ...]]] = {
    "layer": lambda asked: (asked.layer,),
    "colour": lambda asked: (asked.colour.hex if asked.colour else None,),
    "part": lambda asked: (asked.part.decided_as,),
    "class": lambda asked: (asked.tags.ifc_class,),
    "storey": lambda asked: (asked.tags.storey,),
    "substance": lambda asked: asked.tags.materials,
    "style": lambda asked: (asked.style,),
}


def _dress(asked: Asked, table: list[tuple[Rule, _Matcher]], keep_source: bool, palette: Palette) -> Dress:
    part = asked.part

    def decide(colour: Colour | None, style: str | None) -> tuple[str, int]:
        shown = replace(asked, colour=colour, style=style)
        for number, (rule, matches) in enumerate(table):
            # A material that is no more, as after another revision, leaves a loose end.
            if matches(shown) and rule.material in palette:
                return rule.material, number
        if keep_source and colour is not None:
            return source_id(colour), BY_SOURCE
        return UNDECIDED.id, BY_NOTHING

    looks = {
        face: (part.face_colours.get(face, asked.colour), part.face_styles.get(face, part.style))
        for face in sorted({*part.face_colours, *part.face_styles})
    }
    # A part whose every face has a look of its own shows nothing of the rest.
    covered = len(looks) == part.body.face_count
    slots: dict[tuple[str, int], int] = {} if covered else {decide(asked.colour, part.style): 0}
    answers = {look: decide(*look) for look in dict.fromkeys(looks.values())}
    face_slots = [(face, slots.setdefault(answers[look], len(slots))) for face, look in looks.items()]
    decided = list(slots)
    return Dress(
        tuple(material for material, _ in decided),
        tuple(rule for _, rule in decided),
        tuple((face, slot) for face, slot in face_slots if slot),
    )
