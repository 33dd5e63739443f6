"""The job's own tree: which placements stand together, over the source's tree, which is never lost."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.choose.take import Taken
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.sort import Sorted
from hemp_ladder.core.sort.order.settings import Level, OrderSettings
from hemp_ladder.core.sort.order.whom import whom_mask

#: What stands without a layer, class or storey, by level, where a group needs a name.
_WITHOUT = {
    "layer": "no layer",
    "class": "no class",
    "storey": "no storey",
    "assembly": "alone",
    "material": "undecided",
}


@dataclass(frozen=True)
class Stand:
    """A group in its tree: its id, name, the index of the group it stands in, -1 at the top, and its pivot."""

    id: str
    name: str
    parent: int
    pivot: tuple[float, float, float] | None = None


@dataclass(frozen=True)
class Ordered:
    """Groups, each behind the one it stands in, and for each placement that entered the index of its group, -1 at the
    top."""

    groups: list[Stand]
    of: NDArray[np.int64]

    @property
    def counts(self) -> list[int]:
        """Placements in each group, with all that stand in groups in it."""
        found = np.bincount(self.of[self.of >= 0], minlength=len(self.groups)).astype(np.int64)
        for index in range(len(self.groups) - 1, -1, -1):
            if self.groups[index].parent >= 0:
                found[self.groups[index].parent] += found[index]
        return found.tolist()  # type: ignore[no-any-return]


def ordered(taken: Taken, sorted_: Sorted, settings: OrderSettings) -> Ordered:
    """The tree in force. Groups that nothing stands in are left out, but for the job's own.

    Raises SettingsError where a group would stand in itself.
    """
    names: dict[str, str] = {}
    above: dict[str, str] = {}
    pivots = {group.id: group.pivot for group in settings.groups}
    ids, own = (
        _by_levels(taken, sorted_, settings.by, names, above)
        if settings.by
        else _as_it_came(taken, settings.flat, names, above)
    )
    for group in settings.groups:
        names[group.id], above[group.id] = group.name, group.parent
    for entry in settings.gathered:
        if entry.into in names or not entry.into:
            own[whom_mask(taken, sorted_, entry.whom)] = len(ids)
            ids.append(entry.into)
    above |= {id_: parent for id_, parent in settings.under.items() if id_ in names and (parent in names or not parent)}
    names |= {id_: name for id_, name in settings.called.items() if id_ in names}
    _refuse_circles(above, names)
    opened = set(settings.opened)

    def stands_in(id_: str) -> str:
        """The nearest group that is left, from one on."""
        while id_ and (id_ in opened or id_ not in names):
            id_ = above.get(id_, "")
        return id_

    kinds, own = np.unique(own, return_inverse=True)
    # By their ids, so that the order of groups does not hang on how they came about.
    ends = [stands_in(ids[kind]) for kind in kinds.tolist()]
    told = sorted(zip((ids[kind] for kind in kinds.tolist()), ends, strict=True))
    wanted = [*(group.id for group in settings.groups if group.id not in opened), *(end for _, end in told)]
    index = {"": -1}
    groups: list[Stand] = []
    for id_ in wanted:
        for step in reversed(_up(id_, above, stands_in)):
            if step not in index:
                index[step] = len(groups)
                groups.append(Stand(step, names[step], index[stands_in(above.get(step, ""))], pivots.get(step)))
    of = np.array([index[id_] for id_ in ends], np.int64)[own] if len(own) else np.zeros(0, np.int64)
    return Ordered(groups, of)


def _up(id_: str, above: dict[str, str], stands_in: Callable[[str], str]) -> list[str]:
    """A group and those that it stands in, from it up."""
    found = []
    while id_:
        found.append(id_)
        id_ = stands_in(above.get(id_, ""))
    return found


def _refuse_circles(above: dict[str, str], names: dict[str, str]) -> None:
    done: set[str] = set()
    for start in above:
        seen: set[str] = set()
        at = start
        while at and at not in done:
            if at in seen:
                raise SettingsError(
                    f"The group “{names.get(at, at)[:60]}” would stand in itself.", "Move it elsewhere."
                )
            seen.add(at)
            at = above.get(at, "")
        done.update(seen)


def _by_levels(
    taken: Taken, sorted_: Sorted, levels: Sequence[Level], names: dict[str, str], above: dict[str, str]
) -> tuple[list[str], NDArray[np.int64]]:
    """Ids of groups by what placements have, level in level; for each placement the number of its own."""
    number = np.zeros(len(taken.rows), np.int64)
    ids = [""]
    for level in levels:
        codes, words = level_codes(taken, sorted_, level)
        pairs, number = np.unique(number * max(len(words), 1) + codes, return_inverse=True)
        fresh = []
        for pair in pairs.tolist():
            outer, (key, name) = ids[pair // max(len(words), 1)], words[pair % max(len(words), 1)]
            id_ = f"{outer or 'by:'}{'/' if outer else ''}{level}={key}"
            names[id_], above[id_] = name, outer
            fresh.append(id_)
        ids = fresh
    return ids, number.astype(np.int64)


def level_codes(taken: Taken, sorted_: Sorted, level: Level) -> tuple[NDArray[np.int64], list[tuple[str, str]]]:
    """For each placement the number of what it has at a level; and for each number its key and its name."""
    model, columns, rows = taken.model, taken.model.columns, taken.rows
    none = _WITHOUT.get(level, "none")
    if level == "layer":
        return columns.layer[rows].astype(np.int64), [(word or "", word or none) for word in columns.layers]
    if level in ("class", "storey"):
        told = [tags.ifc_class if level == "class" else tags.storey for tags in columns.all_tags]
        words = list(dict.fromkeys(word or "" for word in told))
        code = np.array([words.index(word or "") for word in told], np.int64)
        return code[columns.tags[rows]], [(word, word or none) for word in words]
    if level == "source":
        owners = model.member_of_node[sorted_.placements].astype(np.int64)
        return owners, [(piece.ref, piece.given.name) for piece in model.members]
    if level == "material":
        ids = list(dict.fromkeys(dress.materials[0] for dress in sorted_.dresses))
        code = np.array([ids.index(dress.materials[0]) for dress in sorted_.dresses], np.int64)
        return code[sorted_.dress_of], [(id_, sorted_.palette[id_].name) for id_ in ids]
    parents = model.parents[sorted_.placements]
    kinds, code = np.unique(parents, return_inverse=True)
    refs = model.node_refs
    return code, [
        (refs[at], model.nodes[at].name or "group") if at >= 0 else ("", none) for at in kinds.tolist()
    ]  # fmt: skip


def _as_it_came(
    taken: Taken, flat: bool, names: dict[str, str], above: dict[str, str]
) -> tuple[list[str], NDArray[np.int64]]:
    """Ids of the nodes above placements in the source's tree; for each placement the number of its own."""
    model, placements = taken.model, taken.placements
    if flat or not len(placements):
        return [""], np.zeros(len(placements), np.int64)
    refs = model.node_refs
    parents, own = np.unique(model.parents[placements], return_inverse=True)
    ids = []
    for parent in parents.tolist():
        id_ = f"at:{refs[parent]}" if parent >= 0 else ""
        ids.append(id_)
        while parent >= 0 and id_ not in names:
            names[id_] = model.nodes[parent].name or "group"
            parent = model.nodes[parent].parent
            above[id_] = id_ = f"at:{refs[parent]}" if parent >= 0 else ""
    return ids, own.astype(np.int64)
