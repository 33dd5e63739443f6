"""What a person does at Trim: parts reduced to a goal, grades of some tried before anything is decided, and exact parts held
against coarser facets."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from hemp_ladder.core.chain.steps import Chain, Operation
from hemp_ladder.core.climb import Plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.exceptions import with_own
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.offers import own_trim
from hemp_ladder.core.operations import chain_from_dict
from hemp_ladder.core.ship.costs import Load, cost_of
from hemp_ladder.core.sort.order.keys import keys_of
from hemp_ladder.core.sort.palette import pictures_of
from hemp_ladder.core.trim.goal import Goal, Weighed, share_for
from hemp_ladder.core.trim.operations import OPERATIONS
from hemp_ladder.core.trim.reduce import Reduce
from hemp_ladder.store import meshes
from hemp_ladder.store.database import session as begin
from hemp_ladder.store.tables import Job
from hemp_ladder.work.actions import decide, decisions_of
from hemp_ladder.work.fitting import plan_now
from hemp_ladder.work.meshing.standing import standing_crew
from hemp_ladder.work.meshing.store import make_stored
from hemp_ladder.work.once import Asked
from hemp_ladder.work.queue import app, defer
from hemp_ladder.work.sources import job_of

_SOON = 10
_NAMES = frozenset(operation.name() for operation in OPERATIONS)
_asked = Asked(60.0)


@dataclass(frozen=True)
class Aim:
    """How parts are to be reduced: to a goal, no farther than their shape holds where a share is said, borders kept."""

    goal: Goal
    hold: float | None = None
    borders: bool = False


def untrimmed(chain: Chain) -> Chain:
    """The chain without the operations of Trim."""
    kept = tuple(step for step in chain.operations if step.name() not in _NAMES)
    return Chain(chain.part, chain.faces, chain.first, kept)


def reduce_to(session: Session, job_id: int, parts: Sequence[int] | None, aim: Aim) -> Job:
    """Have parts, by index, or all for None, reduced to a goal of all of them together. Raises SettingsError for parts that
    are not there or not made yet, and for a goal that leaves nothing or asks for more than there is."""
    job = job_of(session, job_id, lock=True)
    _, given = decisions_of(session, job)
    now = plan_now(session, job_id)[1]
    standing = _standing(now)
    some = standing if parts is None else sorted(set(standing).intersection(parts))
    if not some:
        raise SettingsError("There is no part to reduce.", "Choose some that stand in the job.")
    step = step_for(session, now, some, aim)
    trim = now.decisions.trim
    if parts is None:
        steps = (*(item for item in trim.steps if item.does != step.does), step)
        changed, who = trim.model_copy(update={"steps": steps}), "everything"
    else:
        refs = list(dict.fromkeys(now.model.parts[part].decided_as for part in some))
        changed = trim.model_copy(update={"exceptions": with_own(trim.exceptions, refs, own_trim(refs, step))})
        who = now.model.parts[some[0]].label if len(some) == 1 else f"{len(some):,} parts"
    wanted = now.decisions.model_copy(update={"trim": changed, "ship": given.ship})
    return decide(session, job_id, Decisions.model_validate(wanted.model_dump()), f"Reduced {who}")


def _standing(now: Plan) -> list[int]:
    return [part for part in np.unique(now.sorted.parts).tolist() if now.chains[part] is not None]


def step_for(session: Session, now: Plan, parts: Sequence[int], aim: Aim) -> Reduce:
    """The operation that brings these parts to a goal."""
    values: dict[str, Any] = {"hold": aim.hold, "borders": aim.borders}
    if aim.goal.by == "error":
        return Reduce(error=aim.goal.value, **values)
    if aim.goal.by == "share":
        return Reduce(share=aim.goal.value, **values)
    return Reduce(share=share_for(aim.goal, _weighed(session, now, parts)), **values)


def _weighed(session: Session, now: Plan, parts: Sequence[int]) -> Weighed:
    """These parts together, before anything was trimmed; of a file everything else in it is fixed."""
    bare = [untrimmed(chain) if chain is not None else None for chain in now.chains]
    wanted = {chain.key for chain in (*bare, *now.chains) if chain is not None}
    figures = {key: item.figures for key, item in meshes.stored(session, wanted).items()}
    missing = [part for part in parts if (chain := bare[part]) is not None and chain.key not in figures]
    if missing:
        raise SettingsError("Some of these parts are not made yet.", "Wait until their triangles are there.")
    chosen = set(parts)
    mixed = [bare[part] if part in chosen else chain for part, chain in enumerate(now.chains)]
    target = now.decisions.ship.target
    load = load_of(now, figures, mixed)
    whole = cost_of(load, target)
    rest = cost_of(load_of(now, figures, [None if i in chosen else c for i, c in enumerate(mixed)]), target)
    own = cost_of(load_of(now, figures, [c if i in chosen else None for i, c in enumerate(mixed)]), target)
    return Weighed(own.triangles, whole.bytes, rest.bytes)


def load_of(now: Plan, figures: Mapping[str, Figures], chains: Sequence[Chain | None]) -> Load:
    """What chains of a plan weigh, by the figures that are known."""
    times = np.bincount(now.sorted.parts, minlength=len(now.model.parts)).tolist()
    return Load(
        chains,
        figures,
        times,
        now.sorted,
        pictures_of(now.model, now.decisions.sort),
        lambda by: keys_of(now.model, now.sorted, now.order, by)[0],
        [part.decided_as for part in now.model.parts],
    )


def graded(now: Plan, part: int, step: Operation | None) -> Chain | None:
    """The chain of a part, reduced by a step in the place of what is in force; by none for the full one."""
    chain = now.chains[part]
    if chain is None:
        return None
    kept = tuple(item for item in chain.operations if item.does != "reduce")
    scaled = (step.in_coordinates(float(now.fitted.scale_of(part))),) if step is not None else ()
    return Chain(chain.part, chain.faces, chain.first, (*kept, *scaled))


def want_grades(session: Session, job_id: int, chains: Sequence[Chain]) -> None:
    """Have meshes made soon that nobody decided on; asked for again, each is queued once in a while only."""
    fresh = [chain for chain in chains if _asked.is_new(chain.key)]
    if fresh:
        defer(session, "try", priority=_SOON, job_id=job_id, chains=[chain.as_dict() for chain in fresh])


@app.task(name="try")
def try_grades(job_id: int, chains: list[dict[str, Any]]) -> None:
    """Make meshes that somebody wants to see before deciding. A worker that is stopped leaves them to be asked again."""
    told = [chain_from_dict(item) for item in chains]
    with begin() as s:
        keys = [chain.key for chain in told]
        done = meshes.packs_of(s, keys).keys() | meshes.failures_of(s, keys).keys()
    wanted = [chain for chain in told if chain.key not in done]
    if wanted:
        with standing_crew() as crew:
            make_stored(wanted, crew, job_id, lambda: False)
