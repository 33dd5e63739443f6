"""The history of a job: everything that was decided and received."""

from itertools import groupby

from sqlalchemy import select
from sqlalchemy.orm import Session

from hemp_ladder.api.views import HistoryLine
from hemp_ladder.core.changes import changes
from hemp_ladder.store.tables import DecisionsRow, Revision, Source
from hemp_ladder.work.sources import job_of

#: So many lines of either kind are told.
_MOST = 200


def history(session: Session, job_id: int) -> list[HistoryLine]:
    """The newest first, what was undone too. Raises NothingThere."""
    head = job_of(session, job_id).head_id
    lines = _decided(session, job_id, head) + _received(session, job_id)
    return sorted(lines, key=lambda line: line.created, reverse=True)


def _decided(session: Session, job_id: int, head: int | None) -> list[HistoryLine]:
    rows = session.scalars(
        select(DecisionsRow)
        .where(DecisionsRow.job_id == job_id, ~DecisionsRow.passing)
        .order_by(DecisionsRow.id.desc())
        .limit(_MOST)
    ).all()
    known = {row.id: row for row in rows}
    standing: set[int] = set()
    at = head
    while at is not None and at in known:
        standing.add(at)
        at = known[at].parent_id
    return [
        HistoryLine(
            id=row.id, kind="decision", label=row.label, created=row.created, now=row.id == head,
            standing=row.id in standing,
            changes=changes(known[row.parent_id].document, row.document) if row.parent_id in known else [],
        )
        for row in rows
    ]  # fmt: skip


def _received(session: Session, job_id: int) -> list[HistoryLine]:
    """A line for each revision of the sources that are there."""
    rows = session.execute(
        select(Source, Revision)
        .join(Revision)
        .where(Source.job_id == job_id, Source.candidate_for.is_(None))
        .order_by(Source.id, Revision.id)
    )
    lines = []
    for source, group in groupby((row.tuple() for row in rows), key=lambda pair: pair[0]):
        revisions = [revision for _, revision in group]
        for number, revision in enumerate(revisions):
            name = revision.files[0]["name"].rpartition("/")[2]
            newest = revision is revisions[-1]
            lines.append(
                HistoryLine(
                    id=revision.id, kind="source", created=revision.created, now=newest, standing=newest,
                    label=f"{name} in place of an earlier {source.ref}" if number else f"{name} added",
                    changes=["could not be read"] if revision.state == "refused" else [],
                )
            )  # fmt: skip
    return lines[-_MOST:]
