"""Facet on the command line: how fine parts must be for lookouts, and an allowance spread over them."""

import argparse
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from hemp_ladder.core.byview import by_view, views_of
from hemp_ladder.core.byview import decided as by_view_decided
from hemp_ladder.core.climb import Plan, Result, plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.facet.gauge import gauged
from hemp_ladder.core.facet.settings import Allowance, SeenFrom
from hemp_ladder.core.facet.sight import Sight
from hemp_ladder.core.findings import plural
from hemp_ladder.core.fit.lookouts import LookoutWay
from hemp_ladder.core.fit.lookouts import Seen as Looking
from hemp_ladder.core.fit.standing import Standing
from hemp_ladder.core.lengths import parse_length
from hemp_ladder.core.spreads import Outcome, Spreading, by_size
from hemp_ladder.core.trim.goal import parse_goal
from hemp_ladder.core.units import parse_angle, say_bytes
from hemp_ladder.work.children import Crew
from hemp_ladder.work.facets.measuring import measured

_BETWEEN = ">"
_NUMBER = r"\s*([-+]?\d+(?:\.\d*)?)\s*"
_PLACE = re.compile(f"{_NUMBER},{_NUMBER},{_NUMBER}([a-z]*)\\s*")
Say = Callable[[str], None]
Body = Callable[[str], bytes]


def add_options(make: argparse.ArgumentParser) -> None:
    """Those of Facet that need to be looked at or measured first."""
    make.add_argument(
        "--allowance",
        metavar="GOAL",
        help="spread this over all parts: a count of triangles, 2MB; the least error wins",
    )
    make.add_argument(
        "--lookout", metavar="WHERE", action="append",
        help="as fine as this shows: the name of a lookout, or EYE>TARGET>ANGLE, as '4,-6,2m>0,0,1m>40deg'",
    )  # fmt: skip
    make.add_argument("--lookout-path", action="store_true", help="also from the ways between one lookout and the next")
    make.add_argument("--picture-width", type=int, metavar="PIXELS", default=1920, help="of what lookouts show: 1920")
    make.add_argument(
        "--pixels", type=float, metavar="N", default=0.5, help="how far an outline may be off there, in pixels: 0.5"
    )


@dataclass
class Faceted:
    """The decisions after it, and what is to be told of it."""

    decisions: Decisions
    told: dict[str, Any]


def faceted(
    options: argparse.Namespace, result: Result, decisions: Decisions, climbed: Callable[[Decisions], Result], crew: Crew,
    body: Body, say: Say,
) -> Faceted:  # fmt: skip
    """Facets worked out, where that is asked. Raises SettingsError for what makes no sense."""
    if not options.allowance and not options.lookout:
        return Faceted(decisions, {})
    allowance = _allowance(options.allowance) if options.allowance else None
    sight, seen, now = None, None, plan(result.model, decisions)
    if options.lookout:
        decisions, seen = _with_lookouts(options, now)
        now = plan(result.model, decisions)
        sight = look(now, result, seen, crew)
    if allowance is None:
        assert seen is not None and sight is not None
        found = by_view(now, seen, sight)
        told = {
            "near": len(found.near),
            "middle": len(found.middle),
            "far": len(found.far),
            "unseen": len(found.unseen),
        }
        say(", ".join(f"{count} {name}" for name, count in told.items()))
        return Faceted(decisions.model_copy(update={"facet": by_view_decided(now, seen, found)}), told)
    weights = sight.pixels if sight is not None else by_size(now)
    spreading = Spreading(now, allowance, decisions.ship.target, weights)
    known: dict[str, Mapping[str, float]] = {
        key: gauged(figures) for key, figures in climbed(decisions).figures.items()
    }
    outcome = _solved(spreading, known, crew, body, say)
    facet = spreading.decided(outcome, **({"seen": seen} if seen is not None else {}))
    error = f"{outcome.error:.2f} px" if seen is not None else f"{100 * outcome.error:.3g} % of a part's size"
    used = say_bytes(round(outcome.total)) if allowance.by == "bytes" else plural(outcome.triangles, "triangle")
    say(f"{used}, no part off by more than {error}.")
    report = {
        "allowed": allowance.value, "by": allowance.by, "total": outcome.total, "error": outcome.error,
        "in_pixels": seen is not None, "more": outcome.more,
    }  # fmt: skip
    return Faceted(decisions.model_copy(update={"facet": facet}), report)


def _solved(
    spreading: Spreading, known: dict[str, Mapping[str, float]], crew: Crew, body: Body, say: Say
) -> Outcome:  # fmt: skip
    failed: dict[str, str] = {}
    while True:
        outcome = spreading.solve(known, failed)
        if isinstance(outcome, Outcome):
            return outcome
        say(f"Measuring {plural(len(outcome), 'setting')} of parts.")
        for batch, found in measured(outcome, crew, body):
            if isinstance(found, Exception):
                failed.update((chain.key, str(found)) for chain in batch)
            else:
                known.update((chain.key, told) for chain, told in zip(batch, found, strict=True))


def look(now: Plan, result: Result, seen: SeenFrom, crew: Crew) -> Sight:
    """What lookouts show of what was made."""
    nodes = now.sorted.placements
    meshes = {
        part: mesh for part in sorted(result.fitted_parts) if (mesh := result.mesh_of(part)) is not None
    }  # fmt: skip
    found: Sight = crew.run(
        "sight", meshes, now.sorted.parts, now.fitted.placements()[nodes], now.sorted.opaque(), len(now.model.parts),
        views_of(now, seen), seen.width,
    )  # fmt: skip
    return found


def _allowance(text: str) -> Allowance:
    goal = parse_goal(text)
    if goal.by not in ("count", "bytes"):
        raise SettingsError(f"“{text[:40]}” is no allowance.", "Write a count of triangles, or a size as 2MB.")
    return Allowance(by="bytes" if goal.by == "bytes" else "count", value=goal.value)


def _with_lookouts(options: argparse.Namespace, now: Plan) -> tuple[Decisions, SeenFrom]:
    """The decisions with those lookouts kept that are told by where they stand, and which are meant."""
    decisions, names = now.decisions, []
    for number, text in enumerate(options.lookout, 1):
        if _BETWEEN not in text:
            names.append(text)
            continue
        names.append(f"Lookout {number}")
        way = LookoutWay(name=names[-1], seen=_looking(text))
        standing = way.apply(Standing(now.model, decisions.fit))
        decisions = decisions.model_copy(update={"fit": standing.settings})
    seen = SeenFrom(
        lookouts=tuple(names), path=options.lookout_path, width=options.picture_width, pixels=options.pixels
    )
    return decisions, seen


def _looking(text: str) -> Looking:
    parts = [item.strip() for item in text.split(_BETWEEN)]
    if len(parts) not in (2, 3):
        raise SettingsError(f"“{text[:60]}” is no lookout.", "Write its name, or EYE>TARGET>ANGLE.")
    eye, target = (np.array(_place(item)) for item in parts[:2])
    way = target - eye
    if not np.linalg.norm(way):
        raise SettingsError("A lookout that looks at its own eye sees nothing.", "Give it a target elsewhere.")
    way /= np.linalg.norm(way)
    up = (0.0, 0.0, 1.0) if abs(way[2]) < 0.999 else (0.0, 1.0, 0.0)
    tall = float(np.radians(40.0)) if len(parts) < 3 else float(parse_angle(parts[2]))
    x, y, z = eye.tolist()
    a, b, c = way.tolist()
    return Looking(eye=(x, y, z), way=(a, b, c), up=up, tall=tall, wide=16 / 9)


def _place(text: str) -> tuple[float, float, float]:
    """`4,-6,2m` or `4,-6,2`, in metres where nothing is said."""
    found = _PLACE.fullmatch(text)
    if found is None:
        raise SettingsError(f"“{text[:40]}” is no place.", "Write three lengths: 4,-6,2m.")
    x, y, z = (
        (-1 if item.startswith("-") else 1) * float(parse_length(f"{item.lstrip('+-')}{found[4] or 'm'}"))
        for item in found.group(1, 2, 3)
    )
    return x, y, z
