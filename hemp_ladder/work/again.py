"""Runs of decisions, kept by a name and done again."""

from collections.abc import Sequence

from sqlalchemy.orm import Session

from hemp_ladder.core.again import Run, done_again, run_of
from hemp_ladder.core.changes import changes
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.findings import plural
from hemp_ladder.core.fit.lookouts import all_cameras
from hemp_ladder.store.tables import DecisionsRow, Job
from hemp_ladder.work.actions import decide
from hemp_ladder.work.fitting import plan_now
from hemp_ladder.work.kept import keep, kept, one_kept
from hemp_ladder.work.sources import NothingThere, job_of

KIND = "steps"


def runs(session: Session) -> list[tuple[int, str, Run]]:
    """All that are kept, by name."""
    return [(row.id, row.name, Run.model_validate(row.document)) for row in kept(session, KIND)]


def keep_run(session: Session, job_id: int, name: str, first: int, last: int) -> None:
    """Keep what the decisions from the first to the last, both included, changed. Raises NothingThere for decisions of
    another job, SettingsError where they changed nothing."""
    job_of(session, job_id)
    one, two = (session.get(DecisionsRow, number) for number in sorted((first, last)))
    if one is None or two is None or one.job_id != job_id or two.job_id != job_id:
        raise NothingThere("The job has no such decisions.")
    before = session.get(DecisionsRow, one.parent_id) if one.parent_id is not None else None
    start = before.document if before is not None else Decisions().model_dump(mode="json")
    run = run_of(
        Decisions.model_validate(start), Decisions.model_validate(two.document), changes(start, two.document)
    )  # fmt: skip
    keep(session, KIND, name, run.model_dump(mode="json"))


def do_again(session: Session, job_id: int, number: int, parts: Sequence[int] | None) -> Job:
    """Do a kept run again, for parts by index or for those it was for. Raises SettingsError where nothing comes of it."""
    row = one_kept(session, KIND, number)
    job_of(session, job_id, lock=True)
    _, now = plan_now(session, job_id)
    there = now.model.parts
    if parts is not None and not all(part < len(there) for part in parts):
        raise SettingsError("Some of what is chosen is not there any more.")
    on = None if parts is None else list(dict.fromkeys(there[part].decided_as for part in parts))
    members = [piece.ref for piece in now.model.members]
    run, cameras = Run.model_validate(row.document), all_cameras(now.fitted)
    done = done_again(now.decisions, run, on, there, members, cameras)
    if done.decisions == now.decisions:
        raise SettingsError(
            f"“{row.name[:60]}” changes nothing here.", "All of it is decided already, or none of it fits."
        )
    left = f", {plural(done.left_out, 'entry', 'entries')} left out" if done.left_out else ""
    return decide(session, job_id, done.decisions, f"Again: {row.name}{left}")
