"""What a person does at Sort: values given a material, leftovers left out, sets of rules kept and used."""

from collections.abc import Sequence

from sqlalchemy.orm import Session

from hemp_ladder.core.sort.assign import assigned
from hemp_ladder.core.sort.board import deciders, values_of
from hemp_ladder.core.sort.leftovers import dropped
from hemp_ladder.core.sort.sets import RuleSet, set_of, with_set
from hemp_ladder.core.sort.settings import By, Rule
from hemp_ladder.store.tables import Job
from hemp_ladder.work.actions import decide, decisions_of
from hemp_ladder.work.fitting import plan_now
from hemp_ladder.work.hiding import inside_nodes, search_inside
from hemp_ladder.work.kept import keep, kept, one_kept
from hemp_ladder.work.sources import job_of

RULES = "rules"

_SEVERAL = {"part": "parts", "placement": "placements"}


def assign(session: Session, job_id: int, by: By, values: Sequence[str], material: str) -> Job:
    """Have what has these values of a kind wear a material: rules are made or changed. Raises SettingsError for a material
    that is not there."""
    job_of(session, job_id, lock=True)
    _, now = plan_now(session, job_id)
    wanted = set(values)
    if by in ("part", "placement"):
        deciding = deciders(now.taken, now.sorted, Rule(by=by, match=tuple(wanted), material=material))
    else:
        none = [0] * len(now.model.parts)
        found = values_of(now.taken, now.sorted, by, none)
        deciding = sorted({rule for item in found if item.value in wanted for rule in item.rules})
    sort = assigned(now.decisions.sort, by, values, material, deciding)
    name = now.sorted.palette[material].name if material in now.sorted.palette else material
    what = values[0] if len(values) == 1 else f"{len(values):,} {_SEVERAL.get(by, 'values')}"
    return decide(session, job_id, now.decisions.model_copy(update={"sort": sort}), f"{what[:80]} wears {name}")


def drop(session: Session, job_id: int, kinds: Sequence[str], tiny: float) -> Job:
    """Leave leftovers of these kinds out, in one decision."""
    job_of(session, job_id, lock=True)
    _, now = plan_now(session, job_id)
    inside = inside_nodes(search_inside(session, now)) if "inside others" in kinds else None
    receive = dropped(now.decisions.receive, now.taken, kinds, tiny, inside)
    return decide(
        session, job_id, now.decisions.model_copy(update={"receive": receive}), f"Left out: {', '.join(kinds)}"
    )


def rule_sets(session: Session) -> list[tuple[int, str, RuleSet]]:
    """All sets that are kept, by name."""
    return [(row.id, row.name, RuleSet.model_validate(row.document)) for row in kept(session, RULES)]


def keep_rules(session: Session, job_id: int, name: str, names: bool = False, order: bool = False) -> None:
    """Keep the rules of a job under a name, with its steps of naming and its order where they are wanted; a set of that name
    gives way."""
    _, decisions = decisions_of(session, job_of(session, job_id))
    keep(session, RULES, name, set_of(decisions.sort, names, order).model_dump(mode="json"))


def use_rules(session: Session, job_id: int, number: int) -> Job:
    """Put a kept set behind a job's own rules."""
    row = one_kept(session, RULES, number)
    _, decisions = decisions_of(session, job_of(session, job_id, lock=True))
    sort = with_set(decisions.sort, RuleSet.model_validate(row.document))
    return decide(session, job_id, decisions.model_copy(update={"sort": sort}), f"Rules of “{row.name}”")
