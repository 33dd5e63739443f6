"""The decisions in force, worked out over whatever meshes are there."""

from collections import Counter
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from hemp_ladder.api.overview import finding_view, material_view, planned
from hemp_ladder.api.structure import part_view
from hemp_ladder.api.views import DrawnView, DressView, FittedView, PartResult, ResultView
from hemp_ladder.core.climb import Plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.facet.review import review_meshes
from hemp_ladder.core.fit import moved_box
from hemp_ladder.core.keys import joined_key
from hemp_ladder.core.sort.library import find
from hemp_ladder.store import model_blob
from hemp_ladder.store.database import among
from hemp_ladder.store.tables import DecisionsRow, MeshRow
from hemp_ladder.work.actions import Models, decisions_of, job_of, models_of, sources_of

#: Bytes a vertex and a triangle take in a GLB: position and normal, and three indices.
_VERTEX_BYTES, _TRIANGLE_BYTES = 24, 9


def result(session: Session, job_id: int) -> ResultView:
    """What the job comes to now. There must be a source that is read."""
    row, decisions = decisions_of(session, job_of(session, job_id))
    models = models_of(sources_of(session, job_id), outlines=True)
    now = planned(models, decisions)
    meshes = mesh_rows(session, now)
    before = _before(session, row, models, now)
    parts = [_part_result(index, decisions, now, meshes, before.get(index)) for index in range(len(now.model.parts))]
    times = np.bincount(now.sorted.parts, minlength=len(parts)).tolist()
    box = now.taken.box()
    joined = model_blob.load_joined(models)
    noticed = review_meshes(now.fitted, now.requests, now.flipped, meshes, times)
    used = [(part, count) for part, count in zip(parts, times, strict=True) if count and part.triangles is not None]
    unique = {part.mesh: part for part, _ in used}.values()
    cut_nodes = [i for i, node in enumerate(now.model.nodes) if node.part >= len(joined.parts)]
    return ResultView.model_construct(
        decisions_id=row.id, model_key=joined_key(list(models)), sources=_sources(now),
        size=(box[1] - box[0]).tolist(), box=box.tolist(), parts=parts,
        cut_parts=[part_view(part, 1) for part in now.model.parts[len(joined.parts) :]], cut_nodes=cut_nodes,
        placements=now.sorted.placements.tolist(),
        left_out=len(now.model.columns.node) - len(now.sorted.placements),
        dresses=[
            DressView(materials=list(d.materials), rules=list(d.rules), face_slots=[list(slot) for slot in d.face_slots])
            for d in now.sorted.dresses
        ],
        dress_of=now.sorted.dress_of.tolist(), layers=now.sorted.layers, layer_of=now.sorted.layer_of.tolist(),
        materials=[material_view(find(id_)) for id_ in now.sorted.materials()],
        drawn=_drawn(now),
        triangles=sum((part.triangles or 0) * count for part, count in used),
        vertices=sum((part.vertices or 0) * count for part, count in used),
        triangles_before=_triangles(before, times, parts) if before else None,
        loose_parts=now.sorted.loose_parts(),
        inside_out=sum(1 for p, _ in used if p.watertight and p.inside_out != p.flipped),
        open_parts=sum(1 for p, _ in used if not p.watertight),
        failed_parts=sum(1 for p, _ in used if p.failed_faces),
        off_by=max((p.off_by or 0.0 for p, _ in used), default=0.0),
        glb_bytes=sum(_VERTEX_BYTES * (p.vertices or 0) + _TRIANGLE_BYTES * (p.triangles or 0) for p in unique),
        findings=[finding_view(item, now.model, decisions) for item in noticed],
    )  # fmt: skip


def _drawn(now: Plan) -> DrawnView:
    shaped = now.taken.shaped
    roles = Counter(shaped.roles.values())
    flat = sum(1 for part in shaped.roles if part in shaped.solids and not shaped.solids[part].height)
    return DrawnView(
        outlines=len(shaped.roles), solid=roles["solid"] - flat + roles["joined"], flat=flat, holes=roles["hole"],
        waiting=roles["waiting"], lines=roles["line"],
    )  # fmt: skip


def _sources(now: Plan) -> list[FittedView]:
    views = []
    for piece, source in zip(now.model.pieces, now.fitted.sources, strict=True):
        box = moved_box(piece.model.box, source.matrix)
        views.append(
            FittedView(
                ref=piece.ref, matrix=source.matrix.T.reshape(-1).tolist(), unit=source.unit,
                declared_unit=piece.model.unit, up=source.up, size=(box[1] - box[0]).tolist(),
                middle=box.mean(axis=0).tolist(), paged=piece.model.page is not None, sized=piece.model.sized,
            )
        )  # fmt: skip
    return views


def mesh_rows(session: Session, now: Plan) -> dict[str, MeshRow]:
    """Figures of the meshes of a plan that are there, by key."""
    keys = {r.key for r in now.requests if r is not None}
    return {mesh.key: mesh for mesh in session.scalars(select(MeshRow).where(among(MeshRow.key, keys)))}


def _before(session: Session, row: DecisionsRow, models: Models, now: Plan) -> dict[int, MeshRow]:
    """Each part's mesh under the nearest earlier decisions that asked for others, if all of those are there."""
    at = row.parent_id
    for _ in range(20):
        if at is None:
            break
        earlier = session.get_one(DecisionsRow, at)
        then = planned(models, Decisions.model_validate(earlier.document))
        pairs = list(enumerate(zip(then.requests, now.requests, strict=False)))
        other = {i: old.key for i, (old, new) in pairs if old is not None and new is not None}
        if any(new is not None and other.get(i, new.key) != new.key for i, (_, new) in pairs):
            rows = mesh_rows(session, then)
            if all(key in rows for key in other.values()):
                return {i: rows[key] for i, key in other.items()}
        at = earlier.parent_id
    return {}


def _triangles(before: dict[int, MeshRow], times: list[int], parts: list[PartResult]) -> int:
    known = {i: row.triangles for i, row in before.items()}
    return sum(count * (known.get(i, parts[i].triangles) or 0) for i, count in enumerate(times))


def _part_result(
    index: int, decisions: Decisions, now: Plan, meshes: dict[str, MeshRow], before: MeshRow | None
) -> PartResult:
    part, request = now.model.parts[index], now.requests[index]
    mesh = meshes.get(request.key) if request else None
    scale = float(now.fitted.scale_of(index))
    values: dict[str, Any] = {}
    if mesh is not None:
        values = {
            "pack": mesh.pack if mesh.triangles else None, "triangles": mesh.triangles, "vertices": mesh.vertices,
            "off_by": mesh.off_by * scale, "watertight": mesh.watertight, "inside_out": mesh.inside_out,
            "failed_faces": mesh.failed_faces,
        }  # fmt: skip
    return PartResult(
        mesh=request.key if request else None,
        mesh_before=before.key if before else None, pack_before=before.pack if before and before.triangles else None,
        chord=request.chord * scale if request else 0.0,
        degrees=float(np.degrees(request.angle)) if request else 0.0,
        own=part.decided_as in decisions.facet.parts, flipped=now.flipped[index], **values,
    )  # fmt: skip
