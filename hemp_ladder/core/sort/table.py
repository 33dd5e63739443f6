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
        elif rule.by in ("name", "placement"):
            patterns.append((number, rule))
        else:
            for word in rule.match:
                by.setdefault(rule.by, {}).setdefault(word, number)
    first = np.full(len(rows), NONE)

    def hold(codes: NDArray[np.integer], numbers: Iterable[int]) -> None:
        least = numbers if isinstance(numbers, np.ndarray) else np.fromiter(numbers, np.int64)
        if len(codes):
            np.minimum(first, least[codes[rows]], out=first)

    def least(words: Iterable[str | None], told: dict[str, int]) -> int:
        return min((told.get(word, _NONE) for word in words if word is not None), default=_NONE)

    if told := by.get("layer"):
        hold(columns.layer, (least((layer,), told) for layer in columns.layers))
    if told := by.get("part"):
        hold(columns.part, (least((part.decided_as,), told) for part in parts))
    for name, words in _TAGS.items():
        if told := by.get(name):
            hold(columns.tags, [least(words(tags), told) for tags in columns.all_tags])
    _hold_patterns(model, patterns, hold)
    where = lru_cache(maxsize=None)(lambda within: within_mask(model, within)[rows])
    spots = lru_cache(maxsize=None)(lambda within: np.flatnonzero(where(within)))
    for number, rule in limited:
        # Only where it holds is looked at.
        at = spots(rule.within)
        hit = at[_met_at(model, rule, rows[at])]
        first[hit] = np.minimum(first[hit], number)
    return Table(first, looks, *_zones(len(rows), [where(within) for within in limits]))


def _hold_patterns(
    model: Joined, rules: Sequence[tuple[int, Rule]], hold: Callable[[NDArray[np.integer], NDArray[np.int64]], None]
) -> None:
    """Rules that look at names, of placements and of parts, and at single placements: the first for each of those."""
    columns = model.columns
    of_name, of_part = np.full(len(columns.names), NONE), np.full(len(model.parts), NONE)
    single = [(number, rule) for number, rule in rules if rule.by == "placement"]
    for number, rule in rules:
        for pattern in rule.match if rule.by == "name" else ():
            for least, names in ((of_name, columns.named), (of_part, model.part_names)):
                at = names.found(pattern)
                least[at] = np.minimum(least[at], number)
    if len(single) < len(rules):
        hold(columns.name, of_name)
        hold(columns.part, of_part)
    if single:
        numbers: dict[str, int] = {}
        for number, rule in single:
            for word in rule.match:
                numbers.setdefault(word, number)
        least = np.fromiter((numbers.get(ref, _NONE) for ref in model.node_refs), np.int64, len(model.nodes))
        hold(columns.node, least)


def met(model: Joined, rule: Rule) -> Mask:
    """(p,) which placements a rule matches by what it looks at, wherever it holds; those with a single face of a colour or
    style too."""
    return _met_at(model, rule, slice(None))


def _met_at(model: Joined, rule: Rule, at: NDArray[np.int64] | slice) -> Mask:
    """The same of some placements, by their rows."""
    found = None
    for codes, wanted in _wanted(model, rule):
        hit = _of(codes[at], wanted)
        found = hit if found is None else found | hit
    return found if found is not None else np.zeros(0, bool)


def _wanted(model: Joined, rule: Rule) -> list[tuple[NDArray[np.int32], Sequence[bool] | Mask]]:
    """What a rule matches: columns, and for each of their codes whether it does; any of them is enough."""
    columns, words = model.columns, set(rule.match)
    if rule.by == "name":
        named, of_part = np.zeros(len(columns.names), bool), np.zeros(len(model.parts), bool)
        for pattern in rule.match:
            named = named | columns.named.matching(pattern)
            of_part = of_part | model.part_names.matching(pattern)
        return [(columns.name, named), (columns.part, of_part)]
    if rule.by == "placement":
        return [(columns.node, [ref in words for ref in model.node_refs])]
    if rule.by == "layer":
        return [(columns.layer, [layer in words for layer in columns.layers])]
    if rule.by == "part":
        return [(columns.part, [part.decided_as in words for part in model.parts])]
    if rule.by == "colour":
        wanted = {word.lower() for word in words}
        on_faces = [
            bool(part.face_colours) and any(c.hex in wanted for c in part.face_colours.values()) for part in model.parts
        ]
        plain = [colour is not None and colour.hex in wanted for colour in columns.colours]
        return [(columns.colour, plain), (columns.part, on_faces)]
    if rule.by == "style":
        styled = [part.style in words or not words.isdisjoint(part.face_styles.values()) for part in model.parts]
        return [(columns.part, styled)]
    told = _TAGS[rule.by]
    return [(columns.tags, [any(word in words for word in told(tags)) for tags in columns.all_tags])]


def within_mask(model: Joined, within: Within) -> Mask:
    """(p,) which placements a limit holds for."""
    mask = of_source(model, within.source)
    told: list[tuple[TakeBy, str | None]] = [("storey", within.storey), ("group", within.group)]
    for by, word in told:
        if word is not None:
            mask = mask & matching(model, Choice(by=by, match=word))
    return mask


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
