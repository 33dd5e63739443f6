"""What a person reduces to: a share, a count, a file size or an error, as one types it."""

import re
from dataclasses import dataclass
from typing import Literal

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.lengths import parse_length
from hemp_ladder.core.units import say_bytes

By = Literal["share", "count", "bytes", "error"]
_SIZES = {"B": 1, "KB": 1000, "MB": 10**6, "GB": 10**9, "KIB": 1 << 10, "MIB": 1 << 20, "GIB": 1 << 30}


@dataclass(frozen=True)
class Goal:
    """`value` is a share of one, triangles, bytes or metres."""

    by: By
    value: float


@dataclass(frozen=True)
class Weighed:
    """What parts weigh that are to be reduced together: triangles over all placements; bytes of their file, and of those
    what no reduction changes."""

    triangles: int
    bytes: float
    fixed: float


def share_for(goal: Goal, now: Weighed) -> float:
    """The share of their triangles that brings parts to a goal. Raises SettingsError where there is none: a size below what
    is no triangle's, or more than there is."""
    if goal.by == "share":
        return goal.value
    have, wanted = (
        (now.triangles, goal.value) if goal.by == "count" else (now.bytes - now.fixed, goal.value - now.fixed)
    )
    if wanted <= 0:
        raise SettingsError(
            f"Pictures and placements alone take {say_bytes(round(now.fixed))}.",
            "Make pictures smaller, or allow more.",
        )
    if wanted >= have:
        there = f"{now.triangles:,} triangles" if goal.by == "count" else say_bytes(round(now.bytes))
        raise SettingsError(f"There are no more than {there}: nothing needs to be reduced.", "Ask for less.")
    return max(wanted / have, 1e-6)


def parse_goal(text: str) -> Goal:
    """`25%`, `50000`, `2MB`, `error=0.5mm`. Raises SettingsError for anything else, and for what would leave nothing."""
    plain = text.strip().replace(" ", "").replace(",", "")
    name, separator, told = plain.partition("=")
    if separator and name == "error":
        value = float(parse_length(told))
        if value <= 0:
            raise SettingsError(
                "An error of nothing allows nothing to be taken away.", "Merge flats, or ask for a larger error."
            )
        return Goal("error", value)
    size = parse_bytes(plain)
    if size is not None:
        return _some(Goal("bytes", size), text)
    found = re.fullmatch(r"(\d+(?:\.\d*)?)(%?)", plain)
    if found is None or (not found[2] and "." in found[1]):
        raise SettingsError(f"“{text[:40]}” is no goal. Write 25%, a count of triangles, 2MB or error=0.5mm.")
    value = float(found[1])
    if found[2]:
        if value > 100:
            raise SettingsError(f"{text} is more than there is.", "Write a share of 100% at most.")
        return _some(Goal("share", value / 100), text)
    return _some(Goal("count", value), text)


def _some(goal: Goal, text: str) -> Goal:
    if goal.value <= 0:
        raise SettingsError(f"Reduced to {text} nothing would be left.", "Ask for more than nothing.")
    return goal


def parse_bytes(text: str) -> float | None:
    """`2MB`, `1.5GiB`; None for what is no size."""
    found = re.fullmatch(r"(\d+(?:\.\d*)?)([KMG]?I?B)", text.strip().upper())
    return float(found[1]) * _SIZES[found[2]] if found and found[2] in _SIZES else None
