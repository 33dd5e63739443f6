"""Sort: which material every surface wears, and which rule said so. Works on rows, not on triangles."""

from collections.abc import Container
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.choose.take import Taken
from hemp_ladder.core.model.material import UNDECIDED, Palette, look_id, source_id
from hemp_ladder.core.model.model import Colour, Part
from hemp_ladder.core.sort.palette import palette_of, stands_for
from hemp_ladder.core.sort.settings import Rule, SortSettings
from hemp_ladder.core.sort.table import NONE, Table, table_of

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

    def opaque(self) -> NDArray[np.bool_]:
        """(p,) whether nothing shows through what a placement wears, pictures aside that say so."""
        through = {
            id_ for dress in self.dresses for id_ in dress.materials
            if (finish := self.palette[id_].finish).opacity_mode != "opaque" or finish.transmission > 0
        }  # fmt: skip
        plain = np.array([through.isdisjoint(dress.materials) for dress in self.dresses], bool)
        return plain[self.dress_of] if len(plain) else np.zeros(0, bool)

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
    # A material that is no more, as after another revision, leaves a loose end.
    rules = [(number, rule) for number, rule in enumerate(settings.rules) if rule.material in palette]
    table = table_of(rules, model, rows)
    dress = _Dresser(table, settings, columns.colours, model.looks, palette)
    many_looks = np.array([bool(part.face_colours or part.face_styles) for part in model.parts], dtype=bool)
    part, colour = columns.part[rows], columns.colour[rows]
    # Which parts have a style matters only to rules by style, and where a source says how it looks.
    style = np.zeros(len(model.parts), np.int64)
    if table.styles or model.looks:
        codes = {word: code for code, word in enumerate(dict.fromkeys(item.style for item in model.parts))}
        style = np.array([codes[item.style] for item in model.parts], np.int64)
    # Placements that agree in these wear the same; of parts with looks of their own faces, also in the part.
    own = np.where(many_looks[part], part + 1, 0) if len(part) else np.zeros(0, np.int64)
    first, answer_of = _alike([table.rows, table.zone, colour, own, style[part] if len(part) else own])
    dresses: dict[Dress, int] = {}
    answers = np.zeros(len(first), dtype=np.int64)
    # In the order of first use, so that what is listed does not jump when a rule changes.
    for number in np.argsort(first, kind="stable"):
        row = first[number]
        answers[number] = dresses.setdefault(
            dress(model.parts[part[row]], (int(table.rows[row]), int(table.zone[row])), int(colour[row])), len(dresses)
        )
    return Sorted(
        columns.node[rows], part, answers[answer_of], list(dresses), columns.layer[rows], columns.layers, palette
    )  # fmt: skip


def _alike(columns: list[NDArray[np.integer]]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Of rows given as columns: where the first of each kind stands, and the number of each row's kind."""
    number = np.zeros(len(columns[0]), np.int64)
    first = np.zeros(0, np.int64)
    for column in columns:
        least = int(column.min(initial=0))
        span = int(column.max(initial=0)) - least + 1
        if span > 1 << 20:  # the number of no rule lies far behind the others
            column = np.unique(column, return_inverse=True)[1]
            least, span = 0, int(column.max(initial=0)) + 1
        _, first, number = np.unique(number * span + (column - least), return_index=True, return_inverse=True)
    return first, number


class _Dresser:
    """Works out what a placement wears from the first rule for it beside its looks, and its colour."""

    def __init__(
        self,
        table: Table,
        settings: SortSettings,
        colours: list[Colour | None],
        looks: Container[str],
        palette: Palette,
    ) -> None:
        self._table, self._settings, self._colours, self._looks = table, settings, colours, looks
        self._palette = palette

    def __call__(self, part: Part, rule: tuple[int, int], colour_code: int) -> Dress:
        colour = self._colours[colour_code]
        if not part.face_colours and not part.face_styles:
            material, decided_by = self._decide(rule, colour, part.style)
            return Dress((material,), (decided_by,))
        looks = {
            face: (part.face_colours.get(face, colour), part.face_styles.get(face, part.style))
            for face in sorted({*part.face_colours, *part.face_styles})
        }
        # A part whose every face has a look of its own shows nothing of the rest.
        covered = len(looks) == part.body.face_count
        slots: dict[tuple[str, int], int] = {} if covered else {self._decide(rule, colour, part.style): 0}
        answers = {look: self._decide(rule, *look) for look in dict.fromkeys(looks.values())}
        face_slots = [(face, slots.setdefault(answers[look], len(slots))) for face, look in looks.items()]
        decided = list(slots)
        return Dress(
            tuple(material for material, _ in decided),
            tuple(rule for _, rule in decided),
            tuple((face, slot) for face, slot in face_slots if slot),
        )

    def _decide(self, rule: tuple[int, int], colour: Colour | None, style: str | None) -> tuple[str, int]:
        material, why = self._first(rule, colour, style)
        return (stands_for(self._settings, self._palette, material) if self._settings.replaced else material), why

    def _first(self, rule: tuple[int, int], colour: Colour | None, style: str | None) -> tuple[str, int]:
        """`rule`: the first beside those by look, and the zone."""
        first = min(rule[0], self._table.of_look(colour, style, rule[1]))
        if first < NONE:
            return self._settings.rules[first].material, first
        if self._settings.keep_source and style is not None and style in self._looks:
            return look_id(style), BY_SOURCE
        if self._settings.keep_source and colour is not None:
            return source_id(colour), BY_SOURCE
        return UNDECIDED.id, BY_NOTHING
