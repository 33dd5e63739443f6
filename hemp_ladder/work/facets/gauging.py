"""Settings measured on parts without keeping the meshes: a slice at a time, for as long as somebody asks."""

import hashlib
import os
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.facet.gauge import gauged
from hemp_ladder.core.operations import chain_from_dict
from hemp_ladder.store import blobs, gauges, meshes
from hemp_ladder.store.database import session as begin
from hemp_ladder.work.children import ChildDied
from hemp_ladder.work.facets.measuring import measured
from hemp_ladder.work.meshing.shelf import is_light
from hemp_ladder.work.meshing.standing import standing_crew
from hemp_ladder.work.once import Asked
from hemp_ladder.work.queue import app, defer

#: Chains of a slice, heavy and light: what is measured goes on only while somebody asks for the next.
_SLICE, _LIGHT_SLICE = 48, 1000
_SOON = 10
_asked = Asked(30.0)


@dataclass(frozen=True)
class Gauges:
    """By key what is known of meshes; of which it is known that there will be nothing, and why."""

    told: Mapping[str, Mapping[str, float]]
    failed: Mapping[str, str]

    def lacking(self, keys: Collection[str]) -> list[str]:
        return [key for key in keys if key not in self.told and key not in self.failed]


def known(session: Session, keys: Collection[str]) -> Gauges:
    """What was measured of meshes, kept ones and others."""
    rows = gauges.gauges_of(session, keys)
    told: dict[str, Mapping[str, float]] = {key: row for key, row in rows.items() if "why" not in row}
    told.update({key: gauged(item.figures) for key, item in meshes.stored(session, keys).items()})
    failed = {key: str(row["why"]) for key, row in rows.items() if "why" in row}
    return Gauges(told, failed | meshes.failures_of(session, keys))


def want(session: Session, job_id: int, chains: Sequence[Chain]) -> None:
    """Have the first slice of chains measured. Who asks again gets the next."""
    light = [chain for chain in chains if is_light(chain)][:_LIGHT_SLICE]
    some = light or chains[:_SLICE]
    name = hashlib.sha256("".join(chain.key for chain in some).encode()).hexdigest()
    if some and _asked.is_new(name):
        # One at a time for a job: the next is asked for when this is known.
        defer(session, "gauge", priority=_SOON, lock=f"gauge {job_id}", chains=[chain.as_dict() for chain in some])


@app.task(name="gauge")
def gauge(chains: list[dict[str, Any]]) -> None:
    """Measure meshes at the ends of chains. What brings its child down, or is too large, is told as failed."""
    told = [chain_from_dict(item) for item in chains]
    with begin() as s:
        lacking = set(known(s, [chain.key for chain in told]).lacking([chain.key for chain in told]))
    wanted = [chain for chain in told if chain.key in lacking]
    with standing_crew(os.cpu_count() or 1) as crew:
        for batch, outcome in measured(wanted, crew, lambda key: blobs.get(f"shapes/{key}")):
            with begin() as s:
                if isinstance(outcome, Exception):
                    # That it cannot be measured in so little time says nothing of making it.
                    if not (isinstance(outcome, ChildDied) and outcome.killed):
                        gauges.put_gauges(s, {chain.key: {"why": str(outcome)[:300]} for chain in batch})
                else:
                    gauges.put_gauges(s, {c.key: found for c, found in zip(batch, outcome, strict=True)})
