"""Facets worked out: for what lookouts show, or within an allowance. Both are a decision once all is known."""

from dataclasses import dataclass

from sqlalchemy.orm import Session

from hemp_ladder.core.byview import ByView, by_view
from hemp_ladder.core.byview import decided as by_view_decided
from hemp_ladder.core.climb import Plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.facet.settings import Allowance, FacetSettings, SeenFrom
from hemp_ladder.core.facet.sight import Sight
from hemp_ladder.core.findings import plural
from hemp_ladder.core.spreads import Outcome, Spreading, by_size
from hemp_ladder.core.units import say_bytes
from hemp_ladder.store import meshes
from hemp_ladder.work.actions import decide, decisions_of
from hemp_ladder.work.facets import gauging
from hemp_ladder.work.facets.seeing import search_sight, sight_of
from hemp_ladder.work.fitting import plan_now
from hemp_ladder.work.sources import job_of


@dataclass(frozen=True)
class Waiting:
    """What is still to be known: meshes in force (`meshing`), what lookouts show (`looking`), or other settings
    (`measuring`), of which so many are known."""

    what: str
    measured: int = 0
    wanted: int = 0


def seen_by(session: Session, job_id: int, now: Plan, seen: SeenFrom) -> Sight | Waiting:
    """What lookouts show of the parts; asked for where nobody looked yet. Raises SettingsError where there are none."""
    search = search_sight(session, now, seen)
    if not _all_made(session, now):
        return Waiting("meshing")
    found = sight_of(search)
    if found is None:
        search.want(session, job_id=job_id, seen=seen.model_dump(mode="json"))
        return Waiting("looking")
    return found


def _all_made(session: Session, now: Plan) -> bool:
    """Made and stored, or known to fail: what was only measured shows nothing."""
    keys = {chain.key for chain in now.chains if chain is not None}
    return keys <= meshes.packs_of(session, keys).keys() | meshes.failures_of(session, keys).keys()


def allot(
    session: Session, job_id: int, allowance: Allowance, seen: SeenFrom | None
) -> tuple[Plan, Spreading, Outcome] | Waiting:
    """Spread an allowance over a job; what is not measured is asked for. Raises what `Spreading.solve` does."""
    now = plan_now(session, job_id)[1]
    if not _all_made(session, now):
        return Waiting("meshing")
    weights = by_size(now)
    if seen is not None:
        sight = seen_by(session, job_id, now, seen)
        if isinstance(sight, Waiting):
            return sight
        weights = sight.pixels
    spreading = Spreading(now, allowance, now.decisions.ship.target, weights)
    keys = {chain.key for chain in now.chains if chain is not None}
    found = gauging.known(session, keys | spreading.keys())
    while True:
        outcome = spreading.solve(found.told, found.failed)
        if isinstance(outcome, Outcome):
            return now, spreading, outcome
        more = gauging.known(session, keys | spreading.keys())
        if more.lacking([chain.key for chain in outcome]):
            lacking = more.lacking(spreading.keys())
            gauging.want(session, job_id, outcome)
            return Waiting("measuring", len(spreading.keys()) - len(lacking), len(spreading.keys()))
        found = more


def decide_allotment(
    session: Session, job_id: int, spreading: Spreading, outcome: Outcome, seen: SeenFrom | None
) -> None:
    """Put an allotment in force."""
    told = spreading.allowance
    said = say_bytes(round(told.value)) if told.by == "bytes" else plural(round(told.value), "triangle")
    kept = {"seen": seen} if seen is not None else {}
    _decide(session, job_id, spreading.now, spreading.decided(outcome, **kept), f"Facets within {said}")


def look(session: Session, job_id: int, seen: SeenFrom) -> tuple[Plan, ByView] | Waiting:
    """How fine parts must be for lookouts; asked for where nobody looked yet."""
    now = plan_now(session, job_id)[1]
    sight = seen_by(session, job_id, now, seen)
    return sight if isinstance(sight, Waiting) else (now, by_view(now, seen, sight))


def decide_views(session: Session, job_id: int, now: Plan, seen: SeenFrom, found: ByView) -> None:
    """Put in force how fine parts must be for lookouts."""
    _decide(session, job_id, now, by_view_decided(now, seen, found), "Facets by what lookouts show")


def _decide(session: Session, job_id: int, now: Plan, facet: FacetSettings, label: str) -> None:
    job = job_of(session, job_id, lock=True)
    _, given = decisions_of(session, job)
    wanted = now.decisions.model_copy(update={"facet": facet, "ship": given.ship})
    decide(session, job_id, Decisions.model_validate(wanted.model_dump()), label)
