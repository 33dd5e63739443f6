"""The table of rules as look-ups: for every layer, colour, class and so on, the first rule that names it.

Which rule decides is then the least of a few numbers, for all placements at
once, however many rules there are: the first that matches is the first of
those that match by any of the things a rule can look at.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.choose.settings import Choice, TakeBy
from hemp_ladder.core.choose.take import matching, of_source
from hemp_ladder.core.model.join import Joined
from hemp_ladder.core.model.model import Colour
from hemp_ladder.core.sort.settings import Rule, Within

#: The number of no rule: behind all that there are.
NONE = np.int64(1 << 40)
_NONE = int(NONE)
#: Columns of so many limits are told apart at once.
_BITS = 40
Numbers = NDArray[np.int64]
Mask = NDArray[np.bool_]
#: Rules by a look in their order, each with the number of its limit, -1 for none.
_Looks = dict[tuple[str, str], list[tuple[int, int]]]


@dataclass(frozen=True)
class Table:
    """First rules by what they look at.

    rows    (r,) of each placement, by all but its colour and the style of its part
    looks   rules that look at colours and styles, by which of both and the word
    zone    (r,) which zone each placement stands in; zones differ in which limits hold
    zones   for each zone the limits that hold
    """

    rows: Numbers
    looks: _Looks
    zone: Numbers
    zones: list[frozenset[int]]

    @property
    def styles(self) -> bool:
        """Whether any rule looks at styles."""
        return any(by == "style" for by, _ in self.looks)

    def of_look(self, colour: Colour | None, style: str | None, zone: int) -> int:
        """The first rule that names the colour or the style of a look, and holds in a zone."""
        if not self.looks:
            return _NONE
        told = [*self.looks.get(("colour", colour.hex), ())] if colour is not None else []
        told += self.looks.get(("style", style), ()) if style is not None else ()
        return min((number for number, limit in told if limit < 0 or limit in self.zones[zone]), default=_NONE)


def table_of(rules: Sequence[tuple[int, Rule]], model: Joined, rows: NDArray[np.int64]) -> Table:
    """Look-ups for rules, given with their numbers in their order, over rows of the model's columns."""
    columns, parts = model.columns, model.parts
    by: dict[str, dict[str, int]] = {}
    patterns: list[tuple[int, Rule]] = []
    looks: _Looks = {}
    limited: list[tuple[int, Rule]] = []
    limits: dict[Within, int] = {}
    for number, rule in rules:
        if rule.by in ("colour", "style"):
            limit = limits.setdefault(rule.within, len(limits)) if rule.within else -1
            for word in rule.match:
                looks.setdefault((rule.by, word.lower() if rule.by == "colour" else word), []).append((number, limit))
        elif rule.within:
            limited.append((number, rule))
        elif rule.by == "name":
            patterns.append((number, rule))
        else:
            for word in rule.match:
                by.setdefault(rule.by, {}).setdefault(word, number)
    first = np.full(len(rows), NONE)

    def hold(codes: NDArray[np.integer], numbers: Iterable[int]) -> None:
        np.minimum(first, np.fromiter(numbers, np.int64)[codes[rows]], out=first)

    def least(words: Iterable[str | None], told: dict[str, int]) -> int:
        return min((told.get(word, _NONE) for word in words if word is not None), default=_NONE)

    if told := by.get("layer"):
        hold(columns.layer, (least((layer,), told) for layer in columns.layers))
    if told := by.get("part"):
        hold(columns.part, (least((part.decided_as,), told) for part in parts))
    for name, words in _TAGS.items():
        if told := by.get(name):
            hold(columns.tags, [least(words(tags), told) for tags in columns.all_tags])
    where = lru_cache(maxsize=None)(lambda within: within_mask(model, within)[rows])
    for number, rule in patterns:
        np.minimum(first, np.where(_named(model, rule.match)[rows], number, NONE), out=first)
    for number, rule in limited:
        np.minimum(first, np.where(met(model, rule)[rows] & where(rule.within), number, NONE), out=first)
    return Table(first, looks, *_zones(len(rows), [where(within) for within in limits]))


def met(model: Joined, rule: Rule) -> Mask:
    """(p,) which placements a rule matches by what it looks at, wherever it holds; those with a single face of a colour or
    style too."""
    columns, words = model.columns, set(rule.match)
    if rule.by == "name":
        return _named(model, rule.match)
    if rule.by == "layer":
        return _of(columns.layer, [layer in words for layer in columns.layers])
    if rule.by == "part":
        return _of(columns.part, [part.decided_as in words for part in model.parts])
    if rule.by == "colour":
        wanted = {word.lower() for word in words}
        on_faces = [
            bool(part.face_colours) and any(c.hex in wanted for c in part.face_colours.values()) for part in model.parts
        ]
        plain = [colour is not None and colour.hex in wanted for colour in columns.colours]
        return _of(columns.colour, plain) | _of(columns.part, on_faces)
    if rule.by == "style":
        return _of(
            columns.part,
            [part.style in words or not words.isdisjoint(part.face_styles.values()) for part in model.parts],
        )
    told = _TAGS[rule.by]
    return _of(columns.tags, [any(word in words for word in told(tags)) for tags in columns.all_tags])


def within_mask(model: Joined, within: Within) -> Mask:
    """(p,) which placements a limit holds for."""
    mask = of_source(model, within.source)
    told: list[tuple[TakeBy, str | None]] = [("storey", within.storey), ("group", within.group)]
    for by, word in told:
        if word is not None:
            mask = mask & matching(model, Choice(by=by, match=word))
    return mask


def _named(model: Joined, patterns: Iterable[str]) -> Mask:
    columns = model.columns
    named, of_part = np.zeros(len(columns.names), bool), np.zeros(len(model.parts), bool)
    for pattern in patterns:
        named = named | columns.named.matching(pattern)
        of_part = of_part | columns.part_names.matching(pattern)
    return _of(columns.name, named) | _of(columns.part, of_part)


def _of(codes: NDArray[np.int32], wanted: Sequence[bool] | Mask) -> Mask:
    return np.asarray(wanted, bool)[codes] if len(codes) else np.zeros(0, bool)


def _zones(rows: int, masks: Sequence[Mask]) -> tuple[Numbers, list[frozenset[int]]]:
    """For each row the number of its zone, and for each zone which of the masks hold there."""
    zone, zones = np.zeros(rows, np.int64), [frozenset[int]()]
    for start in range(0, len(masks), _BITS):
        some = masks[start : start + _BITS]
        bits = sum((mask.astype(np.int64) << k for k, mask in enumerate(some)), np.zeros(rows, np.int64))
        kinds, own = np.unique(bits, return_inverse=True)
        pairs, zone = np.unique(zone * len(kinds) + own, return_inverse=True)
        zones = [
            zones[pair // len(kinds)] | {start + k for k in range(len(some)) if int(kinds[pair % len(kinds)]) >> k & 1}
            for pair in pairs.tolist()
        ]
    return zone, zones


_TAGS: dict[str, Callable[..., Iterable[str | None]]] = {
    "class": lambda tags: (tags.ifc_class,),
    "storey": lambda tags: (tags.storey,),
    "substance": lambda tags: tags.materials,
}
