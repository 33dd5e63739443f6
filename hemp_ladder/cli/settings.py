"""Options of the command line as decisions."""

import argparse
import json
from typing import Any, get_args

import numpy as np

from hemp_ladder.core.chain.steps import Operation
from hemp_ladder.core.choose.settings import TakeBy
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.lengths import parse_length
from hemp_ladder.core.operations import OPERATIONS
from hemp_ladder.core.trim.operations import OPERATIONS as TRIM
from hemp_ladder.core.units import parse_angle, unit


def decided(options: argparse.Namespace, form: str) -> Decisions:
    """The decisions file, if any, with the options laid over it."""
    data: dict[str, Any] = {}
    if options.decisions:
        try:
            data = json.loads(options.decisions.read_text(encoding="utf-8"))
        except (OSError, ValueError) as error:
            raise SettingsError(f"The decisions in “{options.decisions}” cannot be read: {error}.") from error
    base = Decisions.model_validate(data).model_dump(mode="json")
    fit, facet, target = base["fit"], base["facet"], base["ship"]["target"]
    if options.chord:
        facet["chord"] = {"kind": "absolute", "metres": float(parse_length(options.chord))}
    if options.chord_relative is not None:
        facet["chord"] = {"kind": "relative", "share": options.chord_relative}
    if options.angle:
        facet["degrees"] = float(np.degrees(parse_angle(options.angle)))
    if options.unit:
        fit["unit"] = unit(options.unit).code
    if options.up:
        fit["up"] = options.up
    if options.segments is not None:
        facet["segments"] = options.segments
    _take(options, base["receive"])
    _draw(options, base["receive"]["drawn"])
    for operation in OPERATIONS.values():
        asked = getattr(options, operation.name(), None) if operation.option is not None else None
        if asked is not None:
            _step(operation, asked, base["trim" if operation in TRIM else "mend"])
    target["format"] = form
    if options.to_unit:
        target["unit"] = unit(options.to_unit).code
    if options.to_up:
        target["up"] = options.to_up
    if options.polygons:
        target["polygons"] = True
    if options.flat_colours:
        target["flat_colours"] = True
    if options.to_hand:
        target["hand"] = options.to_hand
    if options.into_mesh:
        fit["into_mesh"] = True
    if options.level:
        target["level"] = options.level
    if options.textures:
        target["textures"] = options.textures
    if options.texture_limit is not None:
        target["texture_limit"] = options.texture_limit
    if options.group:
        target["group"] = options.group
    return Decisions.model_validate(base)


def _step(operation: type[Operation], asked: str, rung: dict[str, Any]) -> None:
    """An operation as the command line asks for it, in the place of what the decisions say of it."""
    step = operation.from_option(asked)
    others = [item for item in rung["steps"] if item["does"] != operation.name()]
    rung["steps"] = [*others, *([step.model_dump(mode="json")] if step is not None else [])]


def _draw(options: argparse.Namespace, drawn: dict[str, Any]) -> None:
    """What is said of outlines: `--fill` and `--wall` of all, `--height` of layers or of all."""
    of_all = {}
    if options.fill:
        of_all["areas"] = options.fill
    if options.wall:
        of_all["wall"], _, side = options.wall.partition(",")
        of_all |= {"side": side.strip()} if side else {}
    if of_all:
        drawn["rows"].append({"by": "all", **of_all})
    for text in options.height or ():
        layer, separator, told = text.rpartition("=")
        row = {"by": "layer", "match": layer} if separator and layer else {"by": "all"}
        drawn["rows"].append({**row, "height": float(parse_length(told))})
    for name in ("nozzle", "close"):
        if getattr(options, name):
            drawn[name] = float(parse_length(getattr(options, name)))
    if options.thicken:
        drawn["thicken"] = True


def with_units(decisions: Decisions, units: dict[str, str]) -> Decisions:
    """The decisions with a unit of its own for each of these sources."""
    base = decisions.model_dump(mode="json")
    for ref, told in units.items():
        base["fit"]["sources"][ref] = {**base["fit"]["sources"].get(ref, {}), "unit": unit(told).code}
    return Decisions.model_validate(base)


def with_width(decisions: Decisions, options: argparse.Namespace, refs: list[str]) -> Decisions:
    """The decisions with every source scaled to a wanted width, where one is."""
    if not options.width:
        return decisions
    base = decisions.model_dump(mode="json")
    told = {"width": float(parse_length(options.width)), "measured": "page" if options.page else "artwork"}
    for ref in refs:
        base["fit"]["sources"][ref] = {**base["fit"]["sources"].get(ref, {}), **told}
    return Decisions.model_validate(base)


def _take(options: argparse.Namespace, receive: dict[str, Any]) -> None:
    for texts, take in ((options.take, True), (options.leave, False)):
        for text in texts or ():
            by, separator, match = text.partition("=")
            if not separator or by not in get_args(TakeBy) or not match:
                kinds = ", ".join(get_args(TakeBy))
                raise SettingsError(f"“{text}” says not what to take. Write KIND=NAME, with a kind of {kinds}.")
            receive["choices"].append({"by": by, "match": match, "take": take})
    if options.within:
        receive["region"] = {"polygon": _corners(options.within), "cut": options.cut}


def _corners(text: str) -> list[list[float]]:
    """`0,0 12,0 12,8`: corners in metres on the plan after Fit."""
    try:
        corners = [[float(value) for value in corner.split(",")] for corner in text.split()]
    except ValueError:
        corners = []
    if len(corners) < 3 or any(len(corner) != 2 for corner in corners):
        raise SettingsError(f"“{text[:80]}” is no polygon. Write at least three corners in metres: 0,0 12,0 12,8.")
    return corners
