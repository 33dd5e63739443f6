"""Whether a source lies down: what stands tall and what lies flat, by name, class and storeys, say which axis is up."""

from dataclasses import dataclass

import numpy as np

from hemp_ladder.core.findings import names
from hemp_ladder.core.fit.doubts.clues import Clue, clues_of
from hemp_ladder.core.fit.settings import Axis
from hemp_ladder.core.model.model import Model

#: A thing stands, or lies, where one side is so many times as long, or as thin, as the next.
_CLEAR = 1.35
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
