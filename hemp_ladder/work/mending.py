"""What a person does at Mend by pointing at the stage, and all safe remedies at once."""

from collections.abc import Callable
from typing import Literal

import numpy as np
from sqlalchemy.orm import Session

from hemp_ladder.core.climb import Plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.facet.review import review_meshes
from hemp_ladder.core.findings import Finding, Offer
from hemp_ladder.core.mend.review import review_mend
from hemp_ladder.core.mend.settings import HandTurn, MendSettings, ShellApart
from hemp_ladder.core.offers import take_safe
from hemp_ladder.store import meshes
from hemp_ladder.store.tables import Job
from hemp_ladder.work.actions import decide, decisions_of
from hemp_ladder.work.fitting import plan_now
from hemp_ladder.work.sources import job_of

Point = tuple[float, float, float]
#: Turn the shell or the face that is pointed at; take the shell out as a part of its own.
Deed = Literal["turn-shell", "turn-face", "take-out"]


def by_hand(session: Session, job_id: int, node: int, at: Point, deed: Deed) -> Job:
    """Do a deed to what lies at a point, (3,) in metres, Z up, of the part that stands at a node."""
    job = job_of(session, job_id, lock=True)
    _, given = decisions_of(session, job)
    now = plan_now(session, job_id)[1]
    if not 0 <= node < len(now.model.nodes) or now.model.nodes[node].part < 0:
        raise SettingsError("Nothing stands there any more.", "Point at it again.")
    part = now.model.parts[now.model.nodes[node].part]
    if part.shells is not None and not part.shells.rest and deed == "take-out":
        raise SettingsError("That shell is a part of its own already.", "Point at another.")
    if part.cut is not None:
        raise SettingsError("That is a piece that a polygon cut.", "Point at a whole part, or take it uncut.")
    whole = now.model.parts[part.shells.of] if part.shells else part
    place = now.fitted.placements()[node]
    own = np.linalg.lstsq(place, np.array([*at, 1.0]), rcond=None)[0][:3]
    x, y, z = (float(value) for value in own)
    mend = now.decisions.mend
    changed, label = _DEEDS[deed](mend, whole.ref, (x, y, z))
    wanted = now.decisions.model_copy(update={"mend": changed, "ship": given.ship})
    return decide(session, job_id, Decisions.model_validate(wanted.model_dump()), f"{label} {whole.label}")


def _turned(what: Literal["shell", "face"]) -> Callable[[MendSettings, str, Point], tuple[MendSettings, str]]:
    def turned(mend: MendSettings, part: str, at: Point) -> tuple[MendSettings, str]:
        turn = HandTurn(part=part, at=at, what=what)
        return mend.model_copy(update={"turned": (*mend.turned, turn)}), f"Turned a {what} of"

    return turned


def _taken_out(mend: MendSettings, part: str, at: Point) -> tuple[MendSettings, str]:
    return mend.model_copy(update={"apart": (*mend.apart, ShellApart(part=part, at=at))}), "Took a shell out of"


_DEEDS = {"turn-shell": _turned("shell"), "turn-face": _turned("face"), "take-out": _taken_out}


def noticed(session: Session, now: Plan) -> list[Finding]:
    """What is noticed about the triangles that are there."""
    there = meshes.stored(session, now.wanted())
    figures = {key: item.figures for key, item in there.items()}
    failed = meshes.failures_of(session, now.wanted())
    times = np.bincount(now.sorted.parts, minlength=len(now.model.parts)).tolist()
    return [
        *review_meshes(now.fitted, now.chains, now.flipped, figures, times, failed),
        *review_mend(now.fitted, now.chains, figures, times),
    ]


def put_right(session: Session, job_id: int) -> tuple[Job, list[tuple[Finding, Offer]]]:
    """Take all safe remedies of what is noticed about triangles, as one decision. Raises SettingsError where there is
    none to take."""
    job = job_of(session, job_id, lock=True)
    _, given = decisions_of(session, job)
    now = plan_now(session, job_id)[1]
    changed, taken = take_safe(now.model, now.decisions, noticed(session, now))
    if not taken:
        raise SettingsError("There is nothing that could be put right without looking.", "Look at each finding.")
    wanted = changed.model_copy(update={"ship": given.ship})
    label = "Put right: " + ", ".join(dict.fromkeys(offer.label.lower() for _, offer in taken))
    return decide(session, job_id, wanted, label), taken
