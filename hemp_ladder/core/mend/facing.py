"""Facing: neighbours wound alike, and every shell with its outside out."""

from dataclasses import replace
from typing import ClassVar, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hemp_ladder.core.chain.steps import Operation, Option
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.mend.normals import edges_of
from hemp_ladder.core.mesh.counts import shell_boxes
from hemp_ladder.core.mesh.edges import Edges, Mask, Numbers, components
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import cross, dot, in_use, lengths

#: Rays for each open patch, and how much more one side must see than the other to be the outside.
_RAYS, _CLEAR = 64, 0.05
#: Patches that rays are sent for; of more the largest.
_MOST_PATCHES = 20_000


class Facing(Operation):
    """Which way surfaces face."""

    version: ClassVar[int] = 1
    option: ClassVar[Option] = Option(
        "HOW", "keep (as it came), consistent (neighbours alike), outward (the outside out)"
    )
    does: Literal["facing"] = "facing"
    kind: Literal["consistent", "outward"] = "outward"
    nested: bool = Field(
        False, description="shells inside shells are hollows and face inward, and so on in turn; else they stay as they are"
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

    Every triangle stands twice in a graph, once as it is and once turned;
    links across an edge join what agrees. What hangs together there is wound
    alike, and a triangle that hangs together with itself turned shows that
    the patch has one side. That takes half a second for a million triangles,
    where walking from neighbour to neighbour takes twice that in a library.
    """
    count = len(edges.places)
    one, two = edges.pairs
    agree = edges.start(one) == edges.end(two)
    one, two = one // 3, two // 3
    other = np.where(agree, two, two + count)
    turned_other = np.where(agree, two + count, two)
    _, double = components(2 * count, np.concatenate([one, one + count]), np.concatenate([other, turned_other]))
    as_is, turned = double[:count], double[count:]
    rank = np.zeros(2 * count, np.int64)
    rank[np.minimum(as_is, turned)] = 1
    patches, patch = int(rank.sum()), (np.cumsum(rank) - 1)[np.minimum(as_is, turned)]
    one_sided = np.zeros(patches, bool)
    one_sided[patch[as_is == turned]] = True
    # Of the two windings of a patch, the one that its first triangle has is given the lower number.
    flip = as_is > turned
    area = lengths(cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]))
    more = np.bincount(patch, np.where(flip, area, -area), patches) > 0
    flip = (flip ^ more[patch]) & ~one_sided[patch]
    return flip, patch, one_sided


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
    patches = len(one_sided)
    wound = corners.copy()
    wound[turned] = wound[turned][:, ::-1]
    wound -= wound.reshape(-1, 3).mean(axis=0)
    open_ = one_sided.copy()
    open_[patch[edges.sides[(edges.uses != 2)[edges.of_side]] // 3]] = True
    volume = np.bincount(patch, dot(wound[:, 0], cross(wound[:, 1], wound[:, 2])), patches)
    inward = ~open_ & (volume < 0)
    depth = _depths(wound, patch, ~open_)
    if nested:
        inward ^= ~open_ & (depth % 2 == 1)
    else:
        # A hollow, or a ball in its casing: as it came, which is by what most of it was.
        inward &= ~(depth > 0)
    asked = np.flatnonzero(open_ & ~one_sided)
    if not len(asked):
        return inward, 0
    front = _seen(wound, patch, asked)
    inward[asked] = front < -_CLEAR
    return inward, int(np.count_nonzero(np.abs(front) <= _CLEAR))


def _depths(corners: NDArray[np.float64], patch: Numbers, shut: Mask) -> Numbers:
    """How many closed patches each closed patch lies inside, (p,), by the winding number at one of its corners."""
    from igl import winding_number

    depth = np.zeros(len(shut), np.int64)
    if np.count_nonzero(shut) < 2:
        return depth
    low, high = shell_boxes(corners, patch, len(shut))
    order = np.argsort(patch, kind="stable")
    starts = np.searchsorted(patch[order], np.arange(len(shut) + 1))
    numbers = np.flatnonzero(shut)
    for outer in numbers:
        inside = numbers[((low[numbers] >= low[outer]) & (high[numbers] <= high[outer])).all(axis=1)]
        inside = inside[inside != outer]
        if len(inside):
            own = corners[order[starts[outer] : starts[outer + 1]]].reshape(-1, 3)
            points = corners[order[starts[inside]]].mean(axis=1)
            around = winding_number(own, np.arange(len(own)).reshape(-1, 3), np.ascontiguousarray(points))
            depth[inside[np.abs(np.asarray(around)) > 0.5]] += 1
    return depth


def _seen(corners: NDArray[np.float64], patch: Numbers, asked: Numbers) -> NDArray[np.float64]:
    """For each patch asked about, how much farther its front sees than its back, as a share of what both see: (a,).

    Rays start from points spread over the patch by area and leave in directions spread around its normals, the
    opposite ones behind. What sees nothing sees as far as the box is wide.
    """
    from embreex import rtcore_scene
    from embreex.mesh_construction import TriangleMesh

    dice = np.random.default_rng(7)
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = lengths(across)
    order = np.argsort(patch, kind="stable")
    starts = np.searchsorted(patch[order], np.arange(patch.max() + 2))
    # Of too many patches the smallest see nothing: they stay.
    weight = np.bincount(patch, area)[asked]
    some = np.sort(np.argsort(-weight, kind="stable")[:_MOST_PATCHES])
    total = np.concatenate([[0.0], np.cumsum(area[order])])
    low, high = total[starts[asked[some]]], total[starts[asked[some] + 1]]
    at = low[:, None] + dice.random((len(some), _RAYS)) * (high - low)[:, None]
    rows = np.clip(np.searchsorted(total, at.reshape(-1), side="right") - 1, 0, len(order) - 1)
    chosen = order[rows]
    share = np.sqrt(dice.random((len(chosen), 1))), dice.random((len(chosen), 1))
    a, b, c = corners[chosen].transpose(1, 0, 2)
    start = a + share[0] * (b - a) + share[0] * share[1] * (c - b)
    normal = across[chosen] / np.maximum(area[chosen], 1e-300)[:, None]
    way = normal + 0.9 * _directions(dice, len(chosen))
    way /= np.maximum(lengths(way), 1e-12)[:, None]
    size = float(lengths(np.ptp(corners.reshape(-1, 3), axis=0)[None])[0]) or 1.0
    scene = rtcore_scene.EmbreeScene()
    TriangleMesh(scene, np.ascontiguousarray(corners, np.float32))
    seen = []
    for side in (1.0, -1.0):
        told = scene.run(
            np.ascontiguousarray(start + side * 1e-5 * size * normal, np.float32),
            np.ascontiguousarray(side * way, np.float32),
            query="DISTANCE",
        )
        seen.append(np.minimum(np.where(told < 0, size, told), size).reshape(-1, _RAYS).sum(axis=1))
    found = np.zeros(len(asked))
    found[some] = (seen[0] - seen[1]) / np.maximum(seen[0] + seen[1], 1e-300)
    return found


def _directions(dice: np.random.Generator, count: int) -> NDArray[np.float64]:
    """Directions spread evenly over the ball."""
    ways = dice.normal(size=(count, 3))
    return np.asarray(ways / np.maximum(lengths(ways), 1e-12)[:, None])
