"""What surfaces see: rays in front of them and behind, and which shells lie inside which."""

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.counts import shell_boxes
from hemp_ladder.core.mesh.edges import Mask, Numbers
from hemp_ladder.core.mesh.triangles import cross, lengths

#: Rays for each patch.
_RAYS = 64
#: Patches that rays are sent for; of more the largest.
_MOST_PATCHES = 20_000


def depths(corners: NDArray[np.float64], patch: Numbers, shut: Mask) -> Numbers:
    """How many closed patches each closed patch lies inside, (p,), by the winding number at one of its corners."""
    from igl import winding_number

    depth = np.zeros(len(shut), np.int64)
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


def seen(corners: NDArray[np.float64], patch: Numbers, asked: Numbers) -> NDArray[np.float64]:
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
    far = []
    for side in (1.0, -1.0):
        told = scene.run(
            np.ascontiguousarray(start + side * 1e-5 * size * normal, np.float32),
            np.ascontiguousarray(side * way, np.float32),
            query="DISTANCE",
        )
        far.append(np.minimum(np.where(told < 0, size, told), size).reshape(-1, _RAYS).sum(axis=1))
    found = np.zeros(len(asked))
    found[some] = (far[0] - far[1]) / np.maximum(far[0] + far[1], 1e-300)
    return found


def _directions(dice: np.random.Generator, count: int) -> NDArray[np.float64]:
    """Directions spread evenly over the ball."""
    ways = dice.normal(size=(count, 3))
    return np.asarray(ways / np.maximum(lengths(ways), 1e-12)[:, None])
