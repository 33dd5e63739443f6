"""Weld: vertices that lie near each other become one position."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hemp_ladder.core.chain.steps import Operation, Option
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.lengths import Metres, parse_length
from hemp_ladder.core.mesh.mesh import Mesh, Runs
from hemp_ladder.core.mesh.triangles import folded, in_use, numbered
from hemp_ladder.core.settings import Range

#: Normals are the same when no component differs by this.
_SAME = 1e-3
#: More neighbours than this on average, and the part is about to fall together.
_CROWD = 60
#: So many vertices are asked for their neighbours.
_ASKED = 5000


class Weld(Operation):
    """How near two vertices of one part must be to become one."""

    version: ClassVar[int] = 2
    option: ClassVar[Option] = Option("LENGTH", "join vertices of a part that are no farther apart: 0.01mm")
    ranges: ClassVar[Mapping[str, Range]] = {"tolerance": Range(1e-6, 0.1, 1e-5)}
    does: Literal["weld"] = "weld"
    tolerance: Annotated[Metres, Field(ge=0, le=1e9)] = Field(
        ranges["tolerance"].start,
        description="largest distance joined, in metres; 0 joins what is in the very same place",
    )

    @classmethod
    def from_option(cls, text: str) -> Self:
        return cls(tolerance=float(parse_length(text)))

    def in_coordinates(self, metres: float) -> Self:
        return self.model_copy(update={"tolerance": self.tolerance / metres})

    def apply(self, mesh: Mesh) -> Mesh:
        return weld(mesh, self)


def weld(mesh: Mesh, settings: Weld) -> Mesh:
    """Join vertices nearer than the tolerance, within one part.

    Vertices that differ in UV or lie across a crease stay apart in the
    attributes but share a position. Triangles that collapse are dropped.
    `effects["weld"]` counts the vertices that went.

    Raises SettingsError when the tolerance reaches the shortest side of the
    bounding box, where every vertex would fall together.
    """
    if not len(mesh.triangles):
        return mesh
    sides = np.ptp(mesh.positions, axis=0)
    if settings.tolerance >= sides[sides > 1e-9 * sides.max()].min(initial=np.inf):
        raise SettingsError(
            "The weld tolerance is as large as the part itself; everything would fall together.",
            "Weld less, or except this part.",
        )
    index, spots = folded(mesh.positions)
    owner = nearest_kept(spots, settings.tolerance) if settings.tolerance > 0 else np.arange(len(spots))
    place = owner[index]
    a, b, c = place[mesh.triangles].T
    whole = (a != b) & (b != c) & (c != a)
    triangles = mesh.triangles[whole]
    used, rank = in_use(triangles, len(place))
    columns = [place, *(row_codes(name, values) for name, values in mesh.attributes.items())]
    number, first = numbered([column[used] for column in columns])
    kept = used[first]
    welded = replace(
        mesh,
        positions=spots[place[kept]],
        triangles=number[rank[triangles]].astype(np.int32),
        attributes={name: values[kept] for name, values in mesh.attributes.items()},
        runs={name: Runs.labelled(runs.labels[whole], runs.count) for name, runs in mesh.runs.items()},
        places=place[kept],
    )
    gone = len(mesh.positions) - len(kept)
    effects = {**mesh.figures.effects, settings.does: float(gone)}
    return replace(welded, figures=replace(mesh.figures, open_edges=None, effects=effects))


def nearest_kept(points: NDArray[np.float64], tolerance: float) -> NDArray[np.int64]:
    """For each point (n, 3) the one it is joined to, itself where it is kept: (n,).

    No two kept points are within the tolerance of each other, and every other
    goes to the nearest kept one that is; so joining does not run on along a
    chain of near points, as connected components would. Kept are a maximal
    independent set by Luby's rounds (M. Luby, 1986) with a fixed shuffle.

    Raises SettingsError where so many points are near each other that the
    surface would collapse.
    """
    from scipy.spatial import cKDTree

    if not len(points):
        return np.zeros(0, np.int64)
    tree = cKDTree(points)
    some = points[:: max(1, len(points) // _ASKED)]
    if tree.query_ball_point(some, tolerance, return_length=True).mean() > _CROWD + 1:
        raise SettingsError(
            f"Within {tolerance:g} of each other lie so many vertices that the part would collapse.", "Weld less."
        )
    pairs = tree.query_pairs(tolerance, output_type="ndarray")
    owner = np.arange(len(points))
    if not len(pairs):
        return owner
    rank = np.random.default_rng(1).permutation(len(points))
    swap = rank[pairs[:, 0]] > rank[pairs[:, 1]]
    early, late = np.where(swap, pairs[:, 1], pairs[:, 0]), np.where(swap, pairs[:, 0], pairs[:, 1])
    open_, kept = np.ones(len(points), dtype=bool), np.zeros(len(points), dtype=bool)
    while open_.any():
        behind = np.zeros(len(points), dtype=bool)
        behind[late[open_[early] & open_[late]]] = True
        new = open_ & ~behind
        kept |= new
        open_ &= ~new
        open_[late[new[early]]] = False
        open_[early[new[late]]] = False
    ends = np.concatenate([np.column_stack([early, late]), np.column_stack([late, early])])
    ends = ends[kept[ends[:, 0]] & ~kept[ends[:, 1]]]
    distance = np.linalg.norm(points[ends[:, 0]] - points[ends[:, 1]], axis=1)
    order = np.argsort(-distance, kind="stable")
    owner[ends[order, 1]] = ends[order, 0]
    return owner


def row_codes(name: str, values: NDArray[np.float32]) -> NDArray[np.int64]:
    """One number for each row of an attribute, equal where the rows are equal but for rounding."""
    if name == "normal":
        steps = np.round(values.astype(np.float64) / _SAME).astype(np.int64) + 2048
        return np.asarray((steps[:, 0] << 24) | (steps[:, 1] << 12) | steps[:, 2])
    return numbered(list(np.round(values.astype(np.float64) * 1e6).astype(np.int64).T))[0]
