"""The climb: a model and the decisions about it in, a result out.

Only Facet does expensive work, and it asks the shelf for it: what was made
before under the same key is there already.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

import numpy as np

from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.facet import MeshRequest, climb_facet
from hemp_ladder.core.fit import Fitted, climb_fit
from hemp_ladder.core.join import Joined
from hemp_ladder.core.mend import climb_mend
from hemp_ladder.core.mesh import Mesh, placed_box
from hemp_ladder.core.model import Matrix, Model
from hemp_ladder.core.receive.take import Taken, climb_take
from hemp_ladder.core.sort import Sorted, climb_sort


class Shelf(Protocol):
    """Where meshes are kept by key, and made when they are not there."""

    def meshes(self, requests: Sequence[MeshRequest]) -> Mapping[str, Mesh]:
        """A mesh for every request's key; a part that failed wholly has an empty one."""


@dataclass(frozen=True)
class Result:
    """What a climb gives: placed, meshed, dressed.

    requests  for each part, the mesh it needs, or None
    meshes    by key
    flipped   for each part, whether its triangles are reversed
    """

    fitted: Fitted
    requests: list[MeshRequest | None]
    meshes: Mapping[str, Mesh]
    sorted: Sorted
    flipped: list[bool]

    @property
    def model(self) -> Joined:
        return self.fitted.model

    def mesh_of(self, part: int) -> Mesh | None:
        """The mesh of a part by index, None where it has none."""
        request = self.requests[part]
        mesh = self.meshes[request.key] if request else None
        return mesh if mesh is not None and len(mesh.triangles) else None

    @property
    def triangles(self) -> int:
        """Counted over placements."""
        return self._total(lambda mesh: len(mesh.triangles))

    @property
    def vertices(self) -> int:
        """Counted over placements, as the mesh stores them: one for each position and normal."""
        return self._total(lambda mesh: len(mesh.positions))

    def _total(self, count) -> int:  # type: ignore[no-untyped-def]
        return sum(
            times * count(mesh)
            for part, times in enumerate(self.times)
            if times and (mesh := self.mesh_of(part)) is not None
        )

    @cached_property
    def times(self) -> list[int]:
        """How many of each part's placements entered."""
        times: list[int] = np.bincount(self.sorted.parts, minlength=len(self.model.parts)).tolist()
        return times

    @cached_property
    def box(self) -> Matrix:
        """Overall box of the triangles, (2, 3), metres, Z up."""
        world = self.fitted.placements()
        order = np.argsort(self.sorted.parts, kind="stable")
        parts, starts = np.unique(self.sorted.parts[order], return_index=True)
        boxes = [
            placed_box(mesh.positions, world[self.sorted.placements[rows]])
            for part, rows in zip(parts, np.split(order, starts[1:]), strict=True)
            if (mesh := self.mesh_of(int(part))) is not None
        ]
        if not boxes:
            return np.zeros((2, 3))
        return np.array([np.min(boxes, axis=0)[0], np.max(boxes, axis=0)[1]])


@dataclass(frozen=True)
class Plan:
    """A climb before any triangle: everything but the meshes themselves."""

    taken: Taken
    requests: list[MeshRequest | None]
    sorted: Sorted
    flipped: list[bool]

    @property
    def fitted(self) -> Fitted:
        return self.taken.fitted

    @property
    def model(self) -> Joined:
        return self.taken.model


def plan(model: Model, decisions: Decisions) -> Plan:
    """The rungs that work on rows: what enters, which mesh every part needs, and what everything wears."""
    taken = climb_take(climb_fit(model, decisions.fit), decisions.receive, decisions.facet.segments)
    return Plan(
        taken,
        climb_facet(taken.fitted, decisions.facet, taken.parts, taken.shaped.solids),
        climb_sort(taken, decisions.sort),
        climb_mend(taken.model, decisions.mend),
    )


def climb(model: Model, decisions: Decisions, shelf: Shelf) -> Result:
    planned = plan(model, decisions)
    wanted = {request.key: request for request in planned.requests if request is not None}
    meshes = shelf.meshes(list(wanted.values()))
    return Result(planned.fitted, planned.requests, meshes, planned.sorted, planned.flipped)
