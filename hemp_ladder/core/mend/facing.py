"""Facing: neighbours wound alike, and every shell with its outside out."""

from dataclasses import replace
from typing import ClassVar, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hemp_ladder.core.chain.steps import Operation, Option
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.mend.normals import edges_of
from hemp_ladder.core.mesh.edges import Edges, Mask, Numbers, components
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import cross, dot, in_use, lengths

#: How much more one side must see than the other to be the outside.
_CLEAR = 0.05


class Facing(Operation):
    """Which way surfaces face."""

    version: ClassVar[int] = 1
    option: ClassVar[Option] = Option(
        "HOW", "keep (as it came), consistent (neighbours alike), outward (the outside out)"
    )
    does: Literal["facing"] = "facing"
    kind: Literal["consistent", "outward"] = "outward"
    nested: bool = Field(
        False,
        description="shells inside shells are hollows and face inward, and so on in turn; else they stay as they are",
    )

    @classmethod
    def from_option(cls, text: str) -> Self | None:
        if text not in ("keep", "consistent", "outward"):
            raise SettingsError(f"“{text[:40]}” is no kind of facing. Write keep, consistent or outward.")
        return None if text == "keep" else cls.model_validate({"kind": text})

    def apply(self, mesh: Mesh) -> Mesh:
        return face(mesh, self)

    def seconds(self, triangles: int) -> float:
        return 3e-6 * triangles


def face(mesh: Mesh, settings: Facing) -> Mesh:
    """Turn triangles so that neighbours are wound alike, the fewest of a patch by area; then patches outward if asked.

    A patch is what hangs together across edges with two sides. Closed ones
    are judged by their signed volume, open ones by rays: the side that sees
    farther is out. Where both see alike, as on a sheet, there is no outside
    and the patch stays. A shell inside another stays too, since it may be a
    hollow or a thing of its own; with `nested`, those at odd depth face
    inward.

    Effects: `facing`, triangles turned; `facing.patches`, patches of which
    any was; `facing.sheets`, that have no outside; `facing.one_sided`, with
    no two sides to tell apart (Möbius strips, Klein bottles), left as they
    were.
    """
    if not len(mesh.triangles):
        return mesh
    edges = edges_of(mesh)
    turned, patch, one_sided = consistent(edges, mesh.corners)
    sheets = 0
    if settings.kind == "outward":
        inward, sheets = _inward(mesh.corners, edges, turned, patch, one_sided, settings.nested)
        turned = turned ^ inward[patch]
    made = turn(mesh, turned)
    effects = {
        settings.does: float(turned.sum()),
        f"{settings.does}.patches": float(len(np.unique(patch[turned]))),
        f"{settings.does}.sheets": float(sheets),
        f"{settings.does}.one_sided": float(one_sided.sum()),
    }
    return replace(made, figures=replace(made.figures, effects={**mesh.figures.effects, **effects}))


def consistent(edges: Edges, corners: NDArray[np.float64]) -> tuple[Mask, Numbers, Mask]:
    """Which triangles to turn so that those of a patch are wound alike, (m,); the number of each one's patch, (m,); and
    which patches have but one side, (p,), where nothing is turned.

    What agrees across an edge is one group. Every group stands twice in a
    graph, once as it is and once turned; edges where two disagree link the
    one to the other turned. What hangs together there is wound alike, and a
    group that hangs together with itself turned shows that the patch has one
    side. That takes half a second for a million triangles of which half are
    wrong, and next to nothing where whole shells are, where walking from
    neighbour to neighbour takes a second in a library.
    """
    count = len(edges.places)
    one, two = edges.pairs
    agree = edges.start(one) == edges.end(two)
    one, two = one // 3, two // 3
    groups, group = components(count, one[agree], two[agree])
    if agree.all():
        return np.zeros(count, bool), group, np.zeros(groups, bool)
    apart = np.column_stack([group[one[~agree]], group[two[~agree]]])
    _, double = components(
        2 * groups, np.concatenate([apart[:, 0], apart[:, 0] + groups]), np.concatenate([apart[:, 1] + groups, apart[:, 1]])
    )  # fmt: skip
    as_is, turned = double[:groups], double[groups:]
    rank = np.zeros(2 * groups, np.int64)
    rank[np.minimum(as_is, turned)] = 1
    patches = int(rank.sum())
    patch = (np.cumsum(rank) - 1)[np.minimum(as_is, turned)]
    one_sided = np.zeros(patches, bool)
    one_sided[patch[as_is == turned]] = True
    area = np.bincount(group, lengths(cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])), groups)
    # Of the two windings of a patch, the one that less of it is to be turned for.
    flip = as_is > turned
    more = np.bincount(patch, np.where(flip, area, -area), patches) > 0
    flip = (flip ^ more[patch]) & ~one_sided[patch]
    return np.asarray(flip[group]), np.asarray(patch[group]), one_sided


def turn(mesh: Mesh, turned: Mask) -> Mesh:
    """The mesh with some triangles, (m,), wound the other way round; vertices that both kinds use are doubled."""
    if not turned.any():
        return mesh
    count = len(mesh.positions)
    told = mesh.triangles.astype(np.int64) + np.where(turned, count, 0)[:, None]
    told[turned] = told[turned][:, ::-1]
    used, rank = in_use(told, 2 * count)
    old = used % count
    attributes = {name: values[old] for name, values in mesh.attributes.items()}
    attributes["normal"] = np.where((used >= count)[:, None], -attributes["normal"], attributes["normal"])
    return replace(
        mesh,
        positions=mesh.positions[old],
        triangles=rank[told].astype(np.int32),
        attributes=attributes,
        figures=replace(mesh.figures, open_edges=None),
        places=mesh.same[old],
    )


def _inward(
    corners: NDArray[np.float64], edges: Edges, turned: Mask, patch: Numbers, one_sided: Mask, nested: bool
) -> tuple[Mask, int]:
    """Which patches face inward once `turned` are turned, (p,), and how many have no outside."""
    from hemp_ladder.core.mend.rays import depths, seen

    patches = len(one_sided)
    open_ = one_sided.copy()
    open_[patch[edges.sides[(edges.uses != 2)[edges.of_side]] // 3]] = True
    middle = corners - corners.reshape(-1, 3).mean(axis=0)
    six = dot(middle[:, 0], cross(middle[:, 1], middle[:, 2]))
    volume = np.bincount(patch, np.where(turned, -six, six), patches)
    inward = ~open_ & (volume < 0)
    asked = np.flatnonzero(open_ & ~one_sided)
    several = np.count_nonzero(~open_) > 1
    if several or len(asked):
        middle[turned] = middle[turned][:, ::-1]
    depth = depths(middle, patch, ~open_) if several else np.zeros(patches, np.int64)
    if nested:
        inward ^= ~open_ & (depth % 2 == 1)
    else:
        # A hollow, or a ball in its casing: as it came, which is by what most of it was.
        inward &= ~(depth > 0)
    if not len(asked):
        return inward, 0
    front = seen(middle, patch, asked)
    inward[asked] = front < -_CLEAR
    return inward, int(np.count_nonzero(np.abs(front) <= _CLEAR))
