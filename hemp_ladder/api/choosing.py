"""What can be chosen at Receive: tallies to tick, and the plan to draw on."""

import base64

import numpy as np
from sqlalchemy.orm import Session

from hemp_ladder.api.result import mesh_rows
from hemp_ladder.api.views import PlanView, TallyView
from hemp_ladder.core.choose.take import chosen, plan_corners
from hemp_ladder.core.choose.tally import tally
from hemp_ladder.store import model_blob
from hemp_ladder.work.actions import decisions_of
from hemp_ladder.work.plans import planned
from hemp_ladder.work.sources import job_of, models_of, sources_of


def tallies(session: Session, job_id: int) -> list[TallyView]:
    """Every layer, class, storey and group of every source, with what it holds or would add."""
    _, decisions = decisions_of(session, job_of(session, job_id))
    models = models_of(sources_of(session, job_id), skeletons=True)
    now = planned(models, decisions)
    rows = mesh_rows(session, now)
    joined = model_blob.load_joined(models)
    known = {
        i: rows[chain.key].figures.triangles
        for i, chain in enumerate(now.chains[: len(joined.parts)])
        if chain is not None and chain.key in rows
    }
    return [TallyView.model_validate(item, from_attributes=True) for item in tally(joined, now.entered, known)]


def plan_view(session: Session, job_id: int) -> PlanView:
    """The plan of all that the choices let in, whatever the polygon leaves of it."""
    _, decisions = decisions_of(session, job_of(session, job_id))
    models = models_of(sources_of(session, job_id), skeletons=True)
    now = planned(models, decisions)
    rows = np.flatnonzero(chosen(now.model, now.decisions.receive))
    corners = plan_corners(now.fitted, rows)
    entered = np.zeros(len(now.model.columns.node), dtype=bool)
    entered[now.taken.rows] = True
    low = corners.reshape(-1, 2).min(axis=0) if len(rows) else np.zeros(2)
    high = corners.reshape(-1, 2).max(axis=0) if len(rows) else np.zeros(2)
    return PlanView(
        # Thirty-two bits are plenty around the middle, which the box gives in full.
        corners=base64.b64encode((corners - (low + high) / 2).astype("<f4").tobytes()).decode(),
        box=[low.tolist(), high.tolist()], taken=entered[rows].tolist(),
    )  # fmt: skip
