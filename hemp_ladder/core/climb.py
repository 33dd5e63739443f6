"""The climb: a model and the decisions about it in, a result out.

Only chains do expensive work, and the shelf is asked for it: what was made
before under the same key is there already.
"""

from collections.abc import Collection, Mapping, Sequence
from copy import copy
from dataclasses import dataclass, field
from functools import cached_property
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.choose.take import Taken, climb_take
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.exceptions import Crowd, Numbers, holding
from hemp_ladder.core.facet import climb_facet, with_edges
from hemp_ladder.core.fit import Fitted, climb_fit
from hemp_ladder.core.limbs import with_assembled
from hemp_ladder.core.mend import climb_mend, flipped_parts
from hemp_ladder.core.mend.apart import regrouped
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import placed_box
from hemp_ladder.core.model.join import Joined
from hemp_ladder.core.model.model import Matrix, Model
from hemp_ladder.core.model.references import bind
from hemp_ladder.core.sort import Sorted, climb_sort
from hemp_ladder.core.sort.order.climb import Order, climb_order
from hemp_ladder.core.sort.settings import Selection
from hemp_ladder.core.sort.sharing import with_shared
from hemp_ladder.core.trim import FULL, Level, climb_trim


@dataclass(frozen=True)
class Made:
    """What a shelf has: meshes by key, and for keys that could not be made a sentence that says why."""

    meshes: Mapping[str, Mesh]
    failed: Mapping[str, str] = field(default_factory=dict)


class Shelf(Protocol):
    """Where meshes are kept by key, and made when they are not there."""

    def meshes(self, chains: Sequence[Chain]) -> Made:
        """The mesh at the end of every chain, or why there is none."""


@dataclass(frozen=True)
class Result:
    """What a climb gives: placed, meshed, dressed.

    chains    for each part, the chain to the mesh it needs, or None
    made      the meshes at the ends of the chains
    flipped   for each part, whether its triangles are reversed
    order     names, and the tree that placements stand in
    """

    fitted: Fitted
    chains: list[Chain | None]
    made: Made
    sorted: Sorted
    flipped: list[bool]
    order: Order

    @property
    def model(self) -> Joined:
        return self.fitted.model

    def mesh_of(self, part: int) -> Mesh | None:
        """The mesh of a part by index, None where it has none."""
        chain = self.chains[part]
        mesh = self.made.meshes.get(chain.key) if chain else None
        return mesh if mesh is not None and len(mesh.triangles) else None

    @cached_property
    def figures(self) -> dict[str, Figures]:
        """Of every mesh, by key."""
        return {key: mesh.figures for key, mesh in self.made.meshes.items()}

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

    @property
    def fitted_parts(self) -> set[int]:
        """Indices of the parts with a placement that entered."""
        return {part for part, times in enumerate(self.times) if times}

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
    """A climb before any triangle: everything but the meshes themselves. `decisions` call parts as the model does;
    `entered` are the rows that Receive let in, before Mend regrouped them and copies came to share shapes, which `taken`
    has; `levels` are the chains of each level of detail, the full one first."""

    decisions: Decisions
    entered: NDArray[np.int64]
    taken: Taken
    levels: Mapping[str, list[Chain | None]]
    sorted: Sorted
    order: Order
    flipped: list[bool]
    held: "Held"

    @property
    def chains(self) -> list[Chain | None]:
        """Of the full level."""
        return self.levels[FULL]

    def wanted(self) -> Mapping[str, Chain]:
        """The chains of all levels, by key."""
        return self._wanted

    @cached_property
    def _wanted(self) -> dict[str, Chain]:
        return {chain.key: chain for chains in self.levels.values() for chain in chains if chain is not None}

    @property
    def fitted(self) -> Fitted:
        return self.taken.fitted

    @property
    def model(self) -> Joined:
        return self.taken.model


def replaced(known: Plan, decisions: Decisions) -> Plan:
    """The same plan with other decisions that come to the same; with all that it has worked out of itself."""
    other = copy(known)
    object.__setattr__(other, "decisions", decisions)
    return other


def plan(model: Model, decisions: Decisions) -> Plan:
    """The rungs that work on rows: what enters, which mesh every part needs, and what everything wears."""
    fitted = climb_fit(model, decisions.fit)
    decisions = bind(decisions, fitted.model.parts)
    came = climb_take(fitted, decisions.receive, decisions.facet.segments)
    taken = with_shared(regrouped(came, decisions.mend), decisions.sort.shared)
    sorted_ = climb_sort(taken, decisions.sort)
    held = held_by(taken, sorted_, decisions)
    return Plan(
        decisions,
        came.rows,
        taken,
        {FULL: climb_chains(taken, decisions, held)}
        | {level.name: climb_chains(taken, decisions, held, level) for level in decisions.trim.levels},
        sorted_,
        climb_order(taken, sorted_, decisions.sort),
        flipped_parts(taken.model, decisions.mend),
        held,
    )


@dataclass(frozen=True)
class Held:
    """By rung, for each part that any of its exceptions hold for, by index, their numbers."""

    facet: Mapping[int, Numbers] = field(default_factory=dict)
    mend: Mapping[int, Numbers] = field(default_factory=dict)
    trim: Mapping[int, Numbers] = field(default_factory=dict)


def held_by(taken: Taken, sorted_: Sorted, decisions: Decisions) -> Held:
    """Which exceptions hold for which parts."""
    lists = (decisions.facet.exceptions, decisions.mend.exceptions, decisions.trim.exceptions)
    if not any(lists):
        return Held()
    crowd = _crowd(taken, sorted_, decisions.sort.selections)
    return Held(*(holding(entries, crowd) for entries in lists))


def _crowd(taken: Taken, sorted_: Sorted, kept: Sequence[Selection]) -> Crowd:
    model = taken.model
    columns = model.columns
    names = [
        (part.ref, *(() if part.decided_as == part.ref else (part.decided_as,)),
         *((model.parts[part.shells.of].ref,) if part.shells and not part.shells.rest else ()))
        for part in model.parts
    ]  # fmt: skip
    sources = [model.members[owner].ref for owner in model.member_of_part.tolist()]

    def sizes() -> NDArray[np.float64]:
        scales = np.array([float(source.scale) for source in taken.fitted.sources])
        return np.asarray(np.array([part.size for part in model.parts]) * scales[model.member_of_part])

    def layers(name: str) -> list[int]:
        codes = [code for code, layer in enumerate(sorted_.layers) if layer == name]
        return np.unique(sorted_.parts[np.isin(sorted_.layer_of, codes)]).tolist()  # type: ignore[no-any-return]

    def materials(id_: str) -> list[int]:
        codes = [code for code, dress in enumerate(sorted_.dresses) if id_ in dress.materials]
        return np.unique(sorted_.parts[np.isin(sorted_.dress_of, codes)]).tolist()  # type: ignore[no-any-return]

    def classes(name: str) -> list[int]:
        codes = [code for code, tags in enumerate(columns.all_tags) if tags.ifc_class == name]
        return np.unique(sorted_.parts[np.isin(columns.tags[taken.rows], codes)]).tolist()  # type: ignore[no-any-return]

    def selections(name: str) -> list[int]:
        mine = next((item for item in kept if item.name == name), None)
        if mine is None:
            return []
        wanted, nodes = set(mine.parts), set(mine.placements)
        found = {index for index, own in enumerate(names) if not wanted.isdisjoint(own)}
        if nodes:
            refs = model.node_refs
            found |= {model.nodes[node].part for node in taken.placements.tolist() if refs[node] in nodes}
        return sorted(found)

    return Crowd(names, sources, sizes, layers, materials, classes, selections)


def climb_chains(
    taken: Taken, decisions: Decisions, held: Held, level: Level | None = None, only: Collection[int] | None = None
) -> list[Chain | None]:
    """For each part the steps to its mesh, of the full level or a lighter one; None where it has no surface, did not enter
    or is not among `only`."""
    entered = taken.parts if only is None else taken.parts & set(only)
    limbs = {limb.part for index in entered for limb in taken.model.parts[index].limbs}
    wanted = entered | limbs
    wanted |= {shells.of for index in wanted if (shells := taken.model.parts[index].shells) is not None}
    facets = climb_facet(
        taken.fitted, decisions.facet, held.facet, wanted, taken.shaped.solids, level.coarser if level else 1.0
    )
    whole = with_assembled(taken.model.parts, facets)
    mended = climb_mend(taken.fitted, decisions.mend, held.mend, whole)
    divided = with_edges(taken.fitted, decisions.facet, held.facet, mended, level.coarser if level else 1.0)
    trimmed = climb_trim(taken.fitted, decisions.trim, held.trim, divided, level)
    return [chain if index in entered else None for index, chain in enumerate(trimmed)]


def climb(model: Model, decisions: Decisions, shelf: Shelf, level: str = FULL) -> Result:
    """The whole climb at one level of detail. Raises SettingsError for a level that the decisions do not have."""
    planned = plan(model, decisions)
    if level not in planned.levels:
        raise SettingsError(f"There is no level called “{level[:40]}”.", f"There are: {', '.join(planned.levels)}.")
    chains = planned.levels[level]
    wanted = {chain.key: chain for chain in chains if chain is not None}
    made = shelf.meshes(list(wanted.values()))
    return Result(planned.fitted, chains, made, planned.sorted, planned.flipped, planned.order)
