"""The tables. Figures live in rows, bytes in the blob store."""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import BigInteger, DateTime, ForeignKey, Index, UniqueConstraint
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


def _now() -> datetime:
    return datetime.now(UTC)


class Base(DeclarativeBase):
    type_annotation_map = {dict[str, Any]: JSONB, list[Any]: JSONB, datetime: DateTime(timezone=True)}


class Job(Base):
    """One commission. `head_id` is the decision in force; undo and redo move it."""

    __tablename__ = "jobs"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    created: Mapped[datetime] = mapped_column(default=_now)
    head_id: Mapped[int | None] = mapped_column(ForeignKey("decisions.id", use_alter=True))


class JobPicture(Base):
    """How a job looked on its bench last, small, for the list of jobs."""

    __tablename__ = "job_pictures"
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), primary_key=True)
    media_type: Mapped[str]
    data: Mapped[bytes]
    made: Mapped[datetime] = mapped_column(default=_now)


class Source(Base):
    """A file, or several that belong together, as received for a job. `ref` is what decisions call it. One that is
    only a candidate for another's place says for whose, and is no part of the job."""

    __tablename__ = "sources"
    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    ref: Mapped[str]
    candidate_for: Mapped[str | None]


class Revision(Base):
    """One version of a source. `files` is [{name, sha256, bytes}]; `facts` what it declares.

    `root` names the one of several files that is read, where a bundle holds
    more than one thing. `skeleton_key` is set when the structure is known,
    `model_key` when all is.

    state: waiting, reading, ready, refused or cancelled.
    """

    __tablename__ = "revisions"
    id: Mapped[int] = mapped_column(primary_key=True)
    source_id: Mapped[int] = mapped_column(ForeignKey("sources.id", ondelete="CASCADE"), index=True)
    files: Mapped[list[Any]]
    created: Mapped[datetime] = mapped_column(default=_now)
    state: Mapped[str] = mapped_column(default="waiting")
    stage: Mapped[str] = mapped_column(default="")
    count: Mapped[int] = mapped_column(default=0)
    root: Mapped[str | None]
    skeleton_key: Mapped[str | None]
    model_key: Mapped[str | None]
    facts: Mapped[dict[str, Any] | None]


class FindingRow(Base):
    """A finding about a revision, in order of gravity."""

    __tablename__ = "findings"
    id: Mapped[int] = mapped_column(primary_key=True)
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id", ondelete="CASCADE"), index=True)
    code: Mapped[str]
    severity: Mapped[str]
    where: Mapped[str]
    message: Mapped[str]
    remedy: Mapped[str]
    why: Mapped[str]
    parts: Mapped[list[Any]] = mapped_column(default=list)
    offers: Mapped[list[Any]] = mapped_column(default=list)


class DecisionsRow(Base):
    """One state of a job's decisions. Rows are only added; `parent_id` is what undo goes back to. `passing` is a moment
    of a movement, such as a slider's, that went on."""

    __tablename__ = "decisions"
    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("decisions.id", ondelete="CASCADE"))
    label: Mapped[str]
    document: Mapped[dict[str, Any]]
    created: Mapped[datetime] = mapped_column(default=_now)
    passing: Mapped[bool] = mapped_column(default=False)


class ClimbRow(Base):
    """The making of the meshes that one state of the decisions lacks.

    state: working, done, cancelled, or failed, with a `message` that says why. `keys` lists the meshes it makes.
    """

    __tablename__ = "climbs"
    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    decisions_id: Mapped[int] = mapped_column(ForeignKey("decisions.id", ondelete="CASCADE"))
    state: Mapped[str] = mapped_column(default="working")
    message: Mapped[str] = mapped_column(default="")
    keys: Mapped[list[Any]]
    created: Mapped[datetime] = mapped_column(default=_now)


class MeshRow(Base):
    """Figures of a mesh by content key, and the pack that holds its triangles."""

    __tablename__ = "meshes"
    key: Mapped[str] = mapped_column(primary_key=True)
    pack: Mapped[str]
    told: Mapped[dict[str, Any]] = mapped_column("figures")


class MeshLossRow(Base):
    """One row: how often meshes were taken out of the store. The database counts it (migration 0005)."""

    __tablename__ = "mesh_losses"
    times: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)


class GaugeRow(Base):
    """What was measured of a mesh that is not kept, by its content key: how it would be."""

    __tablename__ = "gauged"
    key: Mapped[str] = mapped_column(primary_key=True)
    told: Mapped[dict[str, Any]]
    created: Mapped[datetime] = mapped_column(default=_now, index=True)


class FailureRow(Base):
    """A mesh that could not be made, by its content key, and why. Taken away when it is to be tried again."""

    __tablename__ = "mesh_failures"
    key: Mapped[str] = mapped_column(primary_key=True)
    message: Mapped[str]
    created: Mapped[datetime] = mapped_column(default=_now)


class ShelfRow(Base):
    """A material that is kept for other jobs: `document` holds it with the pictures that it wears."""

    __tablename__ = "shelf"
    id: Mapped[int] = mapped_column(primary_key=True)
    document: Mapped[dict[str, Any]]
    created: Mapped[datetime] = mapped_column(default=_now)


class KeptRow(Base):
    """What is kept by a name for other jobs: a set of `rules`, a run of `steps`, `purposes` of facets."""

    __tablename__ = "kept"
    __table_args__ = (UniqueConstraint("kind", "name", name="kept_kind_name"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str] = mapped_column(server_default="rules")
    name: Mapped[str]
    document: Mapped[dict[str, Any]]
    created: Mapped[datetime] = mapped_column(default=_now)


class DeliveryRow(Base):
    """Files made for a target, of `sources`, [[ref, name, model key]]. state: waiting, writing, done, failed or cancelled.
    `beside_id` is the delivery of another level that was asked for with it."""

    __tablename__ = "deliveries"
    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    decisions_id: Mapped[int] = mapped_column(ForeignKey("decisions.id", ondelete="CASCADE"))
    beside_id: Mapped[int | None]
    sources: Mapped[list[Any]] = mapped_column(default=list)
    target: Mapped[dict[str, Any]]
    state: Mapped[str] = mapped_column(default="waiting")
    stage: Mapped[str] = mapped_column(default="")
    message: Mapped[str] = mapped_column(default="")
    files: Mapped[list[Any]] = mapped_column(default=list)
    bundle: Mapped[str | None]
    bundle_bytes: Mapped[int] = mapped_column(BigInteger, default=0)
    receipt: Mapped[dict[str, Any] | None]
    created: Mapped[datetime] = mapped_column(default=_now)


Index("climbs_by_decisions", ClimbRow.decisions_id)
