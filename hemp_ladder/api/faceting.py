"""Swatches and curves of facet settings, worked out over whatever is measured."""

from collections.abc import Mapping, Sequence

from sqlalchemy.orm import Session

from hemp_ladder.api.facet_views import (
    ByViewIn,
    ByViewView,
    CurvePoint,
    SettingsCurve,
    SpreadIn,
    SpreadPart,
    SpreadView,
    SwatchesView,
    SwatchPart,
    SwatchView,
    TryIn,
)  # fmt: skip
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.climb import Plan
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.facet.allowance import knee
from hemp_ladder.core.facet.gauge import gauged
from hemp_ladder.core.facet.settings import FacetSettings, scaled
from hemp_ladder.core.ship.costs import cost_of
from hemp_ladder.core.tries import Ladder, heaviest, rungs, tried
from hemp_ladder.store import meshes
from hemp_ladder.store.meshes import Stored
from hemp_ladder.work.facets import gauging, spreading
from hemp_ladder.work.fitting import plan_now
from hemp_ladder.work.trimming import load_of, want_grades

#: Parts of a swatch that nobody chose, at the most.
_SHOWN = 40
#: Parts that are measured at all settings, at the most.
_CURVED = 1000


def fine_parts(now: Plan, parts: Sequence[int]) -> list[int]:
    """Those of some parts, or of all for none, whose facets a setting decides. Raises SettingsError where there is none."""
    wanted = set(parts) if parts else None
    found = [
        part for part in sorted(now.taken.parts) if (wanted is None or part in wanted)
        and (chain := now.chains[part]) is not None and chain.first.fineness is not None
    ]  # fmt: skip
    if not found:
        raise SettingsError(
            "None of these parts has facets to decide: they came as triangles.", "Choose solids, buildings or drawings."
        )
    return found


def swatches(session: Session, job_id: int, parts: Sequence[int], settings: Sequence[TryIn]) -> SwatchesView:
    """Parts as they are and at each setting. What is not there is queued; ask again."""
    now = plan_now(session, job_id)[1]
    able = fine_parts(now, parts)
    chosen = able
    if not parts:
        figures = meshes.stored(session, {chain.key for part in able if (chain := now.chains[part]) is not None})
        weight = {
            part: found.figures.triangles for part in able
            if (chain := now.chains[part]) is not None and (found := figures.get(chain.key)) is not None
        }  # fmt: skip
        chosen = list(heaviest(weight, _SHOWN)) or able[:_SHOWN]
    rows: list[tuple[TryIn | None, dict[int, Chain]]] = [
        (None, {part: chain for part in chosen if (chain := now.chains[part]) is not None})
    ]
    rows += [(item, tried(now, chosen, _facet(now, item))) for item in settings]
    wanted = {chain.key: chain for _, row in rows for chain in row.values()}
    there, failed = meshes.stored(session, wanted), meshes.failures_of(session, wanted)
    missing = [chain for key, chain in wanted.items() if key not in there and key not in failed]
    if missing:
        want_grades(session, job_id, missing)
    told = [_swatch(now, item, row, there, failed) for item, row in rows]
    return SwatchesView(parts=chosen, left=len(able) - len(chosen), swatches=told)


def _facet(now: Plan, setting: TryIn) -> FacetSettings:
    told = {name: getattr(setting, name) for name in ("chord", "degrees", "longest", "shortest", "even")}
    return now.decisions.facet.model_copy(update=told)


def _swatch(
    now: Plan, setting: TryIn | None, row: Mapping[int, Chain], there: Mapping[str, Stored], failed: Mapping[str, str]
) -> SwatchView:
    parts, offs, bounds, areas, samples, seconds = [], {}, [], [], 0, 0.0
    for part, chain in row.items():
        found = there.get(chain.key)
        if found is None:
            parts.append(SwatchPart(part=part, note=failed.get(chain.key, "")))
            continue
        told, scale = gauged(found.figures), float(now.fitted.scale_of(part))
        offs[part] = told["off"] * scale
        bounds.append(told["bound"] * scale if "bound" in told else None)
        if "mean" in told:
            areas.append((found.figures.area * scale**2, told["mean"] * scale))
        samples += int(told.get("samples", 0))
        seconds += told["seconds"]
        parts.append(SwatchPart(
            part=part, mesh=chain.key, pack=found.pack if found.figures.triangles else None,
            triangles=found.figures.triangles, off=offs[part],
        ))  # fmt: skip
    chains = [row.get(part) for part in range(len(now.chains))]
    load = load_of(now, {key: item.figures for key, item in there.items()}, chains)
    costs = cost_of(load, now.decisions.ship.target)
    known = [item for item in bounds if item is not None]
    whole = sum(area for area, _ in areas)
    worst = max(offs, key=lambda part: offs[part], default=None)
    return SwatchView(
        setting=setting, parts=parts, ready=all(item.triangles is not None or item.note for item in parts),
        triangles=costs.triangles, vertices=sum(f.vertices * n for _, f, n in load.rows()),
        bytes=costs.bytes - costs.picture_bytes, off=offs[worst] if worst is not None else 0.0,
        mean=sum(area * mean for area, mean in areas) / whole if whole else None,
        bound=max(known) if known and len(known) == len(bounds) else None, samples=samples, worst=worst,
        seconds=seconds,
    )  # fmt: skip


def curve(session: Session, job_id: int, parts: Sequence[int]) -> SettingsCurve:
    """Error and triangles of parts at settings around that in force for the first of them. What is not measured is queued, a
    slice at a time; ask again."""
    now = plan_now(session, job_id)[1]
    chosen = fine_parts(now, parts)
    if len(chosen) > _CURVED:
        raise SettingsError(
            f"{len(chosen):,} parts are too many to be measured at {len(rungs())} settings each.",
            f"Choose {_CURVED:,} at the most.",
        )
    facet = now.decisions.facet
    chord, degrees = facet.chord, facet.degrees
    if parts:
        own = [facet.exceptions[number] for number in now.held.facet.get(chosen[0], ())]
        chord = next((entry.chord for entry in own if entry.chord is not None), chord)
        degrees = next((entry.degrees for entry in own if entry.degrees is not None), degrees)
    settings = []
    for times in rungs():
        tried_chord, tried_degrees = (chord, degrees) if times == 1 else scaled(chord, degrees, times)
        edges = {"longest": facet.longest, "shortest": facet.shortest, "even": facet.even}
        settings.append(TryIn(chord=tried_chord, degrees=tried_degrees, **edges))
    rows = [tried(now, chosen, _facet(now, item)) for item in settings]
    wanted = {chain.key: chain for row in reversed(rows) for chain in row.values()}
    found = gauging.known(session, wanted)
    lacking = found.lacking(wanted)
    if lacking:
        gauging.want(session, job_id, [wanted[key] for key in lacking])
    times_of = _times(now)
    points = [_point(now, item, row, found, times_of) for item, row in zip(settings, rows, strict=True)]
    whole = [n for n, point in enumerate(points) if point.known == len(rows[n])]
    bend = knee([points[n].triangles for n in whole], [points[n].off for n in whole]) if not lacking else None
    return SettingsCurve(
        points=points, parts=len(chosen), now=rungs().index(1.0), knee=whole[bend] if bend is not None else None,
        measured=len(wanted) - len(lacking), wanted=len(wanted),
    )  # fmt: skip


def _times(now: Plan) -> list[int]:
    counts = [0] * len(now.model.parts)
    for part in now.sorted.parts.tolist():
        counts[part] += 1
    return counts


def _point(
    now: Plan, setting: TryIn, row: Mapping[int, Chain], found: gauging.Gauges, times: Sequence[int]
) -> CurvePoint:
    known = triangles = vertices = 0
    off = seconds = 0.0
    for part, chain in row.items():
        told = found.told.get(chain.key)
        if told is None:
            known += chain.key in found.failed
            continue
        known += 1
        triangles += int(told["triangles"]) * times[part]
        vertices += int(told["vertices"]) * times[part]
        off = max(off, told["off"] * float(now.fitted.scale_of(part)))
        seconds += told["seconds"]
    return CurvePoint(
        setting=setting, known=known, triangles=triangles, vertices=vertices, off=off, seconds=seconds
    )  # fmt: skip


#: Parts of an allotment that are told one by one.
_TOLD = 200


def allowance(session: Session, job_id: int, given: SpreadIn) -> SpreadView:
    """What spreading an allowance comes to, as far as it is known."""
    found = spreading.allot(session, job_id, given.allowance, given.seen)
    if isinstance(found, spreading.Waiting):
        return SpreadView(state=found.what, measured=found.measured, wanted=found.wanted)
    _, spread, outcome = found
    changed = [part for part in outcome.times if outcome.after[part] != outcome.before[part]]
    changed.sort(key=lambda part: (-abs(outcome.after[part] - outcome.before[part]), part))
    keys = len(spread.keys())
    return SpreadView(
        state="done", measured=keys, wanted=keys, allowed=given.allowance.value,
        total=outcome.total, triangles=outcome.triangles, fixed=outcome.fixed, error=outcome.error, more=outcome.more,
        in_pixels=given.seen is not None, changed=len(changed), free=len(outcome.times),
        parts=[
            SpreadPart(
                part=part, times=outcome.times[part], triangles_now=outcome.before[part],
                triangles=outcome.after[part], error=outcome.errors[part],
            )
            for part in changed[:_TOLD]
        ],
    )  # fmt: skip


def by_view(session: Session, job_id: int, given: ByViewIn) -> ByViewView:
    """How fine parts must be for lookouts, as far as that is known."""
    found = spreading.look(session, job_id, given.seen)
    if isinstance(found, spreading.Waiting):
        return ByViewView(state=found.what)
    now, view = found
    ladder = Ladder(now)
    own = ladder.at(1.0)
    chords = [
        own[part].first.fineness[0] * times * float(now.fitted.scale_of(part))  # type: ignore[index]
        for part, times in view.times.items()
        if part in own
    ]
    fine = {part for part in now.taken.parts if (chain := now.chains[part]) is not None and chain.first.fineness}
    return ByViewView(
        state="done", near=len(view.near), middle=len(view.middle), far=len(view.far),
        unseen=len(view.unseen), fixed=len(fine) - len(view.times), finest=min(chords, default=0.0),
        coarsest=max(chords, default=0.0),
    )  # fmt: skip


_EARLY = SettingsError("Not everything is known yet.", "Work it out first, and use it then.")


def use_allowance(session: Session, job_id: int, given: SpreadIn) -> None:
    """Put in force what spreading an allowance comes to. Raises SettingsError while that is not known."""
    found = spreading.allot(session, job_id, given.allowance, given.seen)
    if isinstance(found, spreading.Waiting):
        raise _EARLY
    _, spread, outcome = found
    spreading.decide_allotment(session, job_id, spread, outcome, given.seen)


def use_views(session: Session, job_id: int, given: ByViewIn) -> None:
    """Put in force how fine parts must be for lookouts. Raises SettingsError while that is not known."""
    found = spreading.look(session, job_id, given.seen)
    if isinstance(found, spreading.Waiting):
        raise _EARLY
    spreading.decide_views(session, job_id, found[0], given.seen, found[1])
