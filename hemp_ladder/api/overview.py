"""Jobs as the bench shows them, but for their structure and their triangles."""

import time
from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from hemp_ladder.api.library_views import FormatView, LibraryView, PurposeView, RangeView, UnitView
from hemp_ladder.api.rungs import job_rungs
from hemp_ladder.api.shares import read_share, shipped_share
from hemp_ladder.api.views import (
    ClimbView,
    DeliveryView,
    FindingView,
    JobLine,
    JobView,
    MaterialView,
    Receipt,
    SourceView,
)  # fmt: skip
from hemp_ladder.core.choose.outlines.resolve import Role
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import LadderError
from hemp_ladder.core.facet import PURPOSES, Absolute
from hemp_ladder.core.findings import Finding
from hemp_ladder.core.fit.settings import AXES
from hemp_ladder.core.keys import joined_key
from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.join import Joined, Member
from hemp_ladder.core.model.material import Material
from hemp_ladder.core.model.references import bind
from hemp_ladder.core.model.texture import Texture
from hemp_ladder.core.offers import is_settled
from hemp_ladder.core.ranges import RANGES
from hemp_ladder.core.ship.formats import FORMATS
from hemp_ladder.core.sort.library import FIRST_MATERIAL, LIBRARY
from hemp_ladder.core.sort.settings import as_own
from hemp_ladder.core.trim.receivers import RECEIVERS
from hemp_ladder.core.units import TARGET_UNITS, UNITS
from hemp_ladder.store import meshes, model_blob
from hemp_ladder.store.tables import ClimbRow, DeliveryRow, FindingRow, Job, JobPicture
from hemp_ladder.work.actions import decisions_of, redo_target
from hemp_ladder.work.plans import Models, planned
from hemp_ladder.work.sources import Received, job_of, models_of, sources_of


def job_lines(session: Session, before: int | None = None, limit: int = 1000) -> list[JobLine]:
    """Jobs, newest first: so many, those with lower numbers than `before`."""
    lines = []
    wanted = select(Job).order_by(Job.id.desc()).limit(limit)
    jobs = session.scalars(wanted if before is None else wanted.where(Job.id < before)).all()
    made = select(JobPicture.job_id, JobPicture.made).where(JobPicture.job_id.in_([job.id for job in jobs]))
    pictured = {row.job_id: row.made for row in session.execute(made)}
    for job in jobs:
        received = sources_of(session, job.id)
        last = session.scalars(
            select(DeliveryRow).where(DeliveryRow.job_id == job.id).order_by(DeliveryRow.id.desc()).limit(1)
        ).first()
        facts = [item.ready.facts or {} for item in received if item.ready]
        files = {item["sha256"]: item for r in received for item in r.newest.files}
        climb = _last_climb(session, job)
        lines.append(
            JobLine(
                id=job.id, name=job.name, created=job.created, state=_state(received),
                files=[r.source.name for r in received], bytes=sum(item["bytes"] for item in files.values()),
                parts=sum(f["parts"] for f in facts) if facts else None,
                placements=sum(f["placements"] for f in facts) if facts else None, shipped=_shipped(last),
                meshing=climb is not None and climb.state == "working", pictured=pictured.get(job.id),
            )
        )  # fmt: skip
    return lines


def _last_climb(session: Session, job: Job) -> ClimbRow | None:
    return session.scalars(
        select(ClimbRow).where(ClimbRow.decisions_id == job.head_id).order_by(ClimbRow.id.desc()).limit(1)
    ).first()


def _state(received: list[Received]) -> Any:
    """Of all sources together: ready as soon as one is, else as busy as the busiest, else the newest's."""
    if any(item.ready for item in received):
        return "ready"
    states = [item.newest.state for item in received]
    return next((state for state in ("reading", "waiting") if state in states), states[-1] if states else "waiting")


def _shipped(delivery: DeliveryRow | None) -> Any:
    if delivery is None or delivery.state == "cancelled":
        return "none"
    if delivery.state in ("waiting", "writing"):
        return "busy"
    return "ok" if delivery.receipt and delivery.receipt["ok"] else "failed"


def job_view(session: Session, job_id: int) -> JobView:
    # Taken before anything is asked: whatever changes later is told with a later one.
    stamp = time.time_ns() // 1000
    job = job_of(session, job_id)
    row, decisions = decisions_of(session, job)
    received = sources_of(session, job_id)
    models, shown = models_of(received), models_of(received, skeletons=True)
    if shown:
        decisions = _bound(shown, decisions, shown == models)
    deliveries = session.scalars(
        select(DeliveryRow).where(DeliveryRow.job_id == job_id).order_by(DeliveryRow.id.desc()).limit(20)
    )
    sources = _sources(session, received, shown, decisions)
    climb = climb_view(session, job, models, decisions)
    delivered = [delivery_view(item, job, models) for item in deliveries]
    return JobView(
        id=job.id, name=job.name, sources=sources, state=_state(received),
        model_key=joined_key(list(shown)) if shown else None, decisions_id=row.id, decisions=decisions,
        can_undo=row.parent_id is not None, can_redo=redo_target(session, job) is not None,
        climb=climb, deliveries=delivered, rungs=job_rungs(sources, climb, delivered, decisions.ship.target.format),
        stamp=stamp,
    )  # fmt: skip


def _bound(models: Models, decisions: Decisions, whole: bool) -> Decisions:
    """The decisions calling parts as the models do, also where they were made on an earlier revision."""
    if whole:
        try:
            # Plans do not look at the target, so theirs may be another's.
            return planned(models, decisions).decisions
        except LadderError:
            pass
    return bind(decisions, model_blob.load_joined(models).parts)


def _sources(session: Session, received: list[Received], models: Models, decisions: Decisions) -> list[SourceView]:
    rows = session.scalars(
        select(FindingRow)
        .where(FindingRow.revision_id.in_([item.newest.id for item in received]))
        .order_by(FindingRow.id)
    ).all()
    joined = model_blob.load_joined(models) if models else None
    roles = _roles(models, decisions) if rows and joined else {}
    views = []
    for item in received:
        newest = item.newest
        mine = [row for row in rows if row.revision_id == newest.id]
        piece = next((p for p in joined.members if p.ref == item.source.ref), None) if joined else None
        views.append(
            SourceView(
                ref=item.source.ref, name=item.source.name, revision=newest.id, files=newest.files,
                state=newest.state, stage=newest.stage, count=newest.count, facts=newest.facts,
                share=read_share(newest.stage, newest.count, len(piece.parts) if piece else None),
                findings=[_finding(row, item.source.ref, piece, joined, decisions, roles) for row in mine],
            )
        )  # fmt: skip
    return views


def _roles(models: Models, decisions: Decisions) -> Mapping[int, Role]:
    """The part each drawn part plays; none where the decisions make no sense."""
    try:
        return planned(models, decisions).taken.shaped.roles
    except LadderError:
        return {}


def _finding(
    row: FindingRow, ref: str, piece: Member | None, joined: Joined | None, decisions: Decisions,
    roles: Mapping[int, Role],
) -> FindingView:  # fmt: skip
    """A finding about a source with its parts' places in the whole job."""
    first = piece.parts.start if piece else 0
    found = Finding.from_dict(
        {
            "code": row.code, "severity": row.severity, "where": row.where, "message": row.message,
            "remedy": row.remedy, "why": row.why, "source": ref, "parts": [first + part for part in row.parts],
            "offers": row.offers,
        }
    )  # fmt: skip
    return finding_view(found, joined, decisions, roles)


def finding_view(found: Finding, joined: Joined | None, decisions: Decisions, roles: Mapping[int, Role]) -> FindingView:
    settled = (
        joined is not None
        and (bool(found.offers) or found.code == "outlines-wait")
        and is_settled(joined, decisions, found, roles)
    )
    return FindingView.model_validate({**found.as_dict(), "settled": settled})


def delivery_view(row: DeliveryRow, job: Job, models: Models) -> DeliveryView:
    same = row.decisions_id == job.head_id and [list(item) for item in models] == row.sources
    return DeliveryView(
        id=row.id, state=row.state, stage=row.stage, share=shipped_share(row.stage), message=row.message, target=row.target,
        files=row.files, beside=row.beside_id, bundle=row.bundle, bundle_bytes=row.bundle_bytes,
        receipt=Receipt.model_validate(row.receipt) if row.receipt else None,
        created=row.created, stale=not same,
    )  # fmt: skip


def climb_view(session: Session, job: Job, models: Models, decisions: Decisions) -> ClimbView:
    """How far meshing for these decisions is."""
    if not models:
        return ClimbView(state="none", done=0, total=0)
    try:
        wanted = planned(models, decisions).wanted()
    except LadderError as error:
        return ClimbView(state="failed", done=0, total=0, message=f"{error.message} {error.remedy}".strip())
    there, failed = len(meshes.packs_of(session, wanted)), len(meshes.failures_of(session, wanted))
    if there + failed >= len(wanted):
        return ClimbView(state="done", done=there, total=len(wanted), failed=failed)
    row = _last_climb(session, job)
    state: Any = row.state if row is not None and row.state in ("cancelled", "failed") else "working"
    message = row.message if row is not None else ""
    return ClimbView(state=state, done=there, total=len(wanted), failed=failed, message=message)


def material_view(
    material: Material, apart: Mapping[str, str] = MappingProxyType({}),
    pictures: Mapping[str, Texture] = MappingProxyType({}),
) -> MaterialView:  # fmt: skip
    """With its colour among those that are told apart, where it has one; a picture's mean is part of how it looks."""
    return MaterialView(
        id=material.id, name=material.name, colour=_seen(material, pictures),
        opacity=1.0 if material.finish.opacity_mode == "opaque" else material.colour.alpha,
        own=as_own(material), apart=apart.get(material.id),
    )  # fmt: skip


def _seen(material: Material, pictures: Mapping[str, Texture]) -> str:
    """The colour that it has from afar, #rrggbb."""
    base = material.finish.map("base colour")
    texture = pictures.get(base.picture) if base else None
    if texture is None or not texture.mean:
        return material.colour.hex[:7]
    own, mean = material.colour, Colour.from_hex(texture.mean)
    return Colour(own.red * mean.red, own.green * mean.green, own.blue * mean.blue).hex


def library() -> LibraryView:
    """What the bench offers to start from."""
    return LibraryView(
        units=[UnitView(code=item.code, name=item.name, target=item.code in TARGET_UNITS) for item in UNITS.values()],
        axes=list(AXES),
        ranges={name: RangeView(least=r.least, most=r.most, start=r.start) for name, r in RANGES.items()},
        rule_material=FIRST_MATERIAL,
        materials=[material_view(material) for material in LIBRARY.values()],
        purposes=[
            PurposeView(id=id_, metres=purpose.chord.metres, degrees=purpose.degrees)
            for id_, purpose in PURPOSES.items()
            if isinstance(purpose.chord, Absolute)
        ],
        receivers=list(RECEIVERS),
        formats=[
            FormatView(
                code=item.code,
                name=item.name,
                unit=item.unit,
                up=item.up,
                group=item.group,
                carries=sorted(item.carries),
                inside=item.inside,
                one_mesh=item.one_mesh,
                right_handed=item.right_handed,
            )
            for item in FORMATS.values()
        ],
    )
