"""The turn and move that bring points onto others, as nearly as may be."""

from dataclasses import dataclass

import numpy as np

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.model.model import Matrix


@dataclass(frozen=True)
class Alignment:
    """turn (3, 3) and move (3,), metres, and how far each point stays from its own after them, (n,) metres."""

    turn: Matrix
    move: Matrix
    residuals: Matrix


#: Points nearer than this share of their spread to one spot, or one line, say nothing of a direction.
_NEAR = 1e-7


def aligned(points: Matrix, onto: Matrix, upright: bool = True) -> Alignment:
    """Bring points (n, 3) onto others (n, 3), metres, Z up. One pair moves. Two also turn: about the up axis where
    `upright`, so that what stands goes on standing, else by the smallest turn. Three and more fix it wholly, by least
    squares.

    Source: W. Kabsch, "A solution for the best rotation to relate two sets of
    vectors", Acta Cryst. A32, 1976; the same as B. K. P. Horn, 1987. Raises
    SettingsError for pairs that do not say where to turn.
    """
    if not len(points) or points.shape != onto.shape:
        raise SettingsError("A pair of points is missing.", "Pick a point, and the place where it belongs.")
    if not (np.isfinite(points).all() and np.isfinite(onto).all()):
        raise SettingsError("A point lies nowhere.", "Pick it again.")
    turn = np.eye(3)
    if len(points) == 2:
        turn = _two(points, onto, upright)
    elif len(points) > 2:
        turn = _three(points, onto)
    move = onto.mean(axis=0) - turn @ points.mean(axis=0) if len(points) > 2 else onto[0] - turn @ points[0]
    return Alignment(turn, move, np.linalg.norm(points @ turn.T + move - onto, axis=1))


def _two(points: Matrix, onto: Matrix, upright: bool) -> Matrix:
    from hemp_ladder.core.fit.turning import turned_about, turned_onto

    first, second = points[1] - points[0], onto[1] - onto[0]
    if not np.linalg.norm(first) or not np.linalg.norm(second):
        raise SettingsError("Both pairs are the same point.", "Pick the second pair elsewhere.")
    if not upright:
        return turned_onto(first, second)
    level = [np.hypot(v[0], v[1]) / np.linalg.norm(v) for v in (first, second)]
    if min(level) < 1e-6:
        raise SettingsError(
            "The two points lie straight above each other, so they say nothing of a turn about the up axis.",
            "Pick a second pair beside the first, or three pairs.",
        )
    angle = np.degrees(np.arctan2(second[1], second[0]) - np.arctan2(first[1], first[0]))
    return turned_about(2, float(angle))


def _three(points: Matrix, onto: Matrix) -> Matrix:
    first, second = points - points.mean(axis=0), onto - onto.mean(axis=0)
    for some in (first, second):
        spread = np.linalg.svd(some, compute_uv=False)
        if spread[0] == 0 or spread[1] < _NEAR * spread[0]:
            raise SettingsError(
                "The points lie on one line, so they leave open how it turns about that line.",
                "Pick a third pair beside the line.",
            )
    left, _, right = np.linalg.svd(first.T @ second)
    sign = np.sign(np.linalg.det(right.T @ left.T))
    return np.asarray(right.T @ np.diag([1, 1, sign]) @ left.T)
