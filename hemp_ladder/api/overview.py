"""Rows and models into views: what the bench shows."""

import base64
from functools import lru_cache
from typing import Any

import numpy as np
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from hemp_ladder.api.views import (
    ClimbView,
    CustomView,
    DeliveryView,
    DressView,
    FindingView,
    HistoryLine,
    JobLine,
    JobView,
    LibraryView,
    MaterialView,
    PartResult,
    PartView,
    PurposeView,
    Receipt,
    ResultView,
    SourceView,
    StructureView,
)  # fmt: skip
from hemp_ladder.core.climb import Plan, plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.facet import PURPOSES, Absolute
from hemp_ladder.core.facet.review import review_meshes
from hemp_ladder.core.model import Model
from hemp_ladder.core.ship.settings import CUSTOMS
from hemp_ladder.core.sort.library import LIBRARY, Material, find
from hemp_ladder.store import model_blob
from hemp_ladder.store.tables import (
    ClimbRow,
    DecisionsRow,
    DeliveryRow,
    FindingRow,
    Job,
    MeshRow,
    Revision,
)  # fmt: skip
from hemp_ladder.work.actions import decisions_of, job_of, redo_target, revision_of

#: Bytes a vertex and a triangle take in a GLB: position and normal, and three indices.
_VERTEX_BYTES, _TRIANGLE_BYTES = 24, 9


def job_lines(session: Session) -> list[JobLine]:
    """All jobs, newest first."""
    lines = []
    for job in session.scalars(select(Job).order_by(Job.id.desc())):
        revision = revision_of(session, job.id)
        last = session.scalars(
            select(DeliveryRow).where(DeliveryRow.job_id == job.id).order_by(DeliveryRow.id.desc()).limit(1)
        ).first()
        facts = revision.facts or {}
        lines.append(
            JobLine(
                id=job.id, name=job.name, created=job.created, state=revision.state,
                files=[item["name"] for item in revision.files],
                bytes=sum(item["bytes"] for item in revision.files),
                parts=facts.get("parts"), placements=facts.get("placements"), shipped=_shipped(last),
            )
        )  # fmt: skip
    return lines


def _shipped(delivery: DeliveryRow | None) -> Any:
    if delivery is None or delivery.state == "cancelled":
        return "none"
    if delivery.state in ("waiting", "writing"):
        return "busy"
    return "ok" if delivery.receipt and delivery.receipt["ok"] else "failed"


def job_view(session: Session, job_id: int) -> JobView:
    job = job_of(session, job_id)
    row, decisions = decisions_of(session, job)
    revision = revision_of(session, job_id)
    findings = session.scalars(select(FindingRow).where(FindingRow.revision_id == revision.id).order_by(FindingRow.id))
    deliveries = session.scalars(
        select(DeliveryRow).where(DeliveryRow.job_id == job_id).order_by(DeliveryRow.id.desc()).limit(20)
    )
    source = SourceView(
        revision=revision.id, files=revision.files, state=revision.state, stage=revision.stage,
        count=revision.count, facts=revision.facts,
        findings=[FindingView.model_validate(item, from_attributes=True) for item in findings],
    )  # fmt: skip
    return JobView(
        id=job.id, name=job.name, source=source, decisions_id=row.id, decisions=decisions,
        can_undo=row.parent_id is not None, can_redo=redo_target(session, job) is not None,
        climb=_climb(session, job, revision, decisions),
        deliveries=[delivery_view(item, job) for item in deliveries],
    )  # fmt: skip


def delivery_view(row: DeliveryRow, job: Job) -> DeliveryView:
    return DeliveryView(
        id=row.id, state=row.state, stage=row.stage, message=row.message, target=row.target,
        files=row.files, bundle=row.bundle, bundle_bytes=row.bundle_bytes,
        receipt=Receipt.model_validate(row.receipt) if row.receipt else None,
        created=row.created, stale=row.decisions_id != job.head_id,
    )  # fmt: skip


def _climb(session: Session, job: Job, revision: Revision, decisions: Decisions) -> ClimbView:
    if revision.state != "ready" or revision.model_key is None:
        return ClimbView(state="none", done=0, total=0)
    requests = _plan(revision.model_key, decisions.model_dump_json()).requests
    wanted = {r.key for r in requests if r is not None}
    there = session.scalar(select(func.count()).select_from(MeshRow).where(MeshRow.key.in_(wanted))) or 0
    if there == len(wanted):
        return ClimbView(state="done", done=there, total=there)
    row = session.scalars(
        select(ClimbRow).where(ClimbRow.decisions_id == job.head_id).order_by(ClimbRow.id.desc()).limit(1)
    ).first()
    state: Any = "cancelled" if row is not None and row.state == "cancelled" else "working"
    return ClimbView(state=state, done=there, total=len(wanted))


@lru_cache(maxsize=16)
def _plan(key: str, decisions: str) -> Plan:
    return plan(model_blob.load(key), Decisions.model_validate_json(decisions))


def history(session: Session, job_id: int) -> list[HistoryLine]:
    """From the first decision to the one in force, newest first."""
    job = job_of(session, job_id)
    rows = {row.id: row for row in session.scalars(select(DecisionsRow).where(DecisionsRow.job_id == job_id))}
    lines: list[HistoryLine] = []
    at = job.head_id
    while at is not None:
        row = rows[at]
        lines.append(HistoryLine(id=row.id, label=row.label, created=row.created, now=row.id == job.head_id))
        at = row.parent_id
    return lines


@lru_cache(maxsize=4)
def structure(key: str) -> StructureView:
    """The tree and the parts of a model."""
    model = model_blob.load(key)
    counts = model.counts()
    return StructureView(
        model_key=key,
        parts=[
            PartView(
                ref=part.ref, name=part.name, layer=part.layer, colour=part.colour.hex if part.colour else None,
                faces=part.faces, curves=part.curves, times=counts.get(index, 0),
            )
            for index, part in enumerate(model.parts)
        ],
        node_names=[node.name for node in model.nodes],
        node_parents=[node.parent for node in model.nodes],
        node_parts=[node.part for node in model.nodes],
        world=base64.b64encode(model.world().transpose(0, 2, 1).astype("<f8").tobytes()).decode(),
        layers=model.layers,
        colours=model.colours(),
    )  # fmt: skip


def result(session: Session, job_id: int) -> ResultView:
    """The decisions in force, worked out over whatever meshes are there."""
    job = job_of(session, job_id)
    row, decisions = decisions_of(session, job)
    revision = revision_of(session, job_id)
    assert revision.model_key is not None
    model = model_blob.load(revision.model_key)
    planned = _plan(revision.model_key, decisions.model_dump_json())
    meshes = _mesh_rows(session, planned)
    before = _before(session, row, revision.model_key)
    return _result_view(row.id, revision.model_key, model, decisions, planned, meshes, before)


def _mesh_rows(session: Session, planned: Plan) -> dict[str, MeshRow]:
    keys = {r.key for r in planned.requests if r is not None}
    return {mesh.key: mesh for mesh in session.scalars(select(MeshRow).where(MeshRow.key.in_(keys)))}


def _before(session: Session, row: DecisionsRow, key: str) -> dict[int, MeshRow]:
    """Each part's mesh under the nearest earlier decisions that asked for other meshes, if all are there."""
    now = {r.key for r in _plan(key, Decisions.model_validate(row.document).model_dump_json()).requests if r}
    at = row.parent_id
    for _ in range(20):
        if at is None:
            break
        earlier = session.get_one(DecisionsRow, at)
        planned = _plan(key, Decisions.model_validate(earlier.document).model_dump_json())
        wanted = {r.key for r in planned.requests if r}
        if wanted != now:
            meshes = _mesh_rows(session, planned)
            if len(meshes) == len(wanted):
                return {i: meshes[r.key] for i, r in enumerate(planned.requests) if r}
        at = earlier.parent_id
    return {}


def _result_view(
    decisions_id: int,
    key: str,
    model: Model,
    decisions: Decisions,
    planned: Plan,
    meshes: dict[str, MeshRow],
    before: dict[int, MeshRow],
) -> ResultView:
    parts = [
        _part_result(index, model, decisions, planned, meshes, before.get(index)) for index in range(len(model.parts))
    ]
    used = [model.nodes[node].part for node in planned.sorted.placements]
    distinct = {dress: number for number, dress in enumerate(dict.fromkeys(planned.sorted.dresses))}
    box = planned.fitted.box()
    noticed = review_meshes(model, planned.requests, planned.flipped, meshes)
    with_mesh = [part for part in parts if part.triangles is not None]
    unique = {part.mesh: part for part in with_mesh}.values()
    return ResultView(
        decisions_id=decisions_id, model_key=key, matrix=planned.fitted.matrix.T.reshape(-1).tolist(),
        unit=planned.fitted.unit, declared_unit=model.unit, up=planned.fitted.up,
        size=(box[1] - box[0]).tolist(), box=box.tolist(), parts=parts, placements=planned.sorted.placements,
        dresses=[
            DressView(materials=list(d.materials), rules=list(d.rules), face_slots=[list(slot) for slot in d.face_slots]) for d in distinct
        ],
        dress_of=[distinct[dress] for dress in planned.sorted.dresses],
        layer_of=planned.sorted.layers,
        materials=[material_view(find(id_)) for id_ in planned.sorted.materials()],
        triangles=sum(parts[part].triangles or 0 for part in used),
        vertices=sum(parts[part].vertices or 0 for part in used),
        triangles_before=sum(before[part].triangles for part in used) if before else None,
        loose_parts=planned.sorted.loose_parts(model),
        inside_out=sum(1 for p in with_mesh if p.watertight and p.inside_out != p.flipped),
        open_parts=sum(1 for p in with_mesh if not p.watertight),
        failed_parts=sum(1 for p in with_mesh if p.failed_faces),
        off_by=max((p.off_by or 0.0 for p in with_mesh), default=0.0),
        glb_bytes=sum(_VERTEX_BYTES * (p.vertices or 0) + _TRIANGLE_BYTES * (p.triangles or 0) for p in unique),
        findings=[FindingView.model_validate(item, from_attributes=True) for item in noticed],
    )  # fmt: skip


def _part_result(
    index: int,
    model: Model,
    decisions: Decisions,
    planned: Plan,
    meshes: dict[str, MeshRow],
    before: MeshRow | None,
) -> PartResult:
    part, request = model.parts[index], planned.requests[index]
    mesh = meshes.get(request.key) if request else None
    scale = float(planned.fitted.scale)
    own = decisions.facet.parts.get(part.ref)
    return PartResult(
        mesh=request.key if request else None, pack=mesh.pack if mesh and mesh.triangles else None,
        mesh_before=before.key if before else None, pack_before=before.pack if before and before.triangles else None,
        triangles=mesh.triangles if mesh else None, vertices=mesh.vertices if mesh else None,
        chord=request.chord * scale if request else 0.0,
        degrees=float(np.degrees(request.angle)) if request else 0.0,
        own=own is not None, off_by=mesh.off_by * scale if mesh else None,
        watertight=mesh.watertight if mesh else None, inside_out=mesh.inside_out if mesh else None,
        failed_faces=mesh.failed_faces if mesh else None, flipped=planned.flipped[index],
    )  # fmt: skip


def material_view(material: Material) -> MaterialView:
    return MaterialView(
        id=material.id, name=material.name, colour=material.colour.hex[:7], opacity=material.colour.alpha,
        metalness=material.metalness, roughness=material.roughness,
    )  # fmt: skip


def library() -> LibraryView:
    """What the bench offers to start from."""
    return LibraryView(
        materials=[material_view(material) for material in LIBRARY.values()],
        purposes=[
            PurposeView(id=id_, metres=purpose.chord.metres, degrees=purpose.degrees)
            for id_, purpose in PURPOSES.items()
            if isinstance(purpose.chord, Absolute)
        ],
        customs={form: CustomView(unit=unit, up=up, group=group) for form, (unit, up, group) in CUSTOMS.items()},
    )
