"""The table of rules as look-ups: for every layer, colour, class and so on, the first rule that names it.

Which rule decides is then the least of a few numbers, for all placements at
once, however many rules there are: the first that matches is the first of
those that match by any of the things a rule can look at.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.model.columns import Columns
from hemp_ladder.core.model.model import Colour, Part
from hemp_ladder.core.sort.settings import Rule

#: The number of no rule: behind all that there are.
NONE = np.int64(1 << 40)
_NONE = int(NONE)
Numbers = NDArray[np.int64]


@dataclass(frozen=True)
class Table:
    """First rules by what they look at.

    rows     (r,) of each placement, by all but its colour and the style of its part
    colours  by `#rrggbb`
    styles   by the source's name for a look
    """

    rows: Numbers
    colours: dict[str, int]
    styles: dict[str, int]

    def of_look(self, colour: Colour | None, style: str | None) -> int:
        """The first rule that names the colour or the style of a look."""
        by_colour = self.colours.get(colour.hex, _NONE) if self.colours and colour is not None else _NONE
        return min(by_colour, self.styles.get(style, _NONE) if style is not None else _NONE)


def table_of(
    rules: Sequence[tuple[int, Rule]], parts: Sequence[Part], columns: Columns, rows: NDArray[np.int64]
) -> Table:
    """Look-ups for rules, given with their numbers in their order, over rows of the columns."""
    by: dict[str, dict[str, int]] = {}
    patterns: list[tuple[int, str]] = []
    for number, rule in rules:
        if rule.by == "name":
            patterns.append((number, rule.match))
        else:
            word = rule.match.lower() if rule.by == "colour" else rule.match
            by.setdefault(rule.by, {}).setdefault(word, number)
    first = np.full(len(rows), NONE)

    def hold(codes: NDArray[np.integer], numbers: Iterable[int]) -> None:
        np.minimum(first, np.fromiter(numbers, np.int64)[codes[rows]], out=first)

    def least(words: Iterable[str | None], told: dict[str, int]) -> int:
        return min((told.get(word, int(NONE)) for word in words if word is not None), default=int(NONE))

    if told := by.get("layer"):
        hold(columns.layer, (least((layer,), told) for layer in columns.layers))
    if told := by.get("part"):
        hold(columns.part, (least((part.decided_as,), told) for part in parts))
    for name, words in _TAGS.items():
        if told := by.get(name):
            hold(columns.tags, [least(words(tags), told) for tags in columns.all_tags])
    for place, pattern in reversed(patterns):
        named = columns.named.matching(pattern)
        of_part = columns.part_names.matching(pattern)
        np.minimum(first, np.where(named[columns.name[rows]] | of_part[columns.part[rows]], place, NONE), out=first)
    return Table(first, by.get("colour", {}), by.get("style", {}))


_TAGS: dict[str, Callable[..., Iterable[str | None]]] = {
    "class": lambda tags: (tags.ifc_class,),
    "storey": lambda tags: (tags.storey,),
    "substance": lambda tags: tags.materials,
}
