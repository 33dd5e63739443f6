"""Locked parts: what a change of the decisions does to them, so that it can be refused."""

from collections.abc import Iterator
from typing import Any

from pydantic import BaseModel

from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.findings import clip, plural
from hemp_ladder.core.refs import refs_in

#: Fields that say whom an entry is for; two entries that agree in all others are the same for whoever is in both.
_WHOM = ("parts", "match", "part", "of")
#: What may change about a locked part: a selection changes nothing.
_FREE = ("locked", "selections")


def refuse_locked(before: Decisions, after: Decisions) -> None:
    """Raises SettingsError where an entry that names a locked part comes, goes or changes; rules by layer and the like hold
    for locked parts as for others."""
    locked = set(before.sort.locked) & set(after.sort.locked)
    if not locked:
        return
    touched = sorted(locked & set(_changed(before, after)))
    if touched:
        names = ", ".join(f"“{clip(ref.rpartition(' ·')[0] or ref, 40)}”" for ref in touched[:3])
        more = f" and {plural(len(touched) - 3, 'more part')}" if len(touched) > 3 else ""
        raise SettingsError(f"Locked: {names}{more}.", "Unlock what is to change, or leave it out of what is chosen.")


def _changed(before: Any, after: Any) -> Iterator[str]:
    """References to parts in what differs."""
    if before is after or before == after:
        return
    if isinstance(before, BaseModel) and type(before) is type(after):
        for name in type(before).model_fields:
            if name in _FREE:
                continue
            was, now = getattr(before, name), getattr(after, name)
            if isinstance(was, frozenset) and isinstance(now, frozenset):
                yield from was ^ now
            elif isinstance(was, tuple) and isinstance(now, tuple):
                yield from _entries(was, now)
            else:
                yield from _changed(was, now)
    elif isinstance(before, dict) and isinstance(after, dict):
        for key in before.keys() | after.keys():
            if before.get(key) != after.get(key):
                yield from (ref for item in (before.get(key), after.get(key)) for ref in _refs(item))
    else:
        yield from (ref for item in (before, after) for ref in _refs(item))


def _entries(was: tuple[Any, ...], now: tuple[Any, ...]) -> Iterator[str]:
    there, then = _by_content(was), _by_content(now)
    for key in there.keys() | then.keys():
        yield from there.get(key, set()) ^ then.get(key, set())


def _by_content(entries: tuple[Any, ...]) -> dict[str, set[str]]:
    """For what entries say, whom they say it of."""
    found: dict[str, set[str]] = {}
    for item in entries:
        if isinstance(item, BaseModel):
            told = repr([(name, value) for name, value in item if name not in _WHOM])
            found.setdefault(told, set()).update(_refs(item))
    return found


def _refs(item: Any) -> set[str]:
    if not isinstance(item, BaseModel):
        return set()
    return {ref for what, ref in refs_in(item) if what == "part"}
