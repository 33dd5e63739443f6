"""Renaming in bulk: names by templates, clashes numbered, and what is already well named kept where that is wished."""

import re
import time
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import repeat
from typing import Any

import numpy as np

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.sort.order.settings import FIELD, Rename, Whom, compiled

#: Names longer than this are cut.
LONGEST = 200
#: Seconds that all the names of one step may take to be held against its pattern.
_PATIENCE = 5.0
#: In what a pattern gives: a backslash that stands for itself, or the number of a group.
_GROUP = re.compile(r"\\\\|\\(\d{1,2})")
#: Names that say nothing: what modellers number when nobody names it, bare numbers, long hexadecimal keys (common practice).
_SAYS_NOTHING = re.compile(
    r"(?:(?:solid|body|part|mesh|object|component|comp|shape|geometry|geom|volume|compound|shell|surface|face|group|node|"
    r"element|instance|item|entity|block|default|unnamed|untitled|no ?name|copy|new|brep|polymesh|polysurface|extrude|"
    r"boss|k(?:oe|ö)rper|teil|pi[eè]ce|corps|pieza|s[oó]lido|corpo|parte)?[\s_.:#-]*\(?[\dx_.:#-]*\)?"
    r"|(?=.*\d)[0-9a-f-]{16,}|(?=.*\d)[0-9a-zA-Z_$]{22})",
    re.IGNORECASE,
)


@dataclass(frozen=True)
class Named:
    """The names of things after all steps; how many were cut short, and clashes that were solved by a number."""

    names: list[str]
    cut: int = 0
    clashes: int = 0


@lru_cache(maxsize=200_000)
def says_nothing(name: str) -> bool:
    """Whether a name is none: empty, a bare number, `Solid1`, `Body 42`, a long key."""
    plain = name.strip()
    return (_SAYS_NOTHING.fullmatch(plain) is not None and not plain.isalpha()) or not plain or plain.lower() in _BARE


_BARE = frozenset(
    [
        "solid",
        "body",
        "part",
        "mesh",
        "object",
        "component",
        "shape",
        "geometry",
        "volume",
        "compound",
        "unnamed",
        "untitled",
        "default",
    ]
)


def renamed(
    names: Sequence[str], steps: Sequence[Rename], met: Callable[[Whom], Any], fields: Mapping[str, Callable[[], Sequence[str]]],
    kinds: Sequence[object],
) -> Named:  # fmt: skip
    """Names after steps in their order. `met` gives a mask for whom; `fields` the words of each field for all; `kinds` what
    tells things apart besides their names, as parts do placements: things that were alike in name and kind may stay so.

    Raises SettingsError for a pattern that takes too long.
    """
    now = list(names)
    known: dict[str, Sequence[str]] = {}

    def words(field: str) -> Sequence[str]:
        if field not in known:
            known[field] = fields[field]()
        return known[field]

    touched = [False] * len(now)
    for step in steps:
        at = np.flatnonzero(met(step.whom)).tolist()
        if step.keep_good:
            at = [k for k in at if says_nothing(now[k])]
        old = [now[k] for k in at]
        found = _found(step, old)
        some = [k for k, hit in zip(at, found, strict=True) if hit]
        old = [name for name, hit in zip(old, found, strict=True) if hit]
        told: dict[str, Sequence[str]] = {"name": old}
        for field in set(FIELD.findall(step.to)) - {"name", "n"}:
            given = words(field)
            told[field] = [given[k] for k in some]
        if "{n}" in step.to:
            told["n"] = list(map(f"%0{step.digits}d".__mod__, range(step.start, step.start + len(some))))
        for k, new in zip(some, _replaced(step, old, told), strict=True):
            now[k] = new
            touched[k] = True
    return _settled(list(names), now, touched, kinds)


def _found(step: Rename, names: Sequence[str]) -> Sequence[bool]:
    """Which names hold what a step looks for."""
    if not step.find:
        return [True] * len(names)
    if not step.pattern:
        return [step.find in name for name in names]
    expression, until = compiled(step.find), time.monotonic() + _PATIENCE
    try:
        return [expression.search(name, timeout=max(until - time.monotonic(), 1e-3)) is not None for name in names]
    except TimeoutError as error:
        raise _endless(step) from error


def _replaced(step: Rename, names: Sequence[str], told: Mapping[str, Sequence[str]]) -> Iterable[str]:
    """What a step makes of names that hold what it looks for; `told` are the words of fields for each."""
    # A number of a group must not run into what a field puts behind it.
    to = _GROUP.sub(lambda found: rf"\g<{found[1]}>" if found[1] else found[0], step.to) if step.pattern else step.to
    pieces = FIELD.split(to)
    columns: list[Iterable[str]] = [
        told[piece] if at % 2 else repeat(piece, len(names)) for at, piece in enumerate(pieces)
    ]  # fmt: skip
    if step.pattern:
        columns = [(word.replace("\\", r"\\") for word in c) if k % 2 else c for k, c in enumerate(columns)]
    texts = map("".join, zip(*columns, strict=True)) if len(pieces) > 1 else repeat(to, len(names))
    if not step.find:
        return texts
    if not step.pattern:
        return (name.replace(step.find, text) for name, text in zip(names, texts, strict=False))
    return list(_by_pattern(step, names, texts))


def _by_pattern(step: Rename, names: Sequence[str], texts: Iterable[str]) -> Iterator[str]:
    expression, until = compiled(step.find), time.monotonic() + _PATIENCE
    try:
        for name, text in zip(names, texts, strict=False):
            yield expression.sub(text, name, timeout=max(until - time.monotonic(), 1e-3))
    except TimeoutError as error:
        raise _endless(step) from error
    except (IndexError, ValueError, re.error, _pattern_error()) as error:
        raise SettingsError(f"“{step.to[:60]}” names a group that the pattern does not have.") from error


def _endless(step: Rename) -> SettingsError:
    return SettingsError(f"The pattern “{step.find[:60]}” takes too long; it may never end.", "Say it more simply.")


def _pattern_error() -> type[Exception]:
    import regex

    return regex.error  # type: ignore[no-any-return]


def _settled(before: list[str], now: list[str], touched: list[bool], kinds: Sequence[object]) -> Named:
    """Names on one line and not overlong; what was told apart before is told apart by a number where it clashes now."""
    fresh = [name for name, new in zip(now, touched, strict=True) if new]
    if _all_well(fresh) and len(set(fresh)) == len(fresh):
        others = {name for name, new in zip(before, touched, strict=True) if not new}
        if others.isdisjoint(fresh):
            return Named(now)
    cut = clashes = 0
    owner: dict[str, tuple[str, object]] = {}
    for name, kind, new in zip(before, kinds, touched, strict=True):
        if not new:
            owner.setdefault(name, (name, kind))
    called: dict[tuple[str, str, object], str] = {}
    counts: dict[str, int] = {}
    for at, (name, was, kind, new) in enumerate(zip(now, before, kinds, touched, strict=True)):
        if not new:
            continue
        plain = name if name.isprintable() and "  " not in name and name == name.strip() else _on_a_line(name)
        if len(plain) > LONGEST:
            plain, cut = plain[:LONGEST].rstrip(), cut + 1
        plain = plain or was or "unnamed"
        mine = (was, kind)
        if owner.setdefault(plain, mine) == mine:
            now[at] = plain
            continue
        key = (plain, *mine)
        if key not in called:
            clashes += 1
            number = counts.get(plain, 1) + 1
            while owner.setdefault(f"{plain} {number}", mine) != mine:
                number += 1
            counts[plain] = number
            called[key] = f"{plain} {number}"
        now[at] = called[key]
    return Named(now, cut, clashes)


def _all_well(names: Sequence[str]) -> bool:
    """Whether all names are on one line, not overlong, not empty and without a space too many; looked at as one text."""
    text = "\n".join(names)
    return (
        text.replace("\n", "").isprintable() and text.count("\n") == max(len(names) - 1, 0)
        and not any(end in f"\n{text}\n" for end in ("  ", "\n ", " \n", "\n\n")) and max(map(len, names), default=0) <= LONGEST
    )  # fmt: skip


def _on_a_line(name: str) -> str:
    return " ".join("".join(letter if letter.isprintable() else " " for letter in name).split())
