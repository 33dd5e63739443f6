"""Options of the command line as decisions."""

import argparse
import json
from typing import Any, get_args

import numpy as np

from hemp_ladder.core.chain.steps import Operation
from hemp_ladder.core.choose.settings import TakeBy
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.exceptions import For
from hemp_ladder.core.facet.settings import PURPOSES
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
    if options.purpose:
        purpose = PURPOSES[options.purpose].model_dump(mode="json")
        facet |= {name: purpose[name] for name in ("chord", "degrees")}
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
    if options.max_edge:
        facet["longest"] = float(parse_length(options.max_edge))
    if options.min_edge:
        facet["shortest"] = float(parse_length(options.min_edge))
    if options.slivers is not None:
        facet["even"] = options.slivers / 100
    if options.segments is not None:
        facet["segments"] = options.segments
    facet["exceptions"] = [*(_override(text) for text in options.override or ()), *facet["exceptions"]]
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
        target["polygons"], target["quads"] = options.polygons != "quads", options.polygons != "flats"
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
    if options.longest_name is not None:
        target["longest_name"] = options.longest_name
    if options.plain_names:
        target["plain_names"] = True
    if "" in (options.separate or ()):
        target["instances"] = "separate"
    elif options.separate:
        target["separate"] = [*target.get("separate", ()), *options.separate]
    return Decisions.model_validate(base)


def _override(text: str) -> dict[str, Any]:
    """What is different for some parts: `layer=Rails:chord=0.1mm,angle=5deg`. Raises SettingsError for what is none."""
    whom, between, settings = text.rpartition(":")
    by, _, match = whom.partition("=")
    by = "parts" if by == "part" else by
    if not between or not match or by not in get_args(For):
        kinds = ", ".join(["part", *get_args(For)[1:]])
        raise SettingsError(
            f"“{text[:80]}” says not for whom. Write KIND=NAME:chord=LENGTH,angle=ANGLE, with a kind of {kinds}."
        )
    told: dict[str, Any] = {"by": by}
    if by in ("smaller", "larger"):
        told["size"] = float(parse_length(match))
    else:
        told |= {"parts": [match]} if by == "parts" else {"source": match} if by == "source" else {"match": match}
    for pair in settings.split(","):
        name, _, value = (word.strip() for word in pair.partition("="))
        if name == "chord":
            told["chord"] = {"kind": "absolute", "metres": float(parse_length(value))}
        elif name == "share":
            told["chord"] = {"kind": "relative", "share": float(value) if value.replace(".", "", 1).isdigit() else -1.0}
        elif name == "edge":
            told["longest"] = float(parse_length(value))
        elif name == "short":
            told["shortest"] = float(parse_length(value))
        elif name == "angle":
            told["degrees"] = float(np.degrees(parse_angle(value)))
        else:
            raise SettingsError(
                f"“{pair[:40]}” is no setting of facets.", "There are chord, share, angle, edge and short."
            )
    return told


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


def sized_later(options: argparse.Namespace) -> bool:
    """Whether how large a source is to be can only be said when it is read."""
    return bool(options.source_unit or options.known_length or options.width)


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
