"""Trim on the command line: goals of all parts together, levels and stand-ins beside the full mesh, the receiver's limit."""

import argparse
from collections.abc import Callable
from dataclasses import asdict
from typing import Any

from hemp_ladder.core.climb import Result
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.ship.costs import GAUGES, Load, advise, cost_of, excess, say_gauge
from hemp_ladder.core.sort.order.keys import keys_of
from hemp_ladder.core.sort.palette import pictures_of
from hemp_ladder.core.trim.goal import Goal, Weighed, parse_bytes, parse_goal, share_for
from hemp_ladder.core.trim.reduce import Reduce
from hemp_ladder.core.trim.settings import FULL, Level, Limit, TrimSettings

#: How often a share is asked again so that what came of it keeps to a count or a size, and how near is near enough.
_GOES, _NEAR = 3, 1.01
STAND_IN = "stand-in"


def add_options(make: argparse.ArgumentParser) -> None:
    """The options of Trim that are no operations."""
    make.add_argument("--hold", metavar="SHARE", help="reduce no part farther than its shape holds: 5%%")
    make.add_argument("--levels", metavar="SHARES", help="lighter files beside the full one: 50%%,25%%")
    make.add_argument(
        "--stand-in", metavar="WHAT", help="a light file beside the full one: box, hull, shell=32 (cells) or 5%%"
    )
    make.add_argument(
        "--limit", metavar="WHAT=MOST", action="append",
        help="what the receiver allows: triangles=50000, bytes=2MB, pixels=2048 or draw-calls=100",
    )  # fmt: skip


def with_trim(options: argparse.Namespace, decisions: Decisions) -> Decisions:
    """The decisions with the levels, the stand-in and the limit that are asked for."""
    trim = decisions.trim.model_dump(mode="json")
    if options.hold:
        share = _share(options.hold)
        for step in trim["steps"]:
            if step["does"] == "reduce":
                step["hold"] = share
    asked = [*_levels(options.levels), *([_stand_in(options.stand_in)] if options.stand_in else [])]
    names = {level["name"] for level in asked}
    trim["levels"] = [*(level for level in trim["levels"] if level["name"] not in names), *asked]
    if options.limit:
        trim["limit"] = {**(trim["limit"] or {}), **dict(map(_limit, options.limit))}
    return decisions.model_copy(update={"trim": TrimSettings.model_validate(trim)})


def _share(text: str) -> float:
    goal = parse_goal(text)
    if goal.by != "share":
        raise SettingsError(f"“{text[:40]}” is no share. Write it in percent: 25%.")
    return goal.value


def _levels(text: str | None) -> list[dict[str, Any]]:
    return [
        {"name": item.strip(), "steps": [{"does": "reduce", "share": _share(item)}]}
        for item in (text.split(",") if text else ())
    ]  # fmt: skip


def _stand_in(text: str) -> dict[str, Any]:
    kind, separator, cells = text.strip().partition("=")
    if kind in ("box", "hull", "shell") and (not separator or (kind == "shell" and cells.isdigit())):
        step: dict[str, Any] = {"does": "stand-in", "kind": kind, **({"cells": int(cells)} if separator else {})}
    elif text.strip().endswith("%"):
        step = {"does": "reduce", "share": _share(text)}
    else:
        raise SettingsError(f"“{text[:40]}” is no stand-in. Write box, hull, shell=32 or a share like 5%.")
    return Level.model_validate({"name": STAND_IN, "steps": [step]}).model_dump(mode="json")


def _limit(text: str) -> tuple[str, int]:
    name, _, told = text.partition("=")
    name = name.strip().replace("-", "_")
    value = parse_bytes(told.replace(",", "")) if name == "bytes" else None
    if value is None and told.strip().replace(",", "").isdigit():
        value = float(told.strip().replace(",", ""))
    if name not in GAUGES or value is None or value < 1:
        raise SettingsError(
            f"“{text[:40]}” limits nothing. Write triangles=50000, bytes=2MB, pixels=2048 or draw-calls=9."
        )
    return name, int(value)


def goal_of_all(options: argparse.Namespace) -> Goal | None:
    """A goal that is of all parts together, where one is asked for."""
    goal = parse_goal(options.reduce) if options.reduce else None
    return goal if goal is not None and goal.by in ("count", "bytes") else None


def aimed(
    goal: Goal, decisions: Decisions, climbed: Callable[[Decisions], Result], say: Callable[[str], None]
) -> tuple[Decisions, Result]:
    """The decisions with the share of every part that brings all of them to a goal, and what they come to. Where nothing
    needs to be reduced that is said, and nothing is."""
    at = _at_share(decisions, None)
    result = climbed(at)
    try:
        share = share_for(goal, weighed(result, decisions))
    except SettingsError as error:
        say(f"{error.message} {error.remedy}")
        return at, result
    for _ in range(_GOES):
        at = _at_share(decisions, share)
        result = climbed(at)
        reached = result.triangles if goal.by == "count" else costs_of(result, decisions).bytes
        if reached <= goal.value * _NEAR:
            break
        share *= 0.98 * goal.value / reached
    return at, result


def _at_share(decisions: Decisions, share: float | None) -> Decisions:
    steps = [step for step in decisions.trim.steps if step.does != "reduce"]
    if share is not None:
        old = next((step for step in decisions.trim.steps if isinstance(step, Reduce)), Reduce(share=1.0))
        steps.append(old.model_copy(update={"share": min(share, 1.0)}))
    return decisions.model_copy(update={"trim": decisions.trim.model_copy(update={"steps": tuple(steps)})})


def load_of(result: Result, decisions: Decisions) -> Load:
    pictures = pictures_of(result.model, decisions.sort)
    return Load(
        result.chains,
        result.figures,
        result.times,
        result.sorted,
        pictures,
        lambda by: keys_of(result.model, result.sorted, result.order, by)[0],
        [part.decided_as for part in result.model.parts],
    )


def costs_of(result: Result, decisions: Decisions) -> Any:
    return cost_of(load_of(result, decisions), decisions.ship.target)


def weighed(result: Result, decisions: Decisions) -> Weighed:
    """Of all parts together."""
    costs = costs_of(result, decisions)
    return Weighed(costs.triangles, costs.bytes, costs.picture_bytes + 120.0 * len(result.sorted.placements))


def limits_told(result: Result, decisions: Decisions) -> dict[str, Any] | None:
    """What is allowed, what there is, and what to trim first, where there is a limit."""
    limit: Limit | None = decisions.trim.limit
    if limit is None:
        return None
    load = load_of(result, decisions)
    costs = costs_of(result, decisions)
    trimmed = [chain is not None and any(isinstance(s, Reduce) for s in chain.operations) for chain in result.chains]
    over = excess(costs, limit)
    labels = [part.label for part in result.model.parts]
    return {
        "allowed": {name: value for name, value in limit.model_dump().items() if value},
        "costs": asdict(costs), "over": over,
        "steps": [
            {
                "step": item.label.replace("{part}", labels[item.parts[0]] if item.parts else ""), "gauge": item.gauge,
                "buys": item.buys, "sure": item.sure, "parts": [labels[part] for part in item.parts],
            }
            for item in advise(load, decisions.ship.target, limit, trimmed)
        ],
    }  # fmt: skip


def limit_lines(told: dict[str, Any]) -> list[str]:
    """The same for people, a line each."""
    lines = []
    for gauge in GAUGES:
        most = told["allowed"].get(gauge)
        if most is not None:
            much = told["over"].get(gauge)
            state = f"over by {say_gauge(gauge, much)}" if much else "within it"
            lines.append(f"Limit: {say_gauge(gauge, told['costs'][gauge])} of {say_gauge(gauge, most)}, {state}")
    for item in told["steps"]:
        lines.append(
            f"  {item['step']}: buys {'' if item['sure'] else 'about '}{say_gauge(item['gauge'], item['buys'])}"
        )
    return lines


def lighter_levels(decisions: Decisions, options: argparse.Namespace) -> list[str]:
    """The levels that are written beside the one asked for: those that the command line names."""
    asked = [level["name"] for level in _levels(options.levels)] + ([STAND_IN] if options.stand_in else [])
    return [name for name in asked if name != decisions.ship.target.level and name != FULL]
