"""What the board of rules shows: what each rule decides and what keeps it from it, every value that occurs with what it
wears, and why one surface wears what it does."""

from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.choose.take import Taken
from hemp_ladder.core.sort import Dress, Sorted
from hemp_ladder.core.sort.settings import By, Rule, SortSettings
from hemp_ladder.core.sort.spots import Spots

#: In words of a rule so many of what it matches are named.
_NAMED = 3
#: Values of one kind that are listed, those first that most placements have.
MOST_VALUES = 2000
LOOKED_AT: tuple[By, ...] = ("layer", "class", "storey", "substance", "style", "colour", "name", "part")


def said(rule: Rule) -> str:
    """What a rule looks at, in words: `layer Steel`, `name “bolt*”`, `class Wall or Slab, in storey 1`."""
    shown = [f"“{word}”" if rule.by == "name" else word for word in rule.match[:_NAMED]]
    rest = len(rule.match) - len(shown)
    words = " or ".join([*shown, *([f"{rest:,} more"] if rest else [])])
    where = rule.within
    limits = [
        text
        for text in (
            where and where.source and f"source {where.source}", where and where.storey and f"storey {where.storey}",
            where and where.group and f"group {where.group}",
        ) if text
    ]  # fmt: skip
    return f"{rule.by} {words}" + (f", in {' and '.join(limits)}" if limits else "")


@dataclass(frozen=True)
class RuleTold:
    """What a rule comes to: placements and triangles that it decides, in part at least; placements that it matches; of
    those that it does not decide, how many each other rule does, by its number, the most first; whether the material it
    gives is there."""

    placements: int
    triangles: int
    matches: int
    shadowed_by: tuple[tuple[int, int], ...]
    known: bool


def rules_told(taken: Taken, sorted_: Sorted, settings: SortSettings, triangles: Sequence[int]) -> list[RuleTold]:
    """Of every rule; `triangles` of one placement of each part, 0 where it is not made."""
    each = np.asarray(triangles, np.int64)[sorted_.parts] if len(sorted_.parts) else np.zeros(0, np.int64)
    placements = np.bincount(sorted_.dress_of, minlength=len(sorted_.dresses))
    weight = np.bincount(sorted_.dress_of, each, len(sorted_.dresses)).astype(np.int64)
    by_rule: dict[int, list[int]] = {}
    for number, dress in enumerate(sorted_.dresses):
        for decider in dict.fromkeys(dress.rules):
            by_rule.setdefault(decider, []).append(number)
    told, spots = [], Spots(taken.model, taken.rows)
    for number, rule in enumerate(settings.rules):
        mine = by_rule.get(number, [])
        matched = spots.of(rule)
        decided = set(mine)
        others: Counter[int] = Counter()
        kinds, lost = np.unique(sorted_.dress_of[matched], return_counts=True)
        for at, count in zip(kinds.tolist(), lost.tolist(), strict=True):
            if at in decided:
                continue
            for other in dict.fromkeys(r for r in sorted_.dresses[at].rules if 0 <= r < number):
                others[other] += count
        told.append(
            RuleTold(
                int(placements[mine].sum()), int(weight[mine].sum()), len(matched),
                tuple(others.most_common()), rule.material in sorted_.palette,
            )
        )  # fmt: skip
    return told


@dataclass(frozen=True)
class Value:
    """Something that rules can look at: how many placements and triangles have it, what those wear now, by material with
    the placements, the most first, and the rules that gave it."""

    value: str
    placements: int
    triangles: int
    worn: tuple[tuple[str, int], ...]
    rules: tuple[int, ...]


def values_of(taken: Taken, sorted_: Sorted, by: By, triangles: Sequence[int]) -> list[Value]:
    """Every value of a kind that occurs among what entered, the most frequent first."""
    codes, words, face = _codes_of(taken, by)
    rows = taken.rows
    each = np.asarray(triangles, np.int64)[sorted_.parts] if len(rows) else np.zeros(0, np.int64)
    count = len(sorted_.dresses)
    pairs, own = np.unique(codes * max(count, 1) + sorted_.dress_of, return_inverse=True)
    numbers = np.bincount(own, minlength=len(pairs)).tolist()
    weights = np.bincount(own, each, len(pairs)).astype(np.int64).tolist()
    placements: Counter[str] = Counter()
    made: Counter[str] = Counter()
    worn: dict[str, Counter[str]] = {}
    rules: dict[str, dict[int, None]] = {}
    known: dict[int, list[str]] = {}
    for pair, number, weight in zip(pairs.tolist(), numbers, weights, strict=True):
        code, dress = pair // max(count, 1), sorted_.dresses[pair % max(count, 1)]
        if code not in known:
            known[code] = list(words(code))
        for word in known[code]:
            placements[word] += number
            made[word] += weight
            for slot in face(code, word, dress):
                worn.setdefault(word, Counter())[dress.materials[slot]] += number
                rules.setdefault(word, {})[dress.rules[slot]] = None
    return [
        Value(word, number, made[word], tuple(worn[word].most_common()), tuple(r for r in rules[word] if r >= 0))
        for word, number in placements.most_common(MOST_VALUES)
    ]


_Words = Callable[[int], Iterable[str]]
#: Takes a code, a word and what is worn; gives the slots of it that surfaces with that word have.
_Slots = Callable[[int, str, Dress], Iterable[int]]


def _codes_of(taken: Taken, by: By) -> tuple[NDArray[np.int64], _Words, _Slots]:
    """A code for every row, the words that each code stands for, and where those are worn."""
    model, columns, rows = taken.model, taken.model.columns, taken.rows
    part = columns.part[rows].astype(np.int64)

    def everywhere(_code: int, _word: str, dress: Dress) -> Iterable[int]:
        return range(len(dress.materials))

    if by == "layer":
        return columns.layer[rows].astype(np.int64), _known(columns.layers), everywhere
    if by in ("class", "storey", "substance"):
        told: dict[str, list[tuple[str | None, ...]]] = {
            "class": [(tags.ifc_class,) for tags in columns.all_tags],
            "storey": [(tags.storey,) for tags in columns.all_tags],
            "substance": [tags.materials for tags in columns.all_tags],
        }
        return (
            columns.tags[rows].astype(np.int64), lambda code: [word for word in told[by][code] if word], everywhere
        )  # fmt: skip
    if by == "name":
        return part, lambda code: [model.parts[code].name] if model.parts[code].name else [], everywhere
    if by == "part":
        return part, lambda code: [model.parts[code].decided_as], everywhere
    if by == "placement":
        refs = model.node_refs
        return columns.node[rows].astype(np.int64), lambda code: [refs[code]], everywhere
    if by == "style":
        return (
            part,
            lambda code: [w for w in dict.fromkeys((model.parts[code].style, *model.parts[code].face_styles.values())) if w],
            lambda code, word, dress: _slots(
                dress, [f for f, style in model.parts[code].face_styles.items() if style == word],
                model.parts[code].style == word,
            ),
        )  # fmt: skip
    span = len(columns.colours) or 1
    colours = columns.colours
    plain = [colour.hex if colour is not None else None for colour in colours]

    def of_colour(code: int) -> list[str]:
        own = colours[code % span]
        return list(
            dict.fromkeys(
                [*([own.hex] if own else []), *(c.hex for c in model.parts[code // span].face_colours.values())]
            )
        )

    def slots(code: int, word: str, dress: Dress) -> Iterable[int]:
        looks = model.parts[code // span].face_colours
        if not looks:
            return range(len(dress.materials))
        return _slots(dress, [face for face, c in looks.items() if c.hex == word], plain[code % span] == word)

    return part * span + columns.colour[rows], of_colour, slots


def _known(words: Sequence[str | None]) -> _Words:
    return lambda code: [word] if (word := words[code]) else []


def _slots(dress: Dress, faces: Sequence[int], rest: bool) -> list[int]:
    """Slots of these faces, and of what has no look of its own."""
    own = dict(dress.face_slots)
    return list(dict.fromkeys([*([0] if rest else []), *(own.get(face, 0) for face in faces)]))


def kinds_of(taken: Taken) -> dict[By, int]:
    """Of each kind of value how many occur among what entered; kinds without any are left out."""
    found: dict[By, int] = {}
    for by in LOOKED_AT:
        codes, words, _ = _codes_of(taken, by)
        found[by] = len({word for code in np.unique(codes).tolist() for word in words(code)})
    return {by: count for by, count in found.items() if count}


def deciders(taken: Taken, sorted_: Sorted, rule: Rule) -> list[int]:
    """The numbers of the rules that decide about what a rule matches."""
    dresses = np.unique(sorted_.dress_of[Spots(taken.model, taken.rows).of(rule)]).tolist()
    return sorted({number for at in dresses for number in sorted_.dresses[at].rules if number >= 0})


@dataclass(frozen=True)
class Reason:
    """A rule that speaks of a placement: its number, the material it gives, and whether it decided."""

    rule: int
    material: str
    decided: bool


def reasons(taken: Taken, sorted_: Sorted, settings: SortSettings, node: int) -> tuple[Dress, list[Reason]]:
    """What a placement wears, and every rule that speaks of it in their order. Raises KeyError where it did not enter."""
    at = np.flatnonzero(sorted_.placements == node)
    if not len(at):
        raise KeyError(node)
    row = int(taken.rows[at[0]])
    dress = sorted_.dresses[sorted_.dress_of[at[0]]]
    spots = Spots(taken.model, np.array([row]))
    found = [
        Reason(number, rule.material, number in dress.rules)
        for number, rule in enumerate(settings.rules)
        if len(spots.of(rule))
    ]
    return dress, found


def differences(before: Sorted, after: Sorted) -> list[tuple[str, str, int]]:
    """Where two tables dress the same placements otherwise: what they wore, what they wear then, and how many, the most
    first. Of what wears several its first other one is told."""
    pairs, counts = np.unique(
        before.dress_of * max(len(after.dresses), 1) + after.dress_of, return_counts=True
    )  # fmt: skip
    found: Counter[tuple[str, str]] = Counter()
    for pair, count in zip(pairs.tolist(), counts.tolist(), strict=True):
        one, two = before.dresses[pair // len(after.dresses)], after.dresses[pair % len(after.dresses)]
        if one.materials != two.materials or one.face_slots != two.face_slots:
            gone = next((m for m in one.materials if m not in two.materials), one.materials[0])
            new = next((m for m in two.materials if m not in one.materials), two.materials[0])
            found[gone, new] += count
    return [(gone, new, count) for (gone, new), count in found.most_common()]


def loose_placements(sorted_: Sorted) -> int:
    """Placements with a surface that has no material."""
    loose = np.array([dress.loose for dress in sorted_.dresses], bool)
    return int(np.count_nonzero(loose[sorted_.dress_of])) if len(loose) else 0
