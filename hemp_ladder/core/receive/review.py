"""What is noticed about a model once it is read, before any triangle is made.

Each finding is held back where it would cry wolf: volumes of air and holes
need no name and no colour, a format that knows neither says so once, and
openness counts by parts, not by edges.
"""

from collections.abc import Iterator

import numpy as np

from hemp_ladder.core.choose.take import later_copies
from hemp_ladder.core.findings import Finding, Offer, finding, names, plural
from hemp_ladder.core.fit import metres_in
from hemp_ladder.core.fit.doubts.likely import LARGEST_METRES, SMALLEST_METRES, doubt_of, likely_units
from hemp_ladder.core.fit.doubts.upright import lying
from hemp_ladder.core.model.bodies import Exact
from hemp_ladder.core.model.join import as_joined
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.readers import reader_called
from hemp_ladder.core.receive.surfaces import review_looks
from hemp_ladder.core.units import UNITS, say_metric

#: From ten kilometres on, the 32 bit numbers of renderers are off by half a millimetre and more.
FAR_METRES = 1e4
_LIKELY = ("mm", "cm", "m", "in", "ft")
_NAMES = [(unit.name.partition(" (")[0], unit.metres) for unit in UNITS.values()]
_SEVERAL = {"curve out of plane": "curves out of plane"}
_ORDER = {"error": 0, "warning": 1, "note": 2}


def review(model: Model) -> list[Finding]:
    """Findings about the received model beside its reader's own, gravest first."""
    seen = _seen(model)
    found = [
        *_unit(model), *_up(model), *_place(model), *_dress(model, seen), *_names(model, seen), *_shells(model, seen),
        *_copies(model), *_hidden(model), *_extras(model), *_leftovers(model), *_outlines(model), *_lookouts(model),
        *review_looks(model),
    ]  # fmt: skip
    return sorted([*model.findings, *found], key=lambda item: _ORDER[item.severity])


def _seen(model: Model) -> list[int]:
    """Indices of the parts with a surface that stand somewhere as matter to look at."""
    used = {node.part for node in model.nodes if node.part >= 0 and node.tags.kind == "body"}
    return [index for index in sorted(used) if model.parts[index].body.has_surface]


def _unit(model: Model) -> Iterator[Finding]:
    if not any(part.body.has_surface for part in model.parts):
        yield finding("empty-model", model.format, "The file holds no surface, only structure or curves.")
        return
    largest = float(np.ptp(model.box, axis=0).max() * float(model.metres_per_coordinate))
    ranked = [item for item in likely_units(model, _usual_units(model)) if item.unit != model.unit]
    sizes = {item.unit: _in_unit(model, item.unit) for item in ranked}
    offers = {
        code: Offer(f"It is {code}: {say_metric(size)}", "state-unit", {"unit": code}) for code, size in sizes.items()
    }
    told = ", ".join(f"{say_metric(size)} in {code}" for code, size in sizes.items())
    doubt = doubt_of(model) if model.unit is not None or model.sized else None
    if model.unit is None and not model.sized and not any(item.code == "unit-odd" for item in model.findings):
        taken = next((name + "s" for name, unit in _NAMES if unit == model.metres_per_coordinate), "its own numbers")
        best = ranked[0] if ranked else None
        why = f" Likely {best.unit}: {'; '.join(best.reasons)}." if best and best.reasons else ""
        yield finding(
            "unit-missing", model.format,
            f"The file declares no unit of length; {taken} are taken. At its largest it would be {told}.{why}",
            offers=list(offers.values()),
        )  # fmt: skip
    elif doubt is not None:
        size = _in_unit(model, doubt.unit)
        yield finding(
            "unit-doubtful", model.format,
            f"{_begun(names(doubt.said))}. It all makes sense in {doubt.unit}: {doubt.mistake}.",
            offers=[Offer(f"It is {doubt.unit}: {say_metric(size)}", "state-unit", {"unit": doubt.unit})],
        )  # fmt: skip
    elif not SMALLEST_METRES <= largest <= LARGEST_METRES:
        sensible = [offers[code] for code, size in sizes.items() if SMALLEST_METRES <= size <= LARGEST_METRES]
        yield finding(
            "unit-doubtful", model.format,
            f"The model is {say_metric(largest)} at its largest. It would be {told}.", offers=sensible,
        )  # fmt: skip


def _begun(sentence: str) -> str:
    return sentence[:1].upper() + sentence[1:]


def _usual_units(model: Model) -> tuple[str, ...]:
    reader = reader_called(model.format)
    return reader.units if reader else _LIKELY


def _in_unit(model: Model, code: str) -> float:
    """Metres at its largest, were its numbers in a unit."""
    return float(np.ptp(model.box, axis=0).max()) * float(metres_in(model, code))


def _lookouts(model: Model) -> Iterator[Finding]:
    if model.lookouts:
        told = "1 camera is" if len(model.lookouts) == 1 else f"{len(model.lookouts):,} cameras are"
        yield finding(
            "lookouts", model.format, f"{told} kept as lookouts: {names([item.name for item in model.lookouts])}."
        )


def _up(model: Model) -> Iterator[Finding]:
    if model.up is None:
        yield finding(
            "up-missing", model.format, "The file does not say which axis points up; Z is taken.",
            offers=[Offer("Y points up", "state-up", {"up": "y"})],
        )  # fmt: skip
    suspect = lying(model)
    if suspect is not None and (model.up is not None or suspect.up != "y"):
        yield finding(
            "lies-down", model.format, f"It seems to lie down: {suspect.said}.",
            offers=[Offer(f"{suspect.up.upper()} points up", "state-up", {"up": suspect.up})],
        )  # fmt: skip


def _place(model: Model) -> Iterator[Finding]:
    scale = float(model.metres_per_coordinate)
    away = float(np.linalg.norm(model.box.mean(axis=0)) * scale)
    size = float(np.ptp(model.box, axis=0).max() * scale)
    if away > FAR_METRES and away > 3 * size:
        yield finding(
            "far-from-origin", model.format,
            f"Its middle lies {say_metric(away)} from the origin, {away / max(size, 1e-9):,.0f} times its own size.",
            offers=[Offer("Move it near the origin", "near-origin")],
        )  # fmt: skip


def _dress(model: Model, seen: list[int]) -> Iterator[Finding]:
    columns = as_joined(model).columns
    dressed = {
        int(part)
        for part, layer, colour in zip(columns.part, columns.layer, columns.colour, strict=True)
        if columns.layers[layer] or columns.colours[colour]
    }
    dressed |= {node.part for node in model.nodes if node.part >= 0 and node.tags.materials}
    bare = [i for i in seen if i not in dressed and not model.parts[i].face_colours]
    yield from _about_parts(
        model, "no-material", bare, seen, "has neither colour, layer nor material", "have neither colour, layer nor material",
        [Offer("Give them plain clay", "material", {"material": "clay"})],
    )  # fmt: skip


def _names(model: Model, seen: list[int]) -> Iterator[Finding]:
    reader = reader_called(model.format)
    if reader is not None and not reader.names:
        return
    bare = [i for i in seen if not model.parts[i].name.strip()]
    yield from _about_parts(model, "unnamed", bare, seen, "has no name", "have no name", [])


def _about_parts(
    model: Model, code: str, bare: list[int], seen: list[int], one: str, several: str, offers: list[Offer]
) -> Iterator[Finding]:
    if not bare:
        return
    refs = [model.parts[i].label for i in bare]
    if len(bare) == len(seen) and len(bare) > 1:
        message = f"None of the {len(bare):,} parts {one}.".replace("has neither", "has either").replace(
            " nor ", " or "
        )
        message = message.replace("has no name", "has a name")
        yield finding(code, model.format, message, parts=bare, offers=offers)
        return
    verb = one if len(bare) == 1 else several
    yield finding(code, names(refs), f"{plural(len(bare), 'part')} {verb}: {names(refs)}.", parts=bare, offers=offers)


def _shells(model: Model, seen: list[int]) -> Iterator[Finding]:
    exact = {i: body for i in seen if isinstance(body := model.parts[i].body, Exact)}
    opened = [i for i, body in exact.items() if body.open_edges]
    if opened:
        refs = [model.parts[i].label for i in opened]
        edges = sum(exact[i].open_edges for i in opened)
        message = f"{plural(len(opened), 'part')} with {plural(edges, 'open edge')}: {names(refs)}."
        yield finding("open-shell", names(refs), message, parts=opened)
    turned = [i for i, body in exact.items() if body.turned]
    if turned:
        refs = [model.parts[i].label for i in turned]
        faces = sum(exact[i].turned for i in turned)
        message = f"{plural(faces, 'face')} of {plural(len(turned), 'part')} faced against the rest and {'was' if faces == 1 else 'were'} turned: {names(refs)}."
        yield finding("reversed-faces", names(refs), message, parts=turned)


def _copies(model: Model) -> Iterator[Finding]:
    joined = as_joined(model)
    columns = joined.columns
    body = np.array([tags.kind == "body" for tags in columns.all_tags], dtype=bool)
    mask = body[columns.tags] if len(columns.tags) else np.zeros(0, dtype=bool)
    copies = np.flatnonzero(later_copies(joined, mask))
    if len(copies):
        parts = np.unique(columns.part[copies]).tolist()
        refs = [model.parts[i].label for i in parts]
        count = "1 placement lies" if len(copies) == 1 else f"{len(copies):,} placements lie"
        yield finding(
            "coincident-copies", names(refs), f"{count} exactly on another of the same shape: {names(refs)}.",
            parts=parts, offers=[Offer("Take one of each", "without-copies")],
        )  # fmt: skip


def _hidden(model: Model) -> Iterator[Finding]:
    if model.hidden:
        columns = as_joined(model).columns
        off = set(model.hidden)
        parts = sorted(
            {int(p) for p, layer in zip(columns.part, columns.layer, strict=True) if columns.layers[layer] in off}
        )
        offers = [Offer("Leave them out", "leave-layers", {"layers": model.hidden})] if parts else []
        message = (
            f"{plural(len(model.hidden), 'layer is', 'layers are')} switched off in the file: {names(model.hidden)}."
        )
        yield finding("hidden-layers", names(model.hidden), message, parts=parts, offers=offers)


def _outlines(model: Model) -> Iterator[Finding]:
    """Of drawings: outlines that nearly close, and those that are only lines until they have a height."""
    scale = float(model.metres_per_coordinate)
    drawn = [(i, part.drawn) for i, part in enumerate(model.parts) if part.drawn]
    near = sorted((d.gap, i) for i, d in drawn if 0 < d.gap < 1e299)
    if near:
        parts = [i for _, i in near]
        told = names([f"{model.parts[i].label} ({say_metric(gap * scale)})" for gap, i in near])
        largest = near[-1][0] * scale
        verb = "does not quite close" if len(near) == 1 else "do not quite close"
        yield finding(
            "nearly-closed", told, f"{plural(len(near), 'outline')} {verb}: {told}.", parts=parts,
            offers=[Offer(f"Close gaps up to {say_metric(largest)}", "close-gaps", {"metres": largest * 1.001})],
        )  # fmt: skip
    waiting = [i for i, d in drawn if d.closed and not d.fill and not d.stroke and not d.thickness]
    if waiting:
        layers = list(dict.fromkeys(model.parts[i].layer or "no layer" for i in waiting))
        yield finding(
            "outlines-wait", names(layers), f"{plural(len(waiting), 'closed outline')} on {names(layers)} await a height.",
            parts=waiting,
        )  # fmt: skip


def _extras(model: Model) -> Iterator[Finding]:
    words = {"space": "volume of air", "opening": "opening", "annotation": "annotation"}
    severals = {"space": "volumes of air", "opening": "openings", "annotation": "annotations"}
    labels = {"space": "Take the spaces", "opening": "Take the openings", "annotation": "Take the annotations"}
    for kind, word in words.items():
        parts = [
            n.part for n in model.nodes if n.tags.kind == kind and n.part >= 0 and model.parts[n.part].body.has_surface
        ]
        if parts:
            yield finding(
                "stays-out", model.format, f"{plural(len(parts), word, severals[kind])} with a body stay out unless asked.",
                parts=sorted(set(parts)), offers=[Offer(labels[kind], "also", {"kind": kind})],
            )  # fmt: skip


def _leftovers(model: Model) -> Iterator[Finding]:
    exact = {i: body for i, part in enumerate(model.parts) if isinstance(body := part.body, Exact)}
    curves, points = sum(body.curves for body in exact.values()), sum(body.points for body in exact.values())
    kinds = {"curve": curves, "point": points, **model.leftovers}
    shown = [plural(n, kind, _SEVERAL.get(kind, "")) for kind, n in kinds.items() if n]
    if shown:
        places = [i for i, body in exact.items() if body.curves or body.points]
        where = names([model.parts[i].label for i in places]) if places else model.format
        yield finding(
            "leftovers",
            where,
            f"{', '.join(shown)} without a surface {'stays' if sum(kinds.values()) == 1 else 'stay'} out of the mesh.",
            parts=places,
        )
