"""What pictures show of parts, and the pictures between one lookout and the next."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.fit.lookouts import View

Floats = NDArray[np.float64]

#: Pictures between one lookout and the next on a way.
_BETWEEN = 12


@dataclass(frozen=True)
class Sight:
    """Of every part, (p,): how many pixels a metre is wide at its nearest visible point, 0 for not seen at all; whether a
    round outline of it is seen from anywhere. And whether rays were sent: else nothing hides anything."""

    pixels: Floats
    outline: NDArray[np.bool_]
    hidden: bool


def on_the_way(views: Sequence[View]) -> list[View]:
    """Views with those between each and the next, as a camera that moves evenly sees."""
    found: list[View] = []
    for one, two in pairwise(views):
        found.append(one)
        found += [_between(one, two, step / (_BETWEEN + 1)) for step in range(1, _BETWEEN + 1)]
    return [*found, *views[-1:]]


def _between(one: View, two: View, share: float) -> View:
    def mixed(a: object, b: object) -> tuple[float, float, float]:
        x, y, z = (np.array(a) * (1 - share) + np.array(b) * share).tolist()
        return x, y, z

    way, up = np.array(mixed(one.way, two.way)), np.array(mixed(one.up, two.up))
    if np.linalg.norm(way) < 1e-6 or np.linalg.norm(np.cross(way, up)) < 1e-6:
        return one if share < 0.5 else two
    way /= np.linalg.norm(way)
    tall, reach = one.tall * (1 - share) + two.tall * share, one.reach * (1 - share) + two.reach * share
    eye = mixed(one.eye, two.eye)
    return replace(one, eye=eye, way=tuple(way.tolist()), up=tuple((up / np.linalg.norm(up)).tolist()), tall=tall,
                   reach=reach)  # fmt: skip
