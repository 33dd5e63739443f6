"""Remedies that are decisions: what taking an offer of a finding changes."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from pydantic import ValidationError

from hemp_ladder.core.chain.steps import Operation
from hemp_ladder.core.choose.outlines.resolve import Role, shape_drawn
from hemp_ladder.core.choose.settings import Choice
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.exceptions import with_own
from hemp_ladder.core.facet import Absolute, FacetException
from hemp_ladder.core.findings import Finding, Offer
from hemp_ladder.core.fit import SourceFit, climb_fit, moved_box
from hemp_ladder.core.mend.facing import Facing
from hemp_ladder.core.mend.normals import Normals
from hemp_ladder.core.mend.repair.repair import Repair
from hemp_ladder.core.mend.settings import MendException
from hemp_ladder.core.model.join import Joined
from hemp_ladder.core.receive.review import FAR_METRES
from hemp_ladder.core.sort.remedies import CHANGES, Change, named
from hemp_ladder.core.sort.settings import Rule
from hemp_ladder.core.trim.reduce import Reduce
from hemp_ladder.core.trim.settings import TrimException

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


def take_safe(
    model: Joined, decisions: Decisions, found: Sequence[Finding]
) -> tuple[Decisions, list[tuple[Finding, Offer]]]:
    """The decisions after all safe offers of findings that are not settled, and which those were."""
    taken: list[tuple[Finding, Offer]] = []
    for item in found:
        offer = next((offer for offer in item.offers if offer.safe), None)
        if offer is not None and not is_settled(model, decisions, item):
            decisions = take_offer(model, decisions, offer, item.source, item.parts)
            taken.append((item, offer))
    return decisions, taken


def _changed(model: Joined, decisions: Decisions, offer: Offer, source: str, parts: Sequence[int]) -> Decisions:
    """The decisions after an offer, whose values nobody has checked yet."""
    if offer.does not in _DOES:
        raise SettingsError(f"There is no remedy called “{offer.does[:40]}”.")
    refs = [model.parts[part].decided_as for part in parts if 0 <= part < len(model.parts)]
    try:
        return _DOES[offer.does](_Case(model, decisions, source, refs, offer.values))
    except ValidationError:
        raise
    except (KeyError, TypeError, ValueError, ArithmeticError, AttributeError) as error:
        raise SettingsError("The remedy lacks a value, or has one that makes no sense.") from error


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
    return _own_fit(case, unit=case.values["unit"], each=None)


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
        datum = tuple(a + b for a, b in zip(fitted.offset, step, strict=True))
        return case.section("fit", datum=datum, origin=None, ground=None, lift=0.0)
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
    """One rule for all of the parts that none gives that material."""
    rules, material = case.decisions.sort.rules, case.values["material"]
    given = {ref for rule in rules if rule.by == "part" and rule.material == material for ref in rule.match}
    wanted = tuple(ref for ref in dict.fromkeys(case.refs) if ref not in given)
    return case.section("sort", rules=(*rules, Rule(by="part", match=wanted, material=material)) if wanted else rules)


def _flip(case: _Case) -> Decisions:
    return case.section("mend", flipped=case.decisions.mend.flipped | set(case.refs))


def _chord(case: _Case) -> Decisions:
    """Give the parts a chord error of their own: the value given, in metres."""
    chord = Absolute(metres=case.values["metres"])

    def own(entry: FacetException | None) -> FacetException:
        entry = entry or FacetException(by="parts", parts=tuple(dict.fromkeys(case.refs)))
        return entry.model_copy(update={"chord": chord})

    return case.section("facet", exceptions=with_own(case.decisions.facet.exceptions, case.refs, own))


def _own_step(case: _Case, name: str, make: Callable[[Operation | None], Operation]) -> Decisions:
    """Give the parts an operation of their own: made from what they go through of it now, in so far as that is said of
    them by name or of all."""
    mend, refs = case.decisions.mend, set(case.refs)
    said = [entry.says(name)[1] for entry in mend.exceptions if entry.by == "parts" and refs & set(entry.parts)]
    of_all = next((step for step in mend.steps if step.does == name), None)
    step = make(next((step for step in said if step is not None), of_all))

    def own(entry: MendException | None) -> MendException:
        entry = entry or MendException(by="parts", parts=tuple(dict.fromkeys(case.refs)))
        others = tuple(item for item in entry.steps if item.does != name)
        return entry.model_copy(update={"steps": (*others, step), "without": entry.without - {name}})

    return case.section("mend", exceptions=with_own(mend.exceptions, case.refs, own))


def _repair(case: _Case) -> Decisions:
    """The kinds given put right too, beside those that are already for any of the parts."""
    kinds = set(case.values["kinds"])
    for entry in case.decisions.mend.exceptions:
        step = entry.says("repair")[1]
        if isinstance(step, Repair) and entry.by == "parts" and set(entry.parts) & set(case.refs):
            kinds |= set(step.kinds)

    def more(now: Operation | None) -> Operation:
        if isinstance(now, Repair):
            return Repair.model_validate({**now.model_dump(), "kinds": sorted(kinds | set(now.kinds))})
        return Repair.model_validate({"kinds": sorted(kinds)})

    return _own_step(case, "repair", more)


def _face(case: _Case) -> Decisions:
    def faced(now: Operation | None) -> Operation:
        # Outward is consistent too.
        if isinstance(now, Facing) and now.kind == "outward":
            return now
        return Facing.model_validate({"kind": case.values["kind"]})

    return _own_step(case, "facing", faced)


def _smooth(case: _Case) -> Decisions:
    return _own_step(case, "normals", lambda now: now or Normals(degrees=case.values["degrees"]))


def _named(case: _Case) -> list[str]:
    """The parts that an offer names itself, else those of its finding."""
    told = case.values.get("parts")
    parts = case.model.parts
    return case.refs if told is None else [parts[part].decided_as for part in told if 0 <= part < len(parts)]


def _reduce(case: _Case) -> Decisions:
    refs = list(dict.fromkeys(_named(case)))
    step = Reduce(share=case.values["share"])
    return case.section("trim", exceptions=with_own(case.decisions.trim.exceptions, refs, own_trim(refs, step)))


def own_trim(refs: Sequence[str], step: Operation) -> Callable[[TrimException | None], TrimException]:
    """An entry of these parts' own at Trim, changed so that they go through this operation."""

    def own(entry: TrimException | None) -> TrimException:
        entry = entry or TrimException(by="parts", parts=tuple(refs))
        others = tuple(item for item in entry.steps if item.does != step.does)
        return entry.model_copy(update={"steps": (*others, step), "without": entry.without - {step.name()}})

    return own


def _hold(case: _Case) -> Decisions:
    """What is reduced goes no farther than its shape holds: these parts, or a whole lighter level."""
    trim, level, share = case.decisions.trim, case.values.get("level"), float(case.values["share"])
    if level is not None:
        levels = [
            item.model_copy(update={"steps": tuple(_held(step, share) for step in item.steps)})
            if item.name == level else item
            for item in trim.levels
        ]  # fmt: skip
        return case.section("trim", levels=tuple(levels))
    alike: dict[str, tuple[Operation, list[str]]] = {}
    for ref in dict.fromkeys(_named(case)):
        said = [entry.says("reduce")[1] for entry in trim.exceptions if entry.by == "parts" and ref in entry.parts]
        of_all = next((step for step in trim.steps if step.does == "reduce"), None)
        step = next((step for step in said if step is not None), of_all)
        if step is not None:
            alike.setdefault(step.as_key, (step, []))[1].append(ref)
    exceptions = trim.exceptions
    for step, refs in alike.values():
        exceptions = with_own(exceptions, refs, own_trim(refs, _held(step, share)))
    return case.section("trim", exceptions=exceptions)


def _held(step: Operation, share: float) -> Operation:
    return step.model_copy(update={"hold": share}) if isinstance(step, Reduce) else step


def _coarser(case: _Case) -> Decisions:
    """So many times the chord error that they have now, as far as that is said of them by name or of all."""
    facet, times = case.decisions.facet, float(case.values["times"])
    exceptions = facet.exceptions
    alike: dict[str, tuple[Any, list[str]]] = {}
    for ref in dict.fromkeys(_named(case)):
        said = [entry.chord for entry in facet.exceptions if entry.by == "parts" and ref in entry.parts and entry.chord]
        chord = said[0] if said else facet.chord
        name, most = ("metres", 1.0) if isinstance(chord, Absolute) else ("share", 0.1)
        wider = chord.model_copy(update={name: min(getattr(chord, name) * times, most)})
        alike.setdefault(repr(wider), (wider, []))[1].append(ref)
    for wider, refs in alike.values():

        def own(entry: FacetException | None, wider: Any = wider, refs: Sequence[str] = refs) -> FacetException:
            entry = entry or FacetException(by="parts", parts=tuple(refs))
            degrees = min(90.0, (entry.degrees or facet.degrees) * times**0.5)
            return entry.model_copy(update={"chord": wider, "degrees": degrees})

        exceptions = with_own(exceptions, refs, own)
    return case.section("facet", exceptions=exceptions)


def _facets_instead(case: _Case) -> Decisions:
    """Coarser facets in the place of reduction, which these parts go without from now on."""
    refs = list(dict.fromkeys(_named(case)))

    def own(entry: TrimException | None) -> TrimException:
        entry = entry or TrimException(by="parts", parts=tuple(refs))
        kept = tuple(item for item in entry.steps if item.does != "reduce")
        return entry.model_copy(update={"steps": kept, "without": entry.without | {"reduce"}})

    trim = case.decisions.trim
    changed = trim.model_copy(update={"exceptions": with_own(trim.exceptions, refs, own)})
    return _coarser(case).model_copy(update={"trim": changed})


def _target(case: _Case, **changes: Any) -> Decisions:
    return case.section("ship", target=case.decisions.ship.target.model_copy(update=changes))


def _pictures(case: _Case) -> Decisions:
    return _target(case, texture_limit=int(case.values["side"]))


def _group(case: _Case) -> Decisions:
    return _target(case, group=case.values["group"])


def _surfaces(change: Change) -> Callable[[_Case], Decisions]:
    """What changes materials: those that are named by their ids, or by the looks of the source that it is about."""

    def changed(case: _Case) -> Decisions:
        settings = change(case.model, case.decisions.sort, named(case.model, case.source, case.values), case.values)
        return case.decisions.model_copy(update={"sort": settings})

    return changed


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
    "repair": _repair,
    "face": _face,
    "smooth": _smooth,
    "reduce": _reduce,
    "hold": _hold,
    "coarser": _coarser,
    "facets-instead": _facets_instead,
    "pictures": _pictures,
    "group": _group,
    **{name: _surfaces(change) for name, change in CHANGES.items()},
}
