"""What the order comes to: the names of placements and parts, and the tree that they stand in."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.choose.take import Taken
from hemp_ladder.core.sort import Sorted
from hemp_ladder.core.sort.order.groups import Ordered, level_codes, ordered
from hemp_ladder.core.sort.order.names import Named, renamed
from hemp_ladder.core.sort.order.settings import Level, Rename, Whom
from hemp_ladder.core.sort.order.whom import whom_mask
from hemp_ladder.core.sort.settings import SortSettings


@dataclass(frozen=True)
class Order:
    """names    of every placement that entered, and how many were cut or numbered; None where none was renamed
    parts    of parts by index, those that differ from their labels
    tree     the job's own, None where all stands as the source has it
    """

    names: Named | None
    parts: dict[int, str]
    tree: Ordered | None


def climb_order(taken: Taken, sorted_: Sorted, settings: SortSettings) -> Order:
    """The order in force. Raises SettingsError for a pattern that never ends, or a group that would stand in itself."""
    tree = None if settings.order.plain else ordered(taken, sorted_, settings.order)
    if not settings.names:
        return Order(None, {}, tree)
    return Order(
        placements_named(taken, sorted_, settings.names), _parts_named(taken, sorted_, settings.names), tree
    )  # fmt: skip


def first_names(taken: Taken) -> list[str]:
    """What placements that entered are called as they came: by their own name, else by their part's."""
    model = taken.model
    return [model.nodes[node].name or model.parts[model.nodes[node].part].label for node in taken.placements.tolist()]


def placements_named(taken: Taken, sorted_: Sorted, steps: Sequence[Rename]) -> Named:
    """The names of all placements that entered after these steps."""
    fields = _fields(taken, sorted_, np.arange(len(taken.rows)))
    return renamed(
        first_names(taken), steps, lambda whom: whom_mask(taken, sorted_, whom), fields, sorted_.parts.tolist()
    )


def _parts_named(taken: Taken, sorted_: Sorted, steps: Sequence[Rename]) -> dict[int, str]:
    """Parts are renamed as their first placements are, by their own labels."""
    model = taken.model
    parts, first = np.unique(sorted_.parts, return_index=True)
    order = np.argsort(first)
    parts, first = parts[order], first[order]
    labels = [model.parts[part].label for part in parts.tolist()]

    def met(whom: Whom) -> NDArray[np.bool_]:
        mask = whom_mask(taken, sorted_, whom)
        return np.bincount(sorted_.parts[mask], minlength=len(model.parts))[parts] > 0

    told = renamed(labels, steps, met, _fields(taken, sorted_, first), range(len(parts)))
    return {
        part: new for part, old, new in zip(parts.tolist(), labels, told.names, strict=True) if new != old
    }  # fmt: skip


def _fields(
    taken: Taken, sorted_: Sorted, rows: NDArray[np.integer]
) -> dict[str, Callable[[], Sequence[str]]]:  # fmt: skip
    """The words that templates may name, for some of the placements that entered."""

    def by(level: Level) -> Callable[[], Sequence[str]]:
        def words() -> list[str]:
            codes, told = level_codes(taken, sorted_, level)
            # What has none is called nothing here, not "no layer".
            named = [name if key else "" for key, name in told]
            return [named[code] for code in codes[rows].tolist()]

        return words

    levels: tuple[Level, ...] = ("layer", "material", "class", "storey", "source")
    labels = [part.label for part in taken.model.parts]
    return {level: by(level) for level in levels} | {
        "part": lambda: [labels[part] for part in sorted_.parts[rows].tolist()]
    }  # fmt: skip
