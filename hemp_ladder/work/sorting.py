"""What a person does at Sort: values given a material, leftovers left out, sets of rules kept and used."""

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from hemp_ladder.core.sort.assign import assigned
from hemp_ladder.core.sort.board import values_of
from hemp_ladder.core.sort.leftovers import dropped
from hemp_ladder.core.sort.sets import RuleSet, set_of, with_set
from hemp_ladder.core.sort.settings import By
from hemp_ladder.store.tables import Job, RuleSetRow
from hemp_ladder.work.actions import decide, decisions_of
from hemp_ladder.work.fitting import plan_now
from hemp_ladder.work.sources import NothingThere, job_of


def assign(session: Session, job_id: int, by: By, values: Sequence[str], material: str) -> Job:
    """Have what has these values of a kind wear a material: rules are made or changed. Raises SettingsError for a material
    that is not there."""
    job_of(session, job_id, lock=True)
    _, now = plan_now(session, job_id)
    wanted = set(values)
    none = [0] * len(now.model.parts)
    deciding = sorted(
        {rule for item in values_of(now.taken, now.sorted, by, none) if item.value in wanted for rule in item.rules}
    )
    sort = assigned(now.decisions.sort, by, values, material, deciding)
    name = now.sorted.palette[material].name if material in now.sorted.palette else material
    what = values[0] if len(values) == 1 else f"{len(values):,} values"
    return decide(session, job_id, now.decisions.model_copy(update={"sort": sort}), f"{what[:80]} wears {name}")


def drop(session: Session, job_id: int, kinds: Sequence[str], tiny: float) -> Job:
    """Leave leftovers of these kinds out, in one decision."""
    job_of(session, job_id, lock=True)
    _, now = plan_now(session, job_id)
    receive = dropped(now.decisions.receive, now.taken, kinds, tiny)
    return decide(
        session, job_id, now.decisions.model_copy(update={"receive": receive}), f"Left out: {', '.join(kinds)}"
    )


def rule_sets(session: Session) -> list[tuple[int, str, RuleSet]]:
    """All sets that are kept, by name."""
    rows = session.scalars(select(RuleSetRow).order_by(RuleSetRow.name))
    return [(row.id, row.name, RuleSet.model_validate(row.document)) for row in rows]


def keep_rules(session: Session, job_id: int, name: str) -> None:
    """Keep the rules of a job under a name; a set of that name gives way."""
    _, decisions = decisions_of(session, job_of(session, job_id))
    document = set_of(decisions.sort).model_dump(mode="json")
    row = session.scalar(select(RuleSetRow).where(RuleSetRow.name == name))
    if row is None:
        session.add(RuleSetRow(name=name, document=document))
    else:
        row.document = document


def use_rules(session: Session, job_id: int, number: int) -> Job:
    """Put a kept set behind a job's own rules."""
    row = session.get(RuleSetRow, number)
    if row is None:
        raise NothingThere("That set of rules is not kept any more.")
    _, decisions = decisions_of(session, job_of(session, job_id, lock=True))
    sort = with_set(decisions.sort, RuleSet.model_validate(row.document))
    return decide(session, job_id, decisions.model_copy(update={"sort": sort}), f"Rules of “{row.name}”")


def forget_rules(session: Session, number: int) -> None:
    row = session.get(RuleSetRow, number)
    if row is not None:
        session.delete(row)
