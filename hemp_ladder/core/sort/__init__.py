"""Sort: which material every surface wears, and which rule said so.

Works on rows, not on triangles. Placements that agree in part, layer, colour
and name share one answer, so 3,000 placements of 300 parts ask the table 300
times.
"""

import fnmatch
import re
from collections.abc import Callable
from dataclasses import dataclass

from hemp_ladder.core.model import Colour, Model, Part
from hemp_ladder.core.sort.library import UNDECIDED
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
    """One dress for each placement, in the order of `Model.placements`; layers and colours in force."""

    placements: list[int]
    dresses: list[Dress]
    layers: list[str | None]
    colours: list[Colour | None]

    def loose_parts(self, model: Model) -> list[int]:
        """Indices of the parts with at least one loose placement."""
        found = {
            model.nodes[node].part for node, dress in zip(self.placements, self.dresses, strict=True) if dress.loose
        }
        return sorted(found)

    def materials(self) -> list[str]:
        """Ids of all materials in use, in order of first use."""
        return list(dict.fromkeys(m for dress in self.dresses for m in dress.materials))


def climb_sort(model: Model, settings: SortSettings) -> Sorted:
    """Hold every surface against the table of rules; the first rule that matches decides.

    A face's own colour comes before its placement's, and that before the
    part's. Layer and colour of a group reach down to what stands in it
    unless something nearer has its own.
    """
    layers, colours = _inherited(model)
    table = [(rule, _matcher(rule)) for rule in settings.rules]
    answers: dict[tuple[int, str | None, Colour | None, str], Dress] = {}
    by_name = any(rule.by == "name" for rule in settings.rules)
    placements = model.placements
    dresses: list[Dress] = []
    for index in placements:
        node = model.nodes[index]
        part = model.parts[node.part]
        question = (node.part, layers[index], colours[index], node.name if by_name else "")
        if question not in answers:
            answers[question] = _dress(part, node.name, layers[index], colours[index], table, settings)
        dresses.append(answers[question])
    return Sorted(placements, dresses, [layers[i] for i in placements], [colours[i] for i in placements])


def _inherited(model: Model) -> tuple[list[str | None], list[Colour | None]]:
    layers: list[str | None] = []
    colours: list[Colour | None] = []
    from_above: list[tuple[str | None, Colour | None]] = []
    for node in model.nodes:
        above = from_above[node.parent] if node.parent >= 0 else (None, None)
        passed = (node.layer or above[0], node.colour or above[1])
        from_above.append(passed)
        part = model.parts[node.part] if node.part >= 0 else None
        layers.append(node.layer or (part.layer if part else None) or above[0])
        colours.append(node.colour or (part.colour if part else None) or above[1])
    return layers, colours


_Matcher = Callable[[Part, str, str | None, Colour | None], bool]


def _matcher(rule: Rule) -> _Matcher:
    if rule.by == "layer":
        return lambda part, name, layer, colour: layer == rule.match
    if rule.by == "colour":
        wanted = rule.match.lower()
        return lambda part, name, layer, colour: colour is not None and colour.hex == wanted
    if rule.by == "part":
        return lambda part, name, layer, colour: part.ref == rule.match
    pattern = re.compile(fnmatch.translate(rule.match), re.IGNORECASE)
    return lambda part, name, layer, colour: bool(pattern.match(part.name) or pattern.match(name))


def _dress(
    part: Part,
    name: str,
    layer: str | None,
    colour: Colour | None,
    table: list[tuple[Rule, _Matcher]],
    settings: SortSettings,
) -> Dress:
    def decide(shown: Colour | None) -> tuple[str, int]:
        for number, (rule, matches) in enumerate(table):
            if matches(part, name, layer, shown):
                return rule.material, number
        if settings.keep_source and shown is not None:
            return f"source:{shown.hex}", BY_SOURCE
        return UNDECIDED.id, BY_NOTHING

    # A part whose every face has a colour of its own shows nothing of the rest.
    covered = len(part.face_colours) == part.faces
    slots: dict[tuple[str, int], int] = {} if covered else {decide(colour): 0}
    answers = {shown: decide(shown) for shown in set(part.face_colours.values())}
    face_slots = [
        (face, slots.setdefault(answers[shown], len(slots))) for face, shown in sorted(part.face_colours.items())
    ]
    decided = list(slots)
    return Dress(
        tuple(material for material, _ in decided),
        tuple(rule for _, rule in decided),
        tuple((face, slot) for face, slot in face_slots if slot),
    )
