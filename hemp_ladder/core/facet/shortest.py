"""The shortest edge: what is divided finer than that is made coarser, whatever body it came from.

A vertex moves onto a neighbour that is too near, and the triangles between them go (half-edge collapse). What a surface is
made of stays: corners stay, a vertex on the line where faces meet moves along that line, one inside a face never onto
another; what is closed stays closed (the link condition of Dey, Edelsbrunner and others, 1999), and nothing folds over.
Where triangles are lit one by one, as many files bring them, lines are where they lean by more than a crease.
"""

from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hemp_ladder.core.chain.steps import Operation
from hemp_ladder.core.facet.collapse import Collapse
from hemp_ladder.core.lengths import Metres
from hemp_ladder.core.mend.normals import Normals, fans, shade
from hemp_ladder.core.mend.weld import row_codes
from hemp_ladder.core.mesh.edges import Edges
from hemp_ladder.core.mesh.mesh import Mesh, Runs
from hemp_ladder.core.mesh.tree import Tree
from hemp_ladder.core.mesh.triangles import cross, dot, lengths, numbered
from hemp_ladder.core.settings import Range

#: In each round vertices far from one another move. The last is the one that does less than one in so many triangles.
_ROUNDS, _FEW = 400, 2000
#: Triangles lit one by one are smooth over edges that lean by less than this, in degrees (common practice).
_CREASE = 30.0
#: However they are lit, what leans more is a corner (cosine of 60 degrees).
_LEAN = 0.5
#: The light of a corner is its triangle's own where the sine between them is less than this.
_OWN = 1e-3


class Shortest(Operation):
    """How short a side of a triangle may be, where form does not need it."""

    version: ClassVar[int] = 2
    ranges: ClassVar[Mapping[str, Range]] = {"edge": Range(1e-4, 1, 0.01)}
    optional: ClassVar[bool] = True
    does: Literal["shortest"] = "shortest"
    edge: Annotated[Metres, Field(gt=0, le=1e12)]

    def in_coordinates(self, metres: float) -> Self:
        return self.model_copy(update={"edge": self.edge / metres})

    def apply(self, mesh: Mesh) -> Mesh:
        return thinned(mesh, self.edge)


def thinned(mesh: Mesh, edge: float) -> Mesh:
    """The mesh with as few sides shorter than an edge (in its coordinates) as its form allows. `effects` has by how many
    triangles it is less (`shortest`), and how far it lies from what it was, measured (`shortest.off`)."""
    singly = _lit_singly(mesh)
    start = shade(mesh, Normals(kind="crease", degrees=_CREASE)) if singly else _shared(mesh)
    work = Collapse(start, edge)
    for _ in range(_ROUNDS):
        done = work.round()
        if done * _FEW <= len(work.triangles):
            break  # what is left would take as many rounds again
    gone = float(len(mesh.triangles) - len(work.triangles))
    effects = {**mesh.figures.effects, "shortest": gone}
    if not gone:
        return replace(mesh, figures=replace(mesh.figures, effects=effects))
    after = _left(start, work)
    after = shade(after, Normals(kind="flat")) if singly else after
    effects["shortest.off"] = _apart(mesh, after)
    return replace(after, figures=replace(mesh.figures, open_edges=None, effects=effects))


def _lit_singly(mesh: Mesh) -> bool:
    """Whether every triangle is lit from its own side only."""
    corners = mesh.corners
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    size = lengths(across)
    flat = across / np.maximum(size, 1e-300)[:, None]
    apart = [lengths(cross(flat, mesh.normals[mesh.triangles[:, k]].astype(np.float64))) for k in range(3)]
    return bool((np.max(apart, axis=0)[size > 0] < _OWN).all())


def _shared(mesh: Mesh) -> Mesh:
    """The mesh with one vertex for all of a place, a face and a side of a corner that are alike in everything: whatever
    the light, what leans by more than a corner meets in a line."""
    triangles, corner = mesh.triangles.reshape(-1), _fans(mesh)
    face = np.repeat(mesh.faces.labels, 3)
    alike = [row_codes(name, values)[triangles] for name, values in mesh.attributes.items()]
    number, first = numbered([mesh.same[triangles], face, corner, *alike])
    kept = triangles[first]
    return replace(
        mesh, positions=mesh.positions[kept], triangles=number.reshape(-1, 3).astype(np.int32), places=mesh.same[kept],
        attributes={name: values[kept] for name, values in mesh.attributes.items()},
    )  # fmt: skip


def _fans(mesh: Mesh) -> NDArray[np.int64]:
    """For every corner of triangles what it hangs together with around its vertex without a corner between, (3 m,)."""
    corners = mesh.corners
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    flat = across / np.maximum(lengths(across), 1e-300)[:, None]
    one, two = Edges.of(mesh.same[mesh.triangles]).pairs
    smooth = dot(flat[one // 3], flat[two // 3]) > _LEAN
    return fans(len(flat), one[smooth], two[smooth])


def _left(mesh: Mesh, work: Collapse) -> Mesh:
    """What is left of a mesh."""
    used = np.zeros(len(mesh.positions), bool)
    used[work.triangles] = True
    index = np.cumsum(used) - 1
    return replace(
        mesh, positions=mesh.positions[used], triangles=index[work.triangles].astype(np.int32), places=None,
        attributes={name: values[used] for name, values in mesh.attributes.items()},
        runs={name: Runs.labelled(runs.labels[work.owner], runs.count) for name, runs in mesh.runs.items()},
    )  # fmt: skip


def _apart(before: Mesh, after: Mesh) -> float:
    """The largest distance found between two meshes, either way: from vertices and the middles of sides and triangles."""
    largest = 0.0
    if not len(after.triangles):
        return largest  # nothing had any size
    for one, two in ((before, after), (after, before)):
        corners = one.corners
        points = np.concatenate(
            [one.positions, (corners + np.roll(corners, -1, axis=1)).reshape(-1, 3) / 2, corners.mean(axis=1)]
        )
        largest = max(largest, float(Tree(two).nearest(points)[0].max(initial=0)))
    return largest
