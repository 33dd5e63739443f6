"""What one state of the decisions changed of another, in words."""

from collections.abc import Iterator, Mapping
from typing import Any

from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.findings import clip, plural
from hemp_ladder.core.units import say_metric

#: More lines than these are counted instead of told.
_MOST_LINES = 8
#: Settings whose name in the document is not what a person calls them.
_CALLED = {
    "chord": "chord error", "degrees": "angle", "up": "up axis", "close": "gaps closed up to", "match": "of",
    "without": "left out whole", "also": "taken though usually left out", "without_copies": "copies left out",
    "keep_source": "colours of the source kept", "steps": "operations", "flipped": "parts turned over",
    "longest": "longest edge", "shortest": "shortest edge", "even": "long thin triangles cut across, more of a part", "coarser": "lighter level, times the chord error", "datum": "origin",
    "each": "length of one coordinate", "tip": "turn about X and Y", "turn": "turn about Z", "mirrored": "axes left-handed",
    "ground": "lowest point on the ground", "lift": "height above the ground", "into_mesh": "places into every mesh",
    "into_mesh_parts": "places into the mesh of", "lost": "change of shape that is too much", "view": "seen for deviations",
    "limit": "limits", "beside": "level beside it", "draw_calls": "draw calls", "pixels": "side of pictures",
    "made": "worked out for", "seen": "what lookouts show:",
    "hold": "shape held to", "notes": "measurements", "hand": "handedness",
}  # fmt: skip
#: What lists and tables hold, one and several.
_ITEMS = {
    "choices": ("choice", "choices"), "rows": ("row", "rows"), "rules": ("rule", "rules"),
    "materials": ("material", "materials"), "levels": ("level", "levels"), "steps": ("operation", "operations"),
    "without": ("source", "sources"), "flipped": ("part", "parts"), "parts": ("part", "parts"),
    "sources": ("source", "sources"), "also": ("kind", "kinds"), "notes": ("measurement", "measurements"),
    "lookouts": ("lookout", "lookouts"), "into_mesh_parts": ("part", "parts"),
    "turned": ("turn by hand", "turns by hand"), "apart": ("shell taken out", "shells taken out"),
    "names": ("step of naming", "steps of naming"), "groups": ("group", "groups"), "shared": ("copy", "copies"),
    "gathered": ("gathering", "gatherings"), "opened": ("group taken away", "groups taken away"),
    "selections": ("selection", "selections"), "locked": ("locked part", "locked parts"),
    "joined": ("joined part", "joined parts"), "kinds": ("kind of damage", "kinds of damage"),
}  # fmt: skip
#: Lists that stand for sets, and come in any order.
_SETS = {"without", "also", "flipped", "into_mesh_parts", "locked"}
_LENGTHS = {
    "metres",
    "width",
    "each",
    "lift",
    "yardstick",
    "close",
    "nozzle",
    "tolerance",
    "height",
    "wall",
    "stroke",
    "reach",
    "size",
    "error",
    "longest",
    "shortest",
}
_UNNAMED = {"metres", "kind", "does"}
#: What of an item tells it from none of its neighbours.
_UNTOLD = {"take", "source", "id", "pattern", "start", "digits", "keep_good"}
#: What of an exception says for whom it holds.
_WHOM = ("by", "parts", "match", "source", "size")
#: What of an exception goes without saying.
_NOTHING = {"made": "hand", "pinned": False}


def changes(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[str]:
    """What differs between two documents of decisions, as they are stored: each line names a rung, a setting, and what
    it was and is. Only rungs that differ are looked into, for a document can hold thousands of rules."""
    lines = []
    for rung, section in Decisions.model_fields.items():
        was, now = before.get(rung, {}), after.get(rung, {})
        if was != now and section.annotation is not None:
            # What an earlier version did not know yet has its start value.
            was, now = (section.annotation.model_validate(told).model_dump(mode="json") for told in (was, now))
            lines += [f"{rung.capitalize()}: {line}" for line in _differ([], was, now)]
    more = len(lines) - _MOST_LINES
    return lines if more <= 0 else [*lines[:_MOST_LINES], f"and {plural(more, 'change')} more"]


def _differ(path: list[str], was: Any, now: Any) -> Iterator[str]:
    if was == now:
        return
    if path and path[-1] == "lookouts":
        # None are those that came with the sources.
        was, now = was or [], now or []
    if isinstance(was, dict) and isinstance(now, dict):
        if path and path[-1] == "sources":
            yield from _entries(path, was, now)
            return
        for name in dict.fromkeys([*was, *now]):
            yield from _differ([*path, name], was.get(name), now.get(name))
    elif path and path[-1] == "exceptions":
        yield from _exceptions(was, now)
    elif isinstance(was, list) and isinstance(now, list) and path[-1] in _ITEMS:
        if path[-1] not in _SETS or sorted(was) != sorted(now):
            yield _counted(path, was, now)
    elif isinstance(was, dict) or isinstance(now, dict) or path[-1] == "region":
        yield f"{_name(path)} {'taken away' if now is None else 'set' if was is None else 'changed'}"
    else:
        if was is None or now is None:
            yield f"{_name(path)} {'no longer set' if now is None else f'set to {_said(path, now)}'}"
        else:
            yield f"{_name(path)} from {_said(path, was)} to {_said(path, now)}"


def _entries(path: list[str], was: dict[str, Any], now: dict[str, Any]) -> Iterator[str]:
    """Of a table by part or source: the one that differs is told, several are counted."""
    differ = [key for key in dict.fromkeys([*was, *now]) if was.get(key) != now.get(key)]
    one, several = _ITEMS[path[-1]]
    if len(differ) > 1:
        yield f"settings of {plural(len(differ), one, several)} of their own"
    else:
        key = differ[0]
        for line in _differ([], was.get(key) or {}, now.get(key) or {}):
            yield f"“{clip(key, 40)}” {line}"


def _exceptions(was: list[Any], now: list[Any]) -> Iterator[str]:
    """Of the list of who differs: the one entry that does otherwise than before is told, several are counted."""
    before, after = ({repr([item.get(name) for name in _WHOM]): item for item in items} for items in (was, now))
    differ = [key for key in dict.fromkeys([*before, *after]) if before.get(key) != after.get(key)]
    if not differ:
        yield "order of exceptions"
    elif len(differ) == 1:
        old, new = (
            {k: v for k, v in (items.get(differ[0]) or {}).items() if k not in _WHOM and _NOTHING.get(k) != v}
            for items in (before, after)
        )
        whom = _whom(after.get(differ[0]) or before[differ[0]])
        for name in dict.fromkeys([*old, *new]):
            empty: list[Any] | None = [] if isinstance(old.get(name, new.get(name)), list) else None
            if name == "without":
                if old.get(name, []) != new.get(name, []):
                    yield f"{whom}: {'goes without ' + ', '.join(new[name]) if new.get(name) else 'goes without nothing'}"
                continue
            for line in _differ([name], old.get(name, empty), new.get(name, empty)):
                yield f"{whom}: {line}"
    else:
        yield f"{plural(len(differ), 'exception')} changed"


def _whom(entry: dict[str, Any]) -> str:
    """For whom an exception holds."""
    if entry["by"] == "parts":
        refs = entry["parts"]
        return f"“{clip(refs[0], 40)}”" if len(refs) == 1 else plural(len(refs), "part")
    if entry["by"] in ("smaller", "larger"):
        return f"parts {entry['by']} than {say_metric(float(entry['size']))}"
    return f"{entry['by']} “{clip(entry['match'] or entry['source'] or '', 40)}”"


def _counted(path: list[str], was: list[Any], now: list[Any]) -> str:
    one, several = _ITEMS[path[-1]]
    added, gone = [item for item in now if item not in was], [item for item in was if item not in now]
    if not added and not gone:
        return f"order of {several}"
    if len(added) == len(gone) == 1:
        return f"{one} {_item(gone[0])} became {_item(added[0])}"
    told = []
    for items, did in ((added, "added"), (gone, "taken away")):
        if len(items) == 1:
            told.append(f"{one} {_item(items[0])} {did}")
        elif items:
            told.append(f"{plural(len(items), one, several)} {did}")
    called = _CALLED.get(path[-1])
    return f"{called}: {', '.join(told)}" if called and path[-1] != "steps" else ", ".join(told)


def _item(item: Any) -> str:
    """A rule, a choice, an operation, a name: by what tells it from its neighbours."""
    if not isinstance(item, dict):
        return f"“{clip(str(item), 40)}”"
    words = [
        f"“{clip(str(value), 40)}”" if name in ("match", "name") else _said([name], value)
        for name, value in ((name, _first_of(value)) for name, value in item.items())
        if isinstance(value, str | float | int) and name not in _UNTOLD and value != ""
    ]
    return " ".join(words[:4])


def _first_of(value: Any) -> Any:
    """The first of several words, with how many more there are."""
    if not isinstance(value, list) or not value or not all(isinstance(word, str) for word in value):
        return value
    return value[0] if len(value) == 1 else f"{value[0]} and {len(value) - 1:,} more"


def _name(path: list[str]) -> str:
    words = [_CALLED.get(name, name.replace("_", " ")) for name in path if name not in _UNNAMED]
    return " ".join(words)


def _said(path: list[str], value: Any) -> str:
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, list):
        return "(" + ", ".join(_said(path, item) for item in value) + ")"
    if path[-1] in _LENGTHS and isinstance(value, int | float):
        return say_metric(value)
    if path[-1] in ("degrees", "turn") and isinstance(value, int | float):
        return f"{value:g}°"
    if path[-1] in ("datum", "move") and isinstance(value, int | float):
        return f"{value:g} m"
    return f"{value:g}" if isinstance(value, int | float) else clip(str(value), 60)
