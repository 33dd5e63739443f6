"""Renaming in bulk: names by templates, clashes numbered, and what is already well named kept where that is wished."""

import re
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.sort.order.settings import FIELD, Rename, Whom, compiled

#: Names longer than this are cut.
LONGEST = 200
#: Seconds that all the names of one step may take to be held against its pattern.
_PATIENCE = 2.0
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

    def words(field: str, at: int) -> str:
        if field not in known:
            known[field] = fields[field]()
        return known[field][at]

    touched = [False] * len(now)
    for step in steps:
        replace = _replacing(step)
        used = set(FIELD.findall(step.to))
        number = step.start
        for at, wanted in enumerate(met(step.whom).tolist()):
            if not wanted or (step.keep_good and not says_nothing(now[at])):
                continue
            told = {field: now[at] if field == "name" else "" if field == "n" else words(field, at) for field in used}
            if "n" in used:
                told["n"] = f"{number:0{step.digits}d}"
            new = replace(now[at], told)
            if new is not None:
                number += 1
                now[at] = new
                touched[at] = True
    return _settled(list(names), now, touched, kinds)


def _replacing(step: Rename) -> Callable[[str, Mapping[str, str]], str | None]:
    """What a step makes of a name; None where it finds nothing in it."""

    def filled(told: Mapping[str, str], escape: bool = False) -> str:
        return FIELD.sub(lambda found: told[found[1]].replace("\\", r"\\") if escape else told[found[1]], step.to)

    if not step.find:
        return lambda _, told: filled(told)
    if not step.pattern:
        return lambda name, told: name.replace(step.find, filled(told)) if step.find in name else None
    expression = compiled(step.find)
    until = time.monotonic() + _PATIENCE

    def by_pattern(name: str, told: Mapping[str, str]) -> str | None:
        try:
            new, count = expression.subn(filled(told, True), name, timeout=max(until - time.monotonic(), 1e-3))
        except TimeoutError as error:
            raise SettingsError(
                f"The pattern “{step.find[:60]}” takes too long; it may never end.", "Say it more simply."
            ) from error
        except (IndexError, ValueError, re.error, _pattern_error()) as error:
            raise SettingsError(f"“{step.to[:60]}” names a group that the pattern does not have.") from error
        return new if count else None

    return by_pattern


def _pattern_error() -> type[Exception]:
    import regex

    return regex.error  # type: ignore[no-any-return]


def _settled(before: list[str], now: list[str], touched: list[bool], kinds: Sequence[object]) -> Named:
    """Names on one line and not overlong; what was told apart before is told apart by a number where it clashes now."""
    cut = clashes = 0
    owner: dict[str, tuple[str, object]] = {}
    for at, name in enumerate(before):
        if not touched[at]:
            owner.setdefault(name, (name, kinds[at]))
    called: dict[tuple[str, str, object], str] = {}
    counts: dict[str, int] = {}
    for at, name in enumerate(now):
        if not touched[at]:
            continue
        plain = " ".join("".join(c if c.isprintable() else " " for c in name).split())
        if len(plain) > LONGEST:
            plain, cut = plain[:LONGEST].rstrip(), cut + 1
        plain = plain or before[at] or "unnamed"
        mine = (before[at], kinds[at])
        key = (plain, *mine)
        if key not in called:
            free = plain
            if owner.get(free, mine) != mine:
                clashes += 1
                number = counts.get(plain, 1)
                while owner.get(free, mine) != mine:
                    number += 1
                    free = f"{plain} {number}"
                counts[plain] = number
            owner[free] = mine
            called[key] = free
        now[at] = called[key]
    return Named(now, cut, clashes)
