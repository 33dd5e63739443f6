"""`--known-length`, `--turn`, `--origin` and `--ground` as ways to fit, in this order: size, then turns, then place."""

import argparse
import math
from collections.abc import Callable, Sequence
from typing import Any

from hemp_ladder.core.climb import Result
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.fit.doubts.mistakes import mistake_of
from hemp_ladder.core.fit.notes import AGREES
from hemp_ladder.core.fit.standing import Standing
from hemp_ladder.core.fit.ways import TrueWay, Way, factor_for, number_metres, way_from
from hemp_ladder.core.lengths import parse_length, read_length
from hemp_ladder.core.model.join import Joined
from hemp_ladder.core.refit import fitted_by, standing_after
from hemp_ladder.core.units import parse_angle

_SIGNS = {"-": -1, "+": 1, "": 1}


def made_true(
    options: argparse.Namespace, model: Joined, decisions: Decisions, say: Callable[[str], None]
) -> Decisions:
    """The decisions after the known lengths: before anything is meshed, for a wrong size makes wrong facets. Raises
    SettingsError for text that says no length, and for lengths that disagree."""
    ways = [TrueWay.model_validate(_known(text, model)) for text in options.known_length or ()]
    standing = Standing(model, decisions.fit)
    for way in _agreeing(standing, ways):
        factor = factor_for(standing, way.first, way.second, way.length)
        mistake = mistake_of(factor, number_metres(standing, way.first.source))
        unit = mistake.unit if mistake and mistake.off < _ROUNDING else None
        say(
            f"{way.first.source or model.members[0].given.name}: grows by {factor:.9g}{', ' + mistake.said if mistake else ''}."
        )
        decisions = fitted_by(decisions, standing, way.model_copy(update={"unit": unit, "sure": options.sure}))
        standing = Standing(model, decisions.fit)
    return decisions


def placed(ways: Sequence[Way], result: Result, decisions: Decisions) -> Decisions:
    """The decisions after turns, origin and ground, by the lowest points of what was made."""
    for way in ways:
        decisions = fitted_by(decisions, standing_after(result, decisions), way)
    return decisions


#: A typed length that a unit explains so well is that unit; else what was typed holds to the last digit.
_ROUNDING = 1e-6


def _agreeing(standing: Standing, ways: list[TrueWay]) -> list[TrueWay]:
    """The first of each source. Raises SettingsError where another of the source asks for another factor."""
    first: dict[str, TrueWay] = {}
    for way in ways:
        known = first.setdefault(way.first.source, way)
        one, two = (factor_for(standing, item.first, item.second, item.length) for item in (known, way))
        if abs(two / one - 1) > AGREES:
            raise SettingsError(
                f"Two known lengths of {way.first.source} disagree: one asks for a factor of {one:.6g}, the other for {two:.6g}.",
                "Measure again, or leave the doubtful one out.",
            )
    return list(first.values())


def places_asked(options: argparse.Namespace) -> list[Way]:
    """The ways of `--turn`, `--origin` and `--ground`. Raises SettingsError for text that says none."""
    asked = [_turn(text) for text in options.turn or ()]
    if options.origin:
        asked.append(_origin(options.origin))
    if options.ground is not None:
        asked.append({"does": "ground", "lift": float(read_length(options.ground, signed=True).metres)})
    return [way_from(values) for values in asked]


def _known(text: str, model: Joined) -> dict[str, Any]:
    """`[NAME:] x,y,z x,y,z = LENGTH`: two points of a source, as it has them, and how far apart they are in truth."""
    points, separator, length = text.partition("=")
    name, colon, told = points.rpartition(":")
    refs = [piece.ref for piece in model.members]
    ref = refs[0] if not colon else next(
        (piece.ref for piece in model.members if name.strip() in (piece.ref, piece.given.name)), None
    )  # fmt: skip
    if ref is None or (not colon and len(refs) > 1):
        raise SettingsError(
            f"“{text[:60]}” says not which source it is of.", f"Write its name and a colon before: {', '.join(refs)}."
        )
    places = [_point(word, text) for word in told.split()]
    if not separator or len(places) != 2:
        raise SettingsError(
            f"“{text[:60]}” is no known length.", 'Write two points and a length: "0,0,0 100,0,0 = 13\' 1 15/16\\"".'
        )
    first, second = ({"source": ref, "at": place, "kind": "typed"} for place in places)
    return {"does": "true", "first": first, "second": second, "length": float(parse_length(length.strip()))}


def _point(word: str, text: str) -> tuple[float, float, float]:
    try:
        x, y, z = (float(value) for value in word.split(","))
    except ValueError as error:
        raise SettingsError(f"“{word[:40]}” in “{text[:60]}” is no point.", "Write it as x,y,z.") from error
    if not all(map(math.isfinite, (x, y, z))):
        raise SettingsError(f"“{word[:40]}” lies nowhere.", "Write it as x,y,z.")
    return x, y, z


def _turn(text: str) -> dict[str, Any]:
    axis, separator, angle = text.partition("=")
    if axis.strip().lower() not in ("x", "y", "z") or not separator:
        raise SettingsError(f"“{text[:40]}” is no turn.", "Write an axis and an angle: x=90deg.")
    negative = angle.strip().startswith(("-", "−"))
    degrees = math.degrees(parse_angle(angle.strip().lstrip("-−+")))
    whole = round(degrees)
    degrees = float(whole) if abs(degrees - whole) < 1e-9 else degrees
    return {"does": "turn", "axis": axis.strip().lower(), "degrees": -degrees if negative else degrees}


def _origin(text: str) -> dict[str, Any]:
    word = text.strip().lower()
    if word in ("centre", "base-centre", "as-received"):
        return {"does": "origin", "named": word.replace("-", " ")}
    if word.startswith("corner:"):
        side = [0, 0, 0]
        for told in word.removeprefix("corner:").split(","):
            sign, axis = told.strip()[:-1], told.strip()[-1:]
            if axis not in ("x", "y", "z") or sign not in _SIGNS:
                raise SettingsError(f"“{text[:40]}” is no corner.", "Write the sides it lies on: corner:-x,-y,-z.")
            side["xyz".index(axis)] = _SIGNS[sign]
        return {"does": "origin", "named": "box", "side": side}
    return {"does": "origin", "named": "typed", "to": _point(word, text)}
