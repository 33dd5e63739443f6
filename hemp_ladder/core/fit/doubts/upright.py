"""Whether a source lies down: what stands tall and what lies flat, by name, class and storeys, say which axis is up."""

from dataclasses import dataclass

import numpy as np

from hemp_ladder.core.findings import names
from hemp_ladder.core.fit.doubts.clues import Clue, clues_of
from hemp_ladder.core.fit.settings import Axis
from hemp_ladder.core.model.model import Matrix, Model

#: A thing stands, or lies, where one side is so many times as long, or as thin, as the next.
_CLEAR = 1.35
#: Within about a degree a side is level; on less than this share of its box it stands as on a tip, on more it lies well.
_LEVEL, _TIP, _FLAT = 0.99985, 0.02, 0.3
_HIGH = ("roof", "chimney", "lamp", "lantern", "ridge", "ceiling", "gutter", "top")
_LOW = (
    "floor",
    "base",
    "foundation",
    "step",
    "plinth",
    "slab",
    "ground",
    "threshold",
    "wheel",
    "tyre",
    "foot",
    "sill",
    "keel",
)


@dataclass(frozen=True)
class Lying:
    """The axis of the source that is up by what it holds, and what says so."""

    up: Axis
    said: str


def lying(model: Model) -> Lying | None:
    """Which axis is up where it is another than the declared one; None where nothing says so, or not clearly."""
    votes = np.zeros(3)
    said: dict[int, list[str]] = {0: [], 1: [], 2: []}
    storeys = _storeys(model)
    if storeys is not None:
        votes[storeys] += 2
        said[storeys].append(f"its storeys follow each other along {'XYZ'[storeys]}")
    for clue in clues_of(model):
        axis = _axis(clue)
        if axis is not None:
            votes[axis] += 1
            said[axis].append(_told(clue, axis))
    declared = "xyz".index((model.up or "z")[-1])
    axis = int(votes.argmax())
    if axis == declared or votes[axis] < 1 or votes[axis] < 3 * (votes.sum() - votes[axis]) or votes[declared]:
        return None
    up: Axis = ("x", "y", "z")[axis]
    if _sign(model, axis) < 0:
        up = ("-x", "-y", "-z")[axis]
    return Lying(up, names(list(dict.fromkeys(said[axis]))))


def _storeys(model: Model) -> int | None:
    """The axis along which the storeys of a building follow each other, where it has several."""
    names_ = {node.tags.storey for node in model.nodes if node.tags.storey}
    if len(names_) < 2:
        return None
    world = model.world()
    at = np.array([world[i, :3, 3] for i, node in enumerate(model.nodes) if node.part < 0 and node.name in names_])
    if len(at) < 2:
        return None
    spread = np.ptp(at, axis=0)
    axis = int(spread.argmax())
    return axis if spread[axis] > 3 * np.delete(spread, axis).max() else None


def resting(points: Matrix) -> tuple[Axis, float] | None:
    """By its outermost points alone (n, 3), metres, Z up: the axis that should be up where it stands on an edge or a tip
    and has a large flat side to lie on, and that side's share of its footprint; None where it stands well, or nothing
    about it is flat.
    """
    from scipy.spatial import ConvexHull, QhullError

    try:
        hull = ConvexHull(points - points.mean(axis=0))
    except (QhullError, ValueError):
        return None
    corners = hull.points[hull.simplices]
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
    sides = np.ptp(points, axis=0)
    if not (sides > 0).all():
        return None
    shares = {}
    for axis in range(3):
        footprint = float(np.prod(np.delete(sides, axis)))
        for sign in (1, -1):
            facing = sign * hull.equations[:, axis] > _LEVEL
            shares[axis, sign] = float(areas[facing].sum()) / footprint
    best = max(shares, key=lambda side: shares[side])
    if shares[2, -1] > _TIP or shares[best] < _FLAT or best == (2, -1):
        return None
    axis, sign = best
    # What it can lie on goes down, so up is the other way.
    up: Axis = ("x", "y", "z")[axis] if sign < 0 else ("-x", "-y", "-z")[axis]
    return up, shares[best]


def _axis(clue: Clue) -> int | None:
    """The axis of the source that a thing says is up; a vehicle says that the longest side is not."""
    if clue.thing is None or clue.upright is None:
        return None
    extents = np.array(clue.upright)
    order = np.argsort(extents)
    if clue.thing.stands and extents[order[2]] >= _CLEAR * extents[order[1]]:
        return int(order[2])
    if clue.thing.lies and extents[order[1]] >= _CLEAR * 1.5 * extents[order[0]]:
        return int(order[0])
    if clue.thing.word in ("car", "van", "lorry") and extents[order[2]] >= _CLEAR * extents[order[1]]:
        # Wider than high, as vehicles are but for vans: the shortest side is up.
        return int(order[0])
    return None


def _told(clue: Clue, axis: int) -> str:
    assert clue.thing is not None
    how = "stands along" if clue.thing.stands else "lies across"
    return f"a {clue.thing.word} {how} {'XYZ'[axis]}"


def _sign(model: Model, axis: int) -> int:
    """Which end is up: where what belongs above is, else where less of it is."""
    world = model.world()
    high: list[float] = []
    low: list[float] = []
    spots, weights = [], []
    for index, node in enumerate(model.nodes[:20_000]):
        if node.part < 0:
            continue
        box = model.parts[node.part].box
        at = float((world[index, :3, :3] @ box.mean(axis=0) + world[index, :3, 3])[axis])
        extents = np.abs(world[index, :3, :3]) @ (box[1] - box[0])
        spots.append(at)
        weights.append(float(np.prod(np.delete(extents, axis))))
        name = (model.parts[node.part].name or node.name).lower()
        if any(word in name for word in _HIGH):
            high.append(at)
        elif any(word in name for word in _LOW):
            low.append(at)
    if high and low and np.mean(high) != np.mean(low):
        return 1 if np.mean(high) > np.mean(low) else -1
    middle = float(model.box[:, axis].mean())
    if not spots or not sum(weights):
        return 1
    return -1 if float(np.average(spots, weights=weights)) > middle + 0.1 * float(np.ptp(model.box[:, axis])) else 1
