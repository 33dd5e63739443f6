"""Remedies that are decisions: what taking an offer of a finding changes."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from hemp_ladder.core.choose.outlines.resolve import Role, shape_drawn
from hemp_ladder.core.choose.settings import Choice
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.facet import Absolute, FacetOverride, Relative
from hemp_ladder.core.findings import Finding, Offer
from hemp_ladder.core.fit import SourceFit, climb_fit, moved_box
from hemp_ladder.core.model.finish import SLOTS, Map, Slot
from hemp_ladder.core.model.join import Joined
from hemp_ladder.core.model.material import look_id
from hemp_ladder.core.receive.review import FAR_METRES
from hemp_ladder.core.sort.editing import as_it_came, changed, copied, material_of, wearing, with_guesses
from hemp_ladder.core.sort.palette import pictures_of
from hemp_ladder.core.sort.settings import MapSettings, Rule, SortSettings

#: Moves are rounded to this, in metres, so that what was shipped can be put back by hand.
_STEP = 100.0


@dataclass(frozen=True)
class _Case:
    model: Joined
    decisions: Decisions
    source: str
    refs: list[str]
    values: dict[str, Any]

    def section(self, name: str, **changes: Any) -> Decisions:
        section = getattr(self.decisions, name)
        return self.decisions.model_copy(update={name: section.model_copy(update=changes)})


def take_offer(
    model: Joined, decisions: Decisions, offer: Offer, source: str = "", parts: Sequence[int] = ()
) -> Decisions:
    """The decisions after taking the offer of a finding about these parts (indices in the model).

    Raises SettingsError for an offer that nobody makes.
    """
    return Decisions.model_validate(_changed(model, decisions, offer, source, parts).model_dump())


def _changed(model: Joined, decisions: Decisions, offer: Offer, source: str, parts: Sequence[int]) -> Decisions:
    """The decisions after an offer, whose values nobody has checked yet."""
    if offer.does not in _DOES:
        raise SettingsError(f"There is no remedy called “{offer.does[:40]}”.")
    refs = [model.parts[part].decided_as for part in parts if 0 <= part < len(model.parts)]
    try:
        return _DOES[offer.does](_Case(model, decisions, source, refs, offer.values))
    except (KeyError, TypeError) as error:
        raise SettingsError("The remedy lacks a value.") from error


def is_settled(model: Joined, decisions: Decisions, found: Finding, roles: Mapping[int, Role] | None = None) -> bool:
    """Whether what the finding asks for is done: one of its offers is in force, by whatever way it came there, or
    the outlines that awaited a height have one. `roles` of the drawn parts, where they are known already."""
    if found.code == "outlines-wait":
        if roles is None:
            roles = shape_drawn(climb_fit(model, decisions.fit), decisions.receive.drawn).roles
        return not any(roles.get(part) == "waiting" for part in found.parts)
    return any(_holds(model, decisions, offer, found) for offer in found.offers)


def _holds(model: Joined, decisions: Decisions, offer: Offer, found: Finding) -> bool:
    """Whether taking an offer would change nothing; one that speaks of what is no more settles nothing."""
    try:
        return _changed(model, decisions, offer, found.source, found.parts) == decisions
    except SettingsError:
        return False


def _own_fit(case: _Case, **changes: Any) -> Decisions:
    sources = dict(case.decisions.fit.sources)
    sources[case.source] = sources.get(case.source, SourceFit()).model_copy(update=changes)
    return case.section("fit", sources=sources)


def _state_unit(case: _Case) -> Decisions:
    return _own_fit(case, unit=case.values["unit"])


def _state_up(case: _Case) -> Decisions:
    return _own_fit(case, up=case.values["up"])


def _near_origin(case: _Case) -> Decisions:
    """Move the origin of the job when everything lies far out together, else the one source that does.

    Once nothing lies far out any more, this changes nothing.
    """
    fitted = climb_fit(case.model, case.decisions.fit)
    middles = {
        piece.ref: moved_box(piece.model.box, source.matrix).mean(axis=0)
        for piece, source in zip(case.model.members, fitted.sources, strict=True)
    }
    own = middles.get(case.source)
    if own is None or float(np.linalg.norm(own)) < FAR_METRES:
        return case.decisions
    step = tuple(float(round(value / _STEP) * _STEP) for value in own)
    others = [middle for ref, middle in middles.items() if ref != case.source]
    if all(float(np.linalg.norm(middle - own)) < FAR_METRES for middle in others):
        datum = case.decisions.fit.datum
        return case.section("fit", datum=tuple(a + b for a, b in zip(datum, step, strict=True)))
    now = case.decisions.fit.sources.get(case.source, SourceFit()).move
    return _own_fit(case, move=tuple(a - b for a, b in zip(now, step, strict=True)))


def _leave_layers(case: _Case) -> Decisions:
    source = case.source or None
    wanted = [Choice(by="layer", match=layer, source=source) for layer in case.values["layers"]]
    choices = case.decisions.receive.choices
    return case.section("receive", choices=(*choices, *(choice for choice in wanted if choice not in choices)))


def _without_copies(case: _Case) -> Decisions:
    return case.section("receive", without_copies=True)


def _also(case: _Case) -> Decisions:
    return case.section("receive", also=case.decisions.receive.also | {case.values["kind"]})


def _material(case: _Case) -> Decisions:
    rules = case.decisions.sort.rules
    given = {(rule.match, rule.material) for rule in rules if rule.by == "part"}
    wanted = [Rule(by="part", match=ref, material=case.values["material"]) for ref in dict.fromkeys(case.refs)]
    return case.section("sort", rules=(*rules, *(rule for rule in wanted if (rule.match, rule.material) not in given)))


def _flip(case: _Case) -> Decisions:
    return case.section("mend", flipped=case.decisions.mend.flipped | set(case.refs))


def _chord(case: _Case) -> Decisions:
    """Give each part a chord error of its own: the value given, in metres."""
    parts = dict(case.decisions.facet.parts)
    chord: Absolute | Relative = Absolute(metres=case.values["metres"])
    for ref in case.refs:
        parts[ref] = parts.get(ref, FacetOverride()).model_copy(update={"chord": chord})
    return case.section("facet", parts=parts)


def _ids(case: _Case) -> list[str]:
    """Materials of the looks that are named, as the job calls them, and those given by their own ids."""
    styles = [*case.values.get("styles", ()), *([case.values["style"]] if "style" in case.values else [])]
    ids = [*case.values.get("materials", ()), *([case.values["material"]] if "material" in case.values else [])]
    for style in styles:
        apart = look_id(f"{style} @{case.source}")
        ids.append(apart if apart in case.model.materials else look_id(style))
    return ids


def _sort(case: _Case, settings: SortSettings) -> Decisions:
    return case.decisions.model_copy(update={"sort": settings})


def _take_maps(case: _Case) -> Decisions:
    return _sort(case, with_guesses(case.model, case.decisions.sort, _ids(case)))


def _opacity(case: _Case) -> Decisions:
    """By the opacity of the picture that the colour comes from, or by a value for all of it."""
    settings, values = case.decisions.sort, case.values
    for id_ in _ids(case):
        finish = material_of(case.model, settings, id_).finish
        changes: dict[str, Any] = {name: values[name] for name in ("mode", "transmission", "cutoff") if name in values}
        if "value" in values:
            changes["colour"] = replace(finish.colour, alpha=float(values["value"])).hex
        if "transmission" in values:
            changes |= {"roughness": min(finish.roughness, 0.1), "metalness": 0.0}
        settings = changed(case.model, settings, id_, changes)
        base = finish.map("base colour")
        if base is not None and values.get("inverted"):
            turned = replace(base, channel="a", inverted=True)
            settings = wearing(case.model, settings, id_, {"opacity": turned}, sole=False)
    return _sort(case, settings)


def _wear(case: _Case) -> Decisions:
    """Put a picture into a slot, move the one that is there to another, or turn its numbers over."""
    settings, values = case.decisions.sort, case.values
    slot = values["slot"]
    if slot not in SLOTS:
        raise SettingsError(f"There is no slot called “{str(slot)[:40]}”.")
    for id_ in _ids(case):
        now = material_of(case.model, settings, id_).finish.map(slot)
        if "picture" in values:
            if values["picture"] not in pictures_of(case.model, settings):
                raise SettingsError("The job has no such picture.", "Give it to the job first.")
            worn = MapSettings.model_validate(
                {name: values[name] for name in ("picture", "channel", "inverted", "uv") if name in values}
            )
            placed = now or Map("")
            new = Map(worn.picture, worn.channel, worn.inverted, worn.uv, placed.offset, placed.scale, placed.turn)
            settings = wearing(case.model, settings, id_, {slot: new})
        elif now is not None and "to" in values:
            to = {values["to"]: now} if values["to"] else {}
            settings = wearing(case.model, settings, id_, {slot: None, **to})
        elif now is not None:
            turned = replace(now, inverted=bool(values.get("inverted", now.inverted)))
            settings = wearing(case.model, settings, id_, {slot: turned})
    return _sort(case, settings)


def _tame(case: _Case) -> Decisions:
    """At most so shiny: those that are named, or everything."""
    least = float(case.values["least"])
    settings = case.decisions.sort
    if case.values.get("all"):
        return _sort(case, settings.model_copy(update={"least_roughness": least}))
    for id_ in _ids(case):
        settings = changed(case.model, settings, id_, {"least_roughness": least})
    return _sort(case, settings)


def _tile(case: _Case) -> Decisions:
    """Lay all pictures of materials so many times as large as they came."""
    settings, times = case.decisions.sort, float(case.values["times"])
    for id_ in _ids(case):
        came = case.model.materials.get(id_)
        finish = (came or material_of(case.model, settings, id_)).finish
        maps: dict[Slot, Map | None] = {
            slot: replace(worn, scale=(worn.scale[0] / times, worn.scale[1] / times)) for slot, worn in finish.maps
        }
        settings = wearing(case.model, settings, id_, maps, sole=False)
    return _sort(case, settings)


def _edit(case: _Case) -> Decisions:
    settings = case.decisions.sort
    for id_ in _ids(case):
        settings = changed(case.model, settings, id_, case.values["changes"])
    return _sort(case, settings)


def _copy(case: _Case) -> Decisions:
    (id_,) = _ids(case)
    return _sort(case, copied(case.model, case.decisions.sort, id_, str(case.values["name"])[:200]))


def _reset(case: _Case) -> Decisions:
    settings = case.decisions.sort
    for id_ in _ids(case):
        settings = as_it_came(settings, id_)
    return _sort(case, settings)


def _replace(case: _Case) -> Decisions:
    """One material in the place of others, everywhere."""
    settings, to = case.decisions.sort, str(case.values["to"])
    given = dict(settings.replaced)
    for id_ in _ids(case):
        if id_ != to:
            given[id_] = to
    given.pop(to, None)
    return _sort(case, settings.model_copy(update={"replaced": given}))


def _drawn(case: _Case, **changes: Any) -> Decisions:
    drawn = case.decisions.receive.drawn
    return case.section("receive", drawn=drawn.model_copy(update=changes))


def _close_gaps(case: _Case) -> Decisions:
    return _drawn(case, close=max(case.decisions.receive.drawn.close, float(case.values["metres"])))


def _thicken(case: _Case) -> Decisions:
    return _drawn(case, thicken=True)


_DOES: dict[str, Callable[[_Case], Decisions]] = {
    "state-unit": _state_unit,
    "state-up": _state_up,
    "near-origin": _near_origin,
    "leave-layers": _leave_layers,
    "without-copies": _without_copies,
    "also": _also,
    "material": _material,
    "flip": _flip,
    "chord": _chord,
    "close-gaps": _close_gaps,
    "thicken": _thicken,
    "take-maps": _take_maps,
    "opacity": _opacity,
    "wear": _wear,
    "tame": _tame,
    "tile": _tile,
    "edit-material": _edit,
    "copy-material": _copy,
    "reset-material": _reset,
    "replace-material": _replace,
}
