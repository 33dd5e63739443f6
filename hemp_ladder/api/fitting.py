"""Fit for the bench: what can be picked, what was measured, and what a way would come to."""

from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from hemp_ladder.api.fit_views import (
    FittingView,
    LikelyView,
    NoteView,
    PickIn,
    SourceSizeView,
    SpotView,
    WayLook,
)  # fmt: skip
from hemp_ladder.core.climb import Plan
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.fit.doubts.likely import likely_units
from hemp_ladder.core.fit.doubts.mistakes import mistake_of
from hemp_ladder.core.fit.doubts.upright import resting
from hemp_ladder.core.fit.notes import AGREES, Measured, disagreeing, single_precision, spot_of
from hemp_ladder.core.fit.settings import Spot
from hemp_ladder.core.fit.standing import Standing
from hemp_ladder.core.fit.ways import (
    AlignWay,
    AskedAgain,
    TrueWay,
    Way,
    alignment,
    factor_for,
    number_metres,
)
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.readers import reader_called
from hemp_ladder.core.units import say_metric
from hemp_ladder.work.fitting import notes_of, plan_now, standing_now
from hemp_ladder.work.marking import MarkedBody, body_of, marks_there, want_marks
from hemp_ladder.work.sources import NothingThere

_OTHERS = ("mm", "cm", "m", "in", "ft")


def fit_view(session: Session, job_id: int) -> FittingView:
    now, standing = standing_now(session, job_id)
    notes = notes_of(session, job_id, now, standing, ask=True)
    box = standing.box()
    received, rounded = single_precision(now.fitted, box)
    offset = list(now.fitted.offset)
    used = {int(part) for part in now.sorted.parts.tolist() if now.chains[part] is not None}
    placed = sum(1 for part in now.sorted.parts.tolist() if part in used)
    shared = len({(now.chains[part].key, now.flipped[part]) for part in used})  # type: ignore[union-attr]
    return FittingView(
        sources=[
            SourceSizeView(
                ref=piece.ref, declared=piece.model.unit, declared_in=_where(piece.model), likely=_likely(piece.model),
                **_tip(standing, piece.ref),
            )
            for piece in now.model.members
        ],
        notes=[_note_view(now, item) for item in notes],
        disagree=_disagree(notes), offset=offset, offset_said=_offset_said(offset), rounding_received=received,
        rounding_now=rounded, meshes=shared, meshes_in_place=placed, ground=float(box[0, 2]),
    )  # fmt: skip


def _tip(standing: Standing, ref: str) -> dict[str, Any]:
    found = resting(standing.placed(ref)) if ref in standing.hulls else None
    down = [0.0, 0.0, 0.0]
    if found is not None:
        down["xyz".index(found[0][-1])] = 1.0 if found[0].startswith("-") else -1.0
    return {"stands_on_tip": found is not None, "down": down if found is not None else None}


def _where(model: Model) -> str:
    reader = reader_called(model.format)
    return reader.unit_in if reader is not None and (model.unit or model.sized) else ""


def _likely(model: Model) -> list[LikelyView]:
    reader = reader_called(model.format)
    units = reader.units if reader else _OTHERS
    return [
        LikelyView(unit=item.unit, size=item.size, reasons=list(item.reasons)) for item in likely_units(model, units)
    ]


def _offset_said(offset: list[float]) -> str | None:
    if not any(offset):
        return None
    return ", ".join(
        f"{axis} {value:,.6f}".rstrip("0").rstrip(".") + " m" for axis, value in zip("XYZ", offset, strict=True)
    )


def _note_view(now: Plan, item: Measured) -> NoteView:
    note = item.note
    labels = [_label(now, spot) for spot in note.spots]
    kinds = {
        "distance": "distance", "along": f"along {(note.axis or 'z').upper()}", "angle": "angle", "radius": "radius",
        "box": "box",
    }  # fmt: skip
    told = " to ".join(labels) if labels else _label_of(now, note.part) or "everything"
    return NoteView(
        note=note, said=note.label or f"{kinds[note.kind]}: {told}", value=item.value,
        box=list(item.box) if item.box else None, points=[list(point) for point in item.points], off=item.off,
        agrees=item.agrees, changed=item.changed, lost=item.lost,
    )  # fmt: skip


def _label_of(now: Plan, ref: str | None) -> str | None:
    return next((part.label for part in now.model.parts if part.ref == ref), None) if ref else None


def _label(now: Plan, spot: Spot) -> str:
    part = _label_of(now, spot.part)
    kind = "face" if spot.kind == "face centre" else spot.kind
    return f"{kind} of {part}" if part else kind


def _disagree(notes: list[Measured]) -> str | None:
    apart = disagreeing(notes)
    if not apart:
        return None
    told = ", ".join(f"measurement {id_} asks for a factor of {factor:.6g}" for id_, factor in apart)
    return f"Known lengths disagree: {told}. One of them is measured at the wrong place, or the drawing is wrong."


def marks_of_part(session: Session, job_id: int, part: int) -> MarkedBody | None:
    """The body whose marks are there; None while they are being made, which is asked for."""
    now = plan_now(session, job_id)[1]
    if not 0 <= part < len(now.model.parts):
        raise NothingThere("There is no such part.")
    body = body_of(now, part)
    if body is None:
        raise NothingThere("That part has no surface, so there is nothing to pick on it.")
    if marks_there(body) is None:
        want_marks(session, job_id, body)
        return None
    return body


def spots(session: Session, job_id: int, picks: list[PickIn]) -> list[SpotView]:
    """What was pointed at, as points of the sources, worked out in double precision."""
    now, standing = standing_now(session, job_id)
    return [_spot_view(now, standing, _spot(now, standing, pick)) for pick in picks]


def _spot(now: Plan, standing: Standing, pick: PickIn) -> Spot:
    model = now.model
    if not 0 <= pick.node < len(model.nodes) or model.nodes[pick.node].part < 0:
        raise SettingsError("Nothing stands there any more.", "Pick it again.")
    index = model.nodes[pick.node].part
    part, ref = model.parts[index], model.members[int(model.member_of_node[pick.node])].ref
    place = model.standing[pick.node]
    if pick.mark is not None:
        body = body_of(now, index)
        marks = marks_there(body) if body is not None else None
        if marks is None or pick.mark >= len(marks.at):
            raise SettingsError("What can be picked on that part is not known yet.", "Pick it again in a moment.")
        return spot_of(ref, part.ref, marks, pick.mark, place)
    if pick.at is None or not np.isfinite(pick.at).all():
        raise SettingsError("Nothing was picked.", "Pick a point on the model.")
    spot = standing.spot_at(np.array(pick.at), ref)
    way = None
    if pick.normal is not None and np.isfinite(pick.normal).all() and any(pick.normal):
        matrix = now.fitted.matrix_of(ref)
        assert matrix is not None
        turned = matrix[:3, :3].T @ np.array(pick.normal)
        way = tuple((turned / np.linalg.norm(turned)).tolist())
    return spot.model_copy(update={"kind": "surface", "part": part.ref, "way": way})


def _spot_view(now: Plan, standing: Standing, spot: Spot) -> SpotView:
    scale = float(standing.fitted.sources[standing.refs.index(spot.source)].scale)
    part = _label_of(now, spot.part) or ""
    words = {
        "corner": "corner", "edge middle": "middle of an edge", "face centre": "centre of a flat face",
        "surface": "point on the surface", "centre": f"centre of a circle {say_metric(2 * spot.radius * scale)} across",
    }  # fmt: skip
    return SpotView(
        spot=spot, where=standing.where(spot).tolist(), said=f"{words.get(spot.kind, spot.kind)} of {part}",
        way=standing.direction(spot).tolist() if spot.way is not None else None,
    )  # fmt: skip


def look(session: Session, job_id: int, way: Way) -> WayLook:
    """What a way would come to. Raises SettingsError for what makes no sense."""
    now, standing = standing_now(session, job_id)
    told = WayLook(size=[])
    if isinstance(way, TrueWay):
        factor = factor_for(standing, way.first, way.second, way.length)
        mistake = mistake_of(factor, number_metres(standing, way.first.source))
        told.measured, told.wanted, told.factor = way.length / factor, way.length, factor
        if mistake is not None:
            told.mistake, told.unit = mistake.said, mistake.unit
        told.disagree = _against(notes_of(session, job_id, now, standing), way, factor)
    if isinstance(way, AlignWay):
        told.residuals = alignment(standing, way).residuals.tolist()
    try:
        after = way.apply(standing)
    except AskedAgain as asked:
        told.asked = f"{asked.message} {asked.remedy}"
        after = way.model_copy(update={"sure": True}).apply(standing)
    box = after.box()
    told.size = (box[1] - box[0]).tolist()
    return told


def _against(notes: list[Measured], way: TrueWay, factor: float) -> str | None:
    """Known lengths of the same source that ask for another factor."""
    apart = []
    for item in notes:
        should, same = item.note.should, any(spot.source == way.first.source for spot in item.note.spots)
        if should and item.value and same and item.note.kind != "angle":
            other = should / item.value
            if abs(other / factor - 1) > AGREES:
                apart.append(f"{say_metric(item.value)} that should be {say_metric(should)} asks for {other:.6g}")
    return f"Another known length disagrees: {'; '.join(apart)}." if apart else None
