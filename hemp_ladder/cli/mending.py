"""Mend on the command line: shells split into parts, and the figures of every part before and after."""

import argparse
from collections.abc import Callable
from dataclasses import asdict
from typing import Any

from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.climb import Result
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.mend import MendSettings
from hemp_ladder.core.mend.settings import ShellApart
from hemp_ladder.core.mend.shells.loose import shells_of
from hemp_ladder.core.mesh.figures import Figures

#: Parts that shells become, at the most, over all parts.
_MOST = 1000
#: What of the figures is told of each part.
_TOLD = (
    "triangles", "vertices", "shells", "open_edges", "against", "over_shared", "holes", "t_joints", "duplicate",
    "degenerate", "crossing", "inward", "inside_out",
)  # fmt: skip


def with_split(options: argparse.Namespace, result: Result, decisions: Decisions) -> Decisions:
    """The decisions with every loose shell but the largest of each part as a part of its own, where that is asked for."""
    if not options.split:
        return decisions
    apart: list[ShellApart] = []
    for index in sorted(result.fitted_parts):
        part, mesh = result.model.parts[index], result.mesh_of(index)
        if mesh is None or part.cut or part.shells or mesh.figures.shells < 2:
            continue
        if len(apart) + mesh.figures.shells - 1 > _MOST:
            raise SettingsError(
                f"“{part.label}” has {mesh.figures.shells:,} loose shells; {_MOST:,} can become parts of their own.",
                "Weld first, or split fewer parts.",
            )
        name = part.name or part.label
        apart += [
            ShellApart(part=part.ref, at=shell.at, name=f"{name} shell {number}")
            for number, shell in enumerate(shells_of(mesh)[1:], 2)
        ]
    mend = decisions.mend.model_copy(update={"apart": (*decisions.mend.apart, *apart)})
    return decisions.model_copy(update={"mend": mend})


def untouched(decisions: Decisions) -> Decisions:
    """The decisions without Mend and Trim, to say what they changed."""
    trim = decisions.trim.model_copy(update={"steps": (), "exceptions": ()})
    return decisions.model_copy(update={"mend": MendSettings(), "trim": trim})


def parts_told(before: Result, after: Result) -> list[dict[str, Any]]:
    """Every part that entered, with its figures before Mend and Trim and after; lengths in metres. What became a part of its own
    only at Mend has none before."""
    told = []
    for index in sorted(after.fitted_parts):
        part = after.model.parts[index]
        scale = float(after.fitted.scale_of(index))
        known = index < len(before.chains)
        told.append({
            "part": part.label,
            "before": _figures(before.chains[index] if known else None, before.figures.get, scale),
            "after": _figures(after.chains[index], after.figures.get, scale, after.flipped[index]),
        })  # fmt: skip
    return told


def _figures(
    chain: Chain | None, find: Callable[[str], Figures | None], scale: float, flipped: bool = False
) -> dict[str, Any] | None:
    known = find(chain.key) if chain is not None else None
    if known is None:
        return None
    values = asdict(known)
    told = {name: values[name] for name in _TOLD}
    told["inside_out"] = known.watertight and known.inside_out != flipped
    return {
        **told, "watertight": known.watertight, "bad_normals": dict(known.bad_normals),
        "volume_m3": known.volume * scale**3 * (-1 if flipped else 1), "area_m2": known.area * scale**2,
        "did": dict(known.effects), **_trimmed(known, scale),
    }  # fmt: skip


def _trimmed(known: Figures, scale: float) -> dict[str, Any]:
    """What lies between a lighter mesh and the full one, as it was measured."""
    told = known.trimmed
    if not told:
        return {}
    return {
        "deviation_m": max(told["there"], told["back"]) * scale, "missing_m": told["there"] * scale,
        "bulging_m": told["back"] * scale, "mean_deviation_m": told["mean"] * scale,
        "normals_turned_deg": told["turned"], "uv_shifted": told["shifted"], "outline_changed": told["silhouette"],
        "joined_first": int(told.get("joined", 0)),
    }  # fmt: skip
