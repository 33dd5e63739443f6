"""The longest edge: triangles whose sides are longer are divided, whatever body they came from.

New corners lie in the middles of sides, so that nothing moves and no distance to the true surface grows; a side is divided
alike in both triangles that share it, so that what is closed stays closed.
"""

from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hemp_ladder.core.chain.steps import Operation
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.lengths import Metres
from hemp_ladder.core.mesh.mesh import Mesh, Runs, unit_normals
from hemp_ladder.core.mesh.triangles import folded
from hemp_ladder.core.settings import Range

#: A part that would have more triangles than this is not begun with.
MOST = 20_000_000
#: Every round halves what is too long; so many reach from a kilometre to a tenth of a millimetre.
_ROUNDS = 32

Numbers = NDArray[np.int64]


class Longest(Operation):
    """How long a side of a triangle may be."""

    version: ClassVar[int] = 1
    ranges: ClassVar[Mapping[str, Range]] = {"edge": Range(1e-3, 10, 0.1)}
    optional: ClassVar[bool] = True
    does: Literal["longest"] = "longest"
    edge: Annotated[Metres, Field(gt=0, le=1e12)]

    def in_coordinates(self, metres: float) -> Self:
        return self.model_copy(update={"edge": self.edge / metres})

    def apply(self, mesh: Mesh) -> Mesh:
        return divided(mesh, self.edge)


def estimate(mesh: Mesh, edge: float) -> float:
    """About how many triangles a mesh has once no side is longer: by how often what they are long and high is halved."""
    corners = mesh.corners
    sides = np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2)
    longest = sides.max(axis=1, initial=0.0)
    double = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    high = np.divide(double, longest, out=np.zeros_like(double), where=longest > 0)
    return _halved(longest / edge, high / edge)


def _halved(*times: NDArray[np.float64]) -> float:
    """Sum of the products of how many pieces each is in once it was halved until none is longer than 1."""
    halves = [np.exp2(np.ceil(np.log2(np.maximum(item, 1)))) for item in times]
    return float(np.prod(halves, axis=0).sum())


def divided(mesh: Mesh, edge: float) -> Mesh:
    """The mesh with no side longer than an edge (in its coordinates). Raises SettingsError, before anything is divided,
    where that would be too many triangles."""
    if not len(mesh.triangles):
        return mesh
    expected = estimate(mesh, edge)
    if expected > MOST:
        raise SettingsError(
            f"Edges no longer than that would make about {expected:,.0f} triangles of this part.",
            f"At most {MOST:,} are made: allow longer edges.",
        )
    # What lies in one place is in the very same place, so that a side is as long in both triangles that have it.
    places, each = folded(mesh.positions)
    corners = Corners(each[places], dict(mesh.attributes))
    triangles, owner = mesh.triangles.astype(np.int64), np.arange(len(mesh.triangles))
    limit = edge * (1 + 1e-9)
    for _ in range(_ROUNDS):
        halvings = _halvings(corners.lengths(triangles), limit)
        if not halvings.any():
            break
        pieces, owners = divide(corners, triangles, halvings)
        triangles, owner = pieces, owner[owners]
        if len(triangles) > 4 * MOST:
            raise SettingsError(
                "Edges no longer than that make too many triangles of this part.", "Allow longer edges."
            )
    order = np.argsort(owner, kind="stable")
    triangles, whose = triangles[order], owner[order]
    effects = {**mesh.figures.effects, "longest": float(len(triangles) - len(mesh.triangles))}
    return replace(
        mesh, positions=corners.spots, triangles=triangles.astype(np.int32), attributes=corners.attributes, places=None,
        runs={name: Runs.labelled(runs.labels[whose], runs.count) for name, runs in mesh.runs.items()},
        figures=replace(mesh.figures, open_edges=None, effects=effects),
    )  # fmt: skip


class Corners:
    """Positions (n, 3) and what hangs on them, growing."""

    def __init__(self, spots: NDArray[np.float64], attributes: dict[str, NDArray[np.float32]]) -> None:
        self.spots, self.attributes = spots, attributes

    def lengths(self, triangles: Numbers) -> NDArray[np.float64]:
        """Of the sides 01, 12, 20 of triangles, (m, 3)."""
        ends = self.spots[triangles]
        return np.linalg.norm(ends - np.roll(ends, -1, axis=1), axis=2)

    def middles(self, one: Numbers, two: Numbers) -> Numbers:
        """New corners in the middles between corners, of one number where both ends are the same."""
        low, high = np.minimum(one, two).ravel(), np.maximum(one, two).ravel()
        _, at, number = np.unique(low << 32 | high, return_index=True, return_inverse=True)
        first, low, high = len(self.spots), low[at], high[at]
        self.spots = np.concatenate([self.spots, (self.spots[low] + self.spots[high]) / 2])
        for name, values in self.attributes.items():
            mean = (values[low] + values[high]) / 2
            fresh = unit_normals(mean.astype(np.float32)) if name == "normal" else mean.astype(np.float32)
            self.attributes[name] = np.concatenate([values, fresh])
        return np.asarray(first + number.reshape(one.shape), np.int64)

    def along(self, one: Numbers, two: Numbers, halvings: int) -> Numbers:
        """Corners along sides (k,), halved so often: (k, 2^h + 1), both ends among them."""
        points = np.stack([one, two], axis=1)
        for _ in range(halvings):
            finer = np.empty((len(points), 2 * points.shape[1] - 1), np.int64)
            finer[:, ::2] = points
            finer[:, 1::2] = self.middles(points[:, :-1], points[:, 1:])
            points = finer
        return points


def _halvings(lengths: NDArray[np.float64], limit: float) -> NDArray[np.int64]:
    """How often sides are halved until none is longer; the same for whatever shares a side."""
    return np.ceil(np.log2(np.maximum(lengths / limit, 1))).astype(np.int64)


def divide(corners: Corners, triangles: Numbers, halvings: Numbers) -> tuple[Numbers, Numbers]:
    """Triangles (k, 3) that others (m, 3) become, and whose each is.

    Where all sides are too long a triangle becomes four like it. Where one is short enough the other two are divided as often
    as they need to be, and what lies between becomes a strip across: a long thin triangle is not made thinner still.
    """
    pieces, owners = [], []

    def put(rows: Numbers, parts: list[Numbers]) -> None:
        pieces.extend(parts)
        owners.extend([rows] * len(parts))

    long = halvings > 0
    count = long.sum(axis=1)
    whole = np.flatnonzero(count == 0)
    put(whole, [triangles[whole]])
    rows = np.flatnonzero(count == 3)
    a, b, c = triangles[rows].T
    ab, bc, ca = corners.middles(np.stack([a, b, c], axis=1), np.stack([b, c, a], axis=1)).T if len(rows) else (a, b, c)
    put(rows, [np.stack(part, axis=1) for part in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))])
    # The others turned so that the side 12 is short enough, or that 01 is the one that is not.
    for turn in range(3):
        mine = np.flatnonzero(((count == 2) & ~long[:, (turn + 1) % 3]) | ((count == 1) & long[:, turn]))
        a, b, c = np.roll(triangles[mine], -turn, axis=1).T
        times = np.roll(halvings[mine], -turn, axis=1)
        for right, left in np.unique(times[:, [0, 2]], axis=0).tolist():
            some = np.flatnonzero((times[:, 0] == right) & (times[:, 2] == left))
            one, two = corners.along(a[some], b[some], right), corners.along(a[some], c[some], left)
            put(mine[some], [np.stack([side[:, k] for side, k in part], axis=1) for part in strip(one, two)])
    return np.concatenate(pieces), np.concatenate(owners)


def strip(one: Numbers, two: Numbers, met: bool = True) -> list[list[tuple[Numbers, int]]]:
    """Triangles between two sides, which start in one corner where they have `met`, each by the sides and numbers of its
    corners: always the side goes on that is behind."""
    parts: list[list[tuple[Numbers, int]]] = [[(one, 0), (one, 1), (two, 1)]] if met else []
    ends = one.shape[1] - 1, two.shape[1] - 1
    i = k = 1 if met else 0
    while (i, k) != ends:
        if i < ends[0] and (k == ends[1] or (i + 1) * ends[1] <= (k + 1) * ends[0]):
            parts.append([(one, i), (one, i + 1), (two, k)])
            i += 1
        else:
            parts.append([(one, i), (two, k + 1), (two, k)])
            k += 1
    return parts
