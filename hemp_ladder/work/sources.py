"""The sources of a job: what was received for it, taken in, replaced, stopped."""

from dataclasses import dataclass
from typing import Any

from sqlalchemy import Select, select
from sqlalchemy.orm import Session

from hemp_ladder.core.errors import LadderError
from hemp_ladder.core.keys import bundle_key, model_key
from hemp_ladder.core.model.labels import unique_label
from hemp_ladder.store.database import tell
from hemp_ladder.store.tables import Job, Revision, Source
from hemp_ladder.work.plans import Models
from hemp_ladder.work.queue import defer


class NothingThere(LadderError):
    """The job, decision or delivery asked for does not exist."""

    code = "not-found"


def job_of(session: Session, job_id: int, lock: bool = False) -> Job:
    job = session.get(Job, job_id, with_for_update=lock)
    if job is None:
        raise NothingThere("There is no such job.", "Go back to the list of jobs.")
    return job


@dataclass(frozen=True)
class Received:
    """A source of a job with its newest revision, and the newest that is read, which may be an older one."""

    source: Source
    newest: Revision
    ready: Revision | None

    @property
    def model_key(self) -> str | None:
        """Of the model that is there: whole, or as much of it as its structure."""
        return self.ready.model_key if self.ready else self.newest.skeleton_key

    @property
    def busy(self) -> bool:
        return self.newest.state in ("waiting", "reading")


def sources_of(session: Session, job_id: int) -> list[Received]:
    """The job's sources in the order they came."""
    return _received(session, select(Source).where(Source.job_id == job_id, Source.candidate_for.is_(None)))


def candidates_of(session: Session, job_id: int, ref: str) -> list[Received]:
    """The candidates for a source's place in the order they came."""
    return _received(session, select(Source).where(Source.job_id == job_id, Source.candidate_for == ref))


def _received(session: Session, wanted: Select[Source]) -> list[Received]:
    sources = session.scalars(wanted.order_by(Source.id)).all()
    revisions = session.scalars(
        select(Revision).where(Revision.source_id.in_([source.id for source in sources])).order_by(Revision.id.desc())
    ).all()
    found = []
    for source in sources:
        mine = [revision for revision in revisions if revision.source_id == source.id]
        if mine:
            found.append(Received(source, mine[0], next((r for r in mine if r.state == "ready"), None)))
    return found


def models_of(received: list[Received], skeletons: bool = False) -> Models:
    """Those that are read; with skeletons, also those of which only the structure is known."""
    return tuple(
        (item.source.ref, item.source.name, item.model_key)
        for item in received
        if item.model_key is not None and (item.ready is not None or skeletons)
    )


def add_source(session: Session, job_id: int, files: list[dict[str, Any]], root: str | None = None) -> None:
    """One more source beside those that are there; what a bundle held besides is added once, however often asked."""
    job = job_of(session, job_id, lock=True)
    if root is not None:
        there = {(r.newest.root, r.newest.files[0]["sha256"]) for r in sources_of(session, job_id)}
        if (root, files[0]["sha256"]) in there:
            return
    take_in(session, job, files, root)
    tell(session, job.id)


def take_in(
    session: Session, job: Job, files: list[dict[str, Any]], root: str | None = None, candidate_for: str | None = None
) -> None:
    """One more source of these files, or one that is only a candidate, and the reading of it queued."""
    rows = session.execute(select(Source.ref, Source.name).where(Source.job_id == job.id)).all()
    taken = {row.ref for row in rows}
    name = name_among(root or files[0]["name"], {row.name for row in rows})
    ref = unique_label(name.rpartition(".")[0] or name, taken)
    source = Source(job_id=job.id, name=name, ref=ref, candidate_for=candidate_for)
    session.add(source)
    session.flush()
    read_files(session, source, files, root)


def name_among(path: str, others: set[str]) -> str:
    """What a file is called among the sources of a job: without its folders, unless another is called so."""
    bare = path.rpartition("/")[2] or path
    return (path if bare in others else bare)[:200]


def name_source(session: Session, source: Source, name: str) -> None:
    """Call a source by the file that was read, once that is known. What decisions call it changes with its name only
    while it has had one revision, before which nobody could decide anything about it."""
    others = set(session.scalars(select(Source.name).where(Source.job_id == source.job_id, Source.id != source.id)))
    called = name_among(name, others)
    if source.name == called:
        return
    source.name = called
    revisions = session.scalars(select(Revision.id).where(Revision.source_id == source.id)).all()
    if len(revisions) == 1:
        taken = set(session.scalars(select(Source.ref).where(Source.job_id == source.job_id, Source.id != source.id)))
        source.ref = unique_label(source.name.rpartition(".")[0] or source.name, taken)
    tell(session, source.job_id)


def replace_source(session: Session, job_id: int, ref: str, files: list[dict[str, Any]]) -> None:
    """A new revision of a source. The old one stands until the new one is read, and for ever if it cannot be."""
    job_of(session, job_id, lock=True)
    source = session.scalars(select(Source).where(Source.job_id == job_id, Source.ref == ref)).first()
    if source is None:
        raise NothingThere("The job has no such source.")
    source.name = files[0]["name"][:200]
    read_files(session, source, files, None)
    tell(session, job_id)


def read_again(session: Session, job_id: int, revision_id: int) -> None:
    """Have an earlier revision of a source stand again: as a new one of the same files."""
    job_of(session, job_id, lock=True)
    old = session.get(Revision, revision_id)
    source = session.get(Source, old.source_id) if old is not None else None
    if old is None or source is None or source.job_id != job_id:
        raise NothingThere("The job has no such revision.")
    name_source(session, source, old.root or old.files[0]["name"])
    read_files(session, source, old.files, old.root)
    tell(session, job_id)


def read_files(session: Session, source: Source, files: list[dict[str, Any]], root: str | None) -> None:
    """A new revision of a source, and the reading of it queued."""
    revision = Revision(source_id=source.id, files=files, root=root)
    session.add(revision)
    session.flush()
    defer(session, "receive", revision_id=revision.id)


def source_key(files: list[dict[str, Any]], root: str | None = None) -> str:
    """The key of the model that these files give."""
    pairs = [(item["name"], item["sha256"]) for item in files]
    return model_key(files[0]["sha256"] if len(files) == 1 else bundle_key(pairs), root)


def add_candidate(session: Session, job_id: int, ref: str, files: list[dict[str, Any]]) -> None:
    """Lay files beside a source, to be compared with it and put in its place, or not."""
    job = job_of(session, job_id, lock=True)
    if not any(item.source.ref == ref for item in sources_of(session, job_id)):
        raise NothingThere("The job has no such source.")
    take_in(session, job, files, candidate_for=ref)
    tell(session, job_id)


def drop_candidate(session: Session, job_id: int, number: int) -> None:
    """Take a candidate out of the job."""
    job_of(session, job_id, lock=True)
    source = session.get(Source, number)
    if source is None or source.job_id != job_id or source.candidate_for is None:
        raise NothingThere("There is no such candidate.")
    session.delete(source)
    tell(session, job_id)


def cancel_source(session: Session, job_id: int, ref: str) -> None:
    """Stop reading one source; the others go on."""
    job_of(session, job_id, lock=True)
    item = next((item for item in sources_of(session, job_id) if item.source.ref == ref), None)
    if item is None:
        raise NothingThere("The job has no such source.")
    if item.busy:
        item.newest.state = "cancelled"
        tell(session, job_id)
