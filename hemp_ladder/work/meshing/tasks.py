"""The queued making of meshes. A task can run twice: what is there is not made again."""

from typing import Any

from sqlalchemy import select

from hemp_ladder.core.errors import Cancelled
from hemp_ladder.core.operations import chain_from_dict
from hemp_ladder.store import meshes
from hemp_ladder.store.database import session, tell
from hemp_ladder.store.tables import ClimbRow, Job
from hemp_ladder.work.actions import catch_up
from hemp_ladder.work.asking import asker
from hemp_ladder.work.children import Crew
from hemp_ladder.work.meshing.shelf import is_light
from hemp_ladder.work.meshing.standing import standing_crew
from hemp_ladder.work.meshing.store import make_stored
from hemp_ladder.work.queue import app


@app.task(name="mesh")
def mesh(climb_id: int, chains: list[dict[str, Any]]) -> None:
    """Make one batch of a climb's meshes; whichever batch ends last closes the climb."""
    with session() as s:
        climb = s.get(ClimbRow, climb_id)
        if climb is None or climb.state != "working":
            return
        job_id = climb.job_id
    told = [chain_from_dict(item) for item in chains]
    keys = [chain.key for chain in told]
    with session() as s:
        done = meshes.packs_of(s, keys).keys() | meshes.failures_of(s, keys).keys()
    wanted = [chain for chain in told if chain.key not in done]
    try:
        with standing_crew() if all(map(is_light, wanted)) else Crew(1) as crew:
            make_stored(wanted, crew, job_id, asker(ClimbRow, climb_id, {"cancelled"}))
    except Cancelled:
        return
    # What a part itself brings about ends as its failure. Anything else is a fault of the house, which says nothing of
    # the parts: the task fails, and rescue begins anew for what is missing.
    _close(climb_id, job_id)


def _close(climb_id: int, job_id: int) -> None:
    """End the climb where all its meshes are there, or are known not to come."""
    with session() as s:
        climb = s.get_one(ClimbRow, climb_id, with_for_update=True)
        ended = meshes.packs_of(s, climb.keys).keys() | meshes.failures_of(s, climb.keys).keys()
        if climb.state == "working" and ended >= set(climb.keys):
            climb.state = "done"
        tell(s, job_id)


@app.task(name="catch_up", queueing_lock="catch_up")
def catch_up_all() -> None:
    """Look through all jobs for meshes that a newer version makes anew, the newest job first."""
    with session() as s:
        jobs = list(s.scalars(select(Job.id).order_by(Job.id.desc())))
    for job_id in jobs:
        with session() as s:
            if s.get(Job, job_id) is not None:
                catch_up(s, job_id)
