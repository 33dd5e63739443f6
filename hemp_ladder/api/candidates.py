"""Candidates for one source's place, side by side."""

from collections.abc import Callable

import numpy as np
from pydantic import BaseModel, Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from hemp_ladder.core.fit import moved_box, turn_to_z
from hemp_ladder.core.fit.settings import Axis, SourceFit
from hemp_ladder.core.model.bodies import Meshed
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.units import UNITS
from hemp_ladder.store import model_blob
from hemp_ladder.store.tables import FindingRow
from hemp_ladder.work import actions
from hemp_ladder.work.candidates import fitted_as
from hemp_ladder.work.sources import NothingThere, Received, candidates_of, job_of, sources_of


class CandidateView(BaseModel):
    """One of several files for the same thing. Counts over placements; sizes in metres, as the job would take them."""

    number: int = Field(description="0: the source as it stands")
    name: str
    state: str
    model_key: str | None
    format: str = ""
    bytes: int = 0
    triangles: int | None = Field(None, description="none: exact shapes, which are meshed when they are used")
    parts: int = 0
    materials: int = 0
    textures: int = 0
    pixels: int = Field(0, description="of all its pictures")
    largest: str = Field("", description="its largest picture")
    size: list[float] = []
    up: str = "z"
    errors: int = 0
    warnings: int = 0
    notes: int = 0
    remark: str = ""


def candidates_view(session: Session, job_id: int, ref: str) -> list[CandidateView]:
    """The source first, then its candidates in the order they came."""
    job = job_of(session, job_id)
    now = next((item for item in sources_of(session, job_id) if item.source.ref == ref), None)
    if now is None:
        raise NothingThere("The job has no such source.")
    _, decisions = actions.decisions_of(session, job)
    settings = decisions.fit
    own = settings.sources.get(ref, SourceFit())
    stands = own.model_copy(update={"unit": own.unit or settings.unit, "up": own.up or settings.up})
    rows = [
        _row(session, now, lambda model: stands),
        *(
            _row(session, item, lambda model: fitted_as(decisions, ref, model))
            for item in candidates_of(session, job_id, ref)
        ),
    ]
    rows[0].number = 0
    return _remarked(rows)


def _row(session: Session, item: Received, fit: Callable[[Model], SourceFit]) -> CandidateView:
    revision = item.ready or item.newest
    row = CandidateView(
        number=item.source.id, name=item.source.name, state=item.newest.state, model_key=revision.model_key,
        bytes=sum(file["bytes"] for file in revision.files),
    )  # fmt: skip
    if revision.model_key is None:
        return row
    model = model_blob.load(revision.model_key)
    stated = fit(model)
    metres = float(UNITS[stated.unit].metres if stated.unit else model.metres_per_coordinate)
    up: Axis = stated.up or model.up or "z"  # type: ignore[assignment]
    box = moved_box(model.box * metres, turn_to_z(up))
    kinds = list(session.scalars(select(FindingRow.severity).where(FindingRow.revision_id == revision.id)))
    largest = max(model.textures, key=lambda t: t.width * t.height, default=None)
    return row.model_copy(
        update={
            "format": model.format, "triangles": _triangles(model), "parts": sum(p.body.has_surface for p in model.parts),
            "materials": len(model.looks) or len(model.colours()), "textures": len(model.textures),
            "pixels": sum(t.width * t.height for t in model.textures),
            "largest": f"{largest.width:,} × {largest.height:,}" if largest else "",
            "size": np.ptp(box, axis=0).tolist(), "up": up, "errors": kinds.count("error"),
            "warnings": kinds.count("warning"), "notes": kinds.count("note"),
        }
    )  # fmt: skip


def _triangles(model: Model) -> int | None:
    """Over placements; none where a part is an exact shape."""
    total = 0
    for node in model.placements:
        body = model.parts[model.nodes[node].part].body
        if not isinstance(body, Meshed) or not body.triangles:
            return None
        total += body.triangles
    return total


def _remarked(rows: list[CandidateView]) -> list[CandidateView]:
    """What one would not expect: a smaller file that is the heavier mesh."""
    told = [row for row in rows if row.triangles is not None]
    for row in told:
        lighter = [other for other in told if other.bytes > row.bytes and other.triangles < row.triangles]  # type: ignore[operator]
        if lighter:
            other = max(lighter, key=lambda item: item.bytes)
            row.remark = f"A smaller file than {other.name}, but the heavier mesh"
    return rows
