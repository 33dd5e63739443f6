"""Drawn parts on a plan: what each is, how high, and where a wall is too thin."""

import base64
from collections.abc import Iterator

import numpy as np
from sqlalchemy.orm import Session

from hemp_ladder.api.result import mesh_rows
from hemp_ladder.api.views import OutlinesView, OutlineView, ThinView
from hemp_ladder.core.climb import Plan
from hemp_ladder.core.drawn.curves import Points
from hemp_ladder.core.drawn.step import Solidify
from hemp_ladder.store import model_blob
from hemp_ladder.work.actions import decisions_of
from hemp_ladder.work.plans import Models, planned
from hemp_ladder.work.sources import job_of, models_of, sources_of

#: Outlines and points that a browser draws at once without trouble.
MOST_SHOWN, MOST_POINTS = 20_000, 600_000
#: Of the outlines around one so many are named, the nearest first.
_MOST_AROUND = 4


def outlines_view(session: Session, job_id: int) -> OutlinesView:
    """Every placed outline, whether it enters or not, the largest where there are too many, in metres after Fit."""
    _, decisions = decisions_of(session, job_of(session, job_id))
    models = models_of(sources_of(session, job_id), skeletons=True)
    now = planned(models, decisions)
    shapes: list[OutlineView] = []
    points: list[Points] = []
    total, room = 0, MOST_POINTS
    for row, rings, closed in _placed(models, now):
        total += 1
        size = sum(map(len, rings))
        if len(shapes) >= MOST_SHOWN or size > room:
            continue
        room -= size
        shapes.append(_shape(now, row, rings, closed))
        points += rings
    flat = np.concatenate(points) if points else np.zeros((0, 2))
    low, high = (flat.min(axis=0), flat.max(axis=0)) if len(flat) else (np.zeros(2), np.zeros(2))
    return OutlinesView(
        shapes=shapes, total=total, box=[low.tolist(), high.tolist()],
        points=base64.b64encode((flat - (low + high) / 2).astype("<f4").tobytes()).decode(),
        thin=list(_thin(session, now)),
    )  # fmt: skip


def _placed(models: Models, now: Plan) -> Iterator[tuple[int, list[Points], list[bool]]]:
    """For every row of a drawn part its rings on the plan, the largest parts first."""
    joined = now.taken.model
    previews = [model_blob.load_preview(key) for _, _, key in models]
    rings_of: dict[int, list[tuple[Points, bool]]] = {}
    for piece, preview in zip(joined.members, previews, strict=True):
        if preview is None:
            continue
        ends = np.cumsum(preview.count)
        for part, end, count, closed in zip(preview.of, ends, preview.count, preview.closed, strict=True):
            ring = preview.points[end - count : end].astype(np.float64)
            rings_of.setdefault(piece.parts.start + int(part), []).append((ring, bool(closed)))
    columns = joined.columns
    world = now.fitted.placements()
    own = [joined.parts[part].decided_as for part in columns.part]
    first = {part.ref: i for i, part in enumerate(joined.parts) if part.drawn and not part.cut}
    rows = [(row, first[name]) for row, name in enumerate(own) if name in first]
    rows.sort(key=lambda item: -joined.parts[item[1]].size)
    for row, part in rows:
        matrix = world[columns.node[row]]
        lines = rings_of.get(part, [])
        placed = [ring @ matrix[:2, :2].T + matrix[:2, 3] for ring, _ in lines]
        if placed:
            yield row, placed, [shut for _, shut in lines]


def _shape(now: Plan, row: int, rings: list[Points], closed: list[bool]) -> OutlineView:
    model, columns = now.model, now.model.columns
    index = int(columns.part[row])
    part, scale = model.parts[index], float(now.fitted.scale_of(index))
    drawn = part.drawn
    assert drawn is not None
    solid = now.taken.shaped.solids.get(index)
    wide = solid.stroke if solid and solid.stroke else drawn.stroke
    return OutlineView(
        part=index, name=part.name, ref=part.decided_as, label=part.label, layer=part.layer, source=model.members[int(model.member_of_part[index])].ref,
        colour=part.colour.hex[:7] if part.colour else None, role=now.taken.shaped.roles.get(index, "solid" if part.cut else "line"),
        filled=drawn.fill, stroke=0.0 if drawn.clipped else wide * scale, height=solid.height * scale if solid else None,
        base=solid.base * scale if solid else None, wall=solid.wall * scale if solid else 0.0,
        gap=drawn.gap * scale if 0 < drawn.gap < 1e299 else None, counts=[len(ring) for ring in rings], closed=closed,
        inside=[model.parts[i].decided_as for i in drawn.inside[: -1 - _MOST_AROUND : -1]],
    )  # fmt: skip


def _thin(session: Session, now: Plan) -> Iterator[ThinView]:
    """Thin places of every placement that entered, in metres."""
    rows = mesh_rows(session, now)
    world = now.fitted.placements()
    for row in now.taken.rows:
        part = int(now.model.columns.part[row])
        chain = now.chains[part]
        mesh = rows.get(chain.key) if chain and isinstance(chain.first, Solidify) else None
        if mesh is None or not mesh.figures.thin:
            continue
        matrix = world[now.model.columns.node[row]]
        for x, y, width in mesh.figures.thin:
            spot = matrix[:2, :2] @ [x, y] + matrix[:2, 3]
            yield ThinView(x=spot[0], y=spot[1], width=width * float(now.fitted.scale_of(part)), part=part)
