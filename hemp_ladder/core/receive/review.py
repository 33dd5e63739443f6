"""What is noticed about a model once it is read, before any triangle is made."""

from collections.abc import Iterator

import numpy as np

from hemp_ladder.core.findings import Finding, clip, finding
from hemp_ladder.core.model import Model
from hemp_ladder.core.units import UNITS, say_metric

#: Common practice: products, rooms and sites lie between these; what lies
#: outside is nearly always a wrong unit.
SMALLEST_METRES, LARGEST_METRES = 2e-3, 5e3
_NAMED = 5


def review(model: Model) -> list[Finding]:
    """Findings about the received model, gravest first."""
    found = [*_size(model), *_dress(model), *_names(model), *_shells(model), *_leftovers(model)]
    order = {"error": 0, "warning": 1, "note": 2}
    return sorted(found, key=lambda item: order[item.severity])


def _list(names: list[str]) -> str:
    shown = ", ".join(clip(name, 40) for name in names[:_NAMED])
    return f"{shown} and {len(names) - _NAMED} more" if len(names) > _NAMED else shown


def _size(model: Model) -> Iterator[Finding]:
    if not any(part.faces for part in model.parts):
        yield finding("empty-model", model.format, "The file holds no surface, only structure or curves.")
        return
    if model.unit is None:
        yield finding("unit-missing", model.format, "The file declares no unit of length; millimetres are taken.")
    largest = float(np.ptp(model.box, axis=0).max() * float(model.metres_per_coordinate))
    if not SMALLEST_METRES <= largest <= LARGEST_METRES:
        others = [code for code in ("mm", "cm", "m", "in", "ft") if code != model.unit]
        declared = UNITS[model.unit].metres if model.unit else model.metres_per_coordinate
        sizes = ", ".join(f"{code}: {say_metric(largest * float(UNITS[code].metres / declared))}" for code in others)
        yield finding(
            "improbable-size", model.format,
            f"The model is {say_metric(largest)} at its largest. In other units it would be {sizes}.",
        )  # fmt: skip


def _dress(model: Model) -> Iterator[Finding]:
    dressed = {n.part for n in model.nodes if n.part >= 0 and (n.colour or n.layer)}
    bare = [
        part.ref
        for i, part in enumerate(model.parts)
        if part.faces and not (part.colour or part.layer or part.face_colours or i in dressed)
    ]
    if bare:
        verb = "part has" if len(bare) == 1 else "parts have"
        yield finding("no-material", _list(bare), f"{len(bare)} {verb} neither colour nor layer: {_list(bare)}.")


def _names(model: Model) -> Iterator[Finding]:
    bare = [part.ref for part in model.parts if not part.name.strip()]
    if bare:
        verb = "part has" if len(bare) == 1 else "parts have"
        yield finding("unnamed", _list(bare), f"{len(bare)} {verb} no name. Here they are called {_list(bare)}.")


def _shells(model: Model) -> Iterator[Finding]:
    for part in model.parts:
        if part.faces and part.open_edges:
            edges = "edge" if part.open_edges == 1 else "edges"
            yield finding("open-shell", part.ref, f"Its surface is open along {part.open_edges} {edges}.")


def _leftovers(model: Model) -> Iterator[Finding]:
    curves = sum(part.curves for part in model.parts)
    points = sum(part.points for part in model.parts)
    places = [part.ref for part in model.parts if part.curves or part.points]
    if curves or points:
        kinds = [f"{n} {word}{'' if n == 1 else 's'}" for n, word in ((curves, "curve"), (points, "point")) if n]
        yield finding("leftovers", _list(places), f"{' and '.join(kinds)} without a surface stay out of the mesh.")
