"""Turns as three angles, exact where they are quarters: about X, then Y, then Z of the job, all fixed axes."""

import math

import numpy as np

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.model.model import Matrix

_QUARTERS = {0: (1.0, 0.0), 90: (0.0, 1.0), 180: (-1.0, 0.0), 270: (0.0, -1.0)}
#: Nearer to a whole number of degrees than this, an angle is that number: rounding, not intent.
_WHOLE = 1e-9


def turned_about(axis: int, degrees: float) -> Matrix:
    """(3, 3) turn about X, Y or Z (0, 1, 2) by the right hand; quarters are exact."""
    known = _QUARTERS.get(int(degrees % 360)) if degrees % 90 == 0 else None
    cos, sin = known or (math.cos(math.radians(degrees)), math.sin(math.radians(degrees)))
    turn = np.eye(3)
    first, second = (axis + 1) % 3, (axis + 2) % 3
    turn[first, first] = turn[second, second] = cos
    turn[second, first], turn[first, second] = sin, -sin
    return turn


def turned_by(x: float, y: float, z: float) -> Matrix:
    """(3, 3) turn about the fixed axes X, then Y, then Z, in degrees."""
    return np.asarray(turned_about(2, z) @ turned_about(1, y) @ turned_about(0, x))


def angles_of(turn: Matrix) -> tuple[float, float, float]:
    """Degrees about X, Y and Z of a (3, 3) turn, as `turned_by` takes them. Where Y is a quarter, X takes it all.

    Source: K. Shoemake, "Euler angle conversion", Graphics Gems IV, 1994.
    """
    flat = math.hypot(turn[0, 0], turn[1, 0])
    if flat > 1e-9:
        x, y, z = math.atan2(turn[2, 1], turn[2, 2]), math.atan2(-turn[2, 0], flat), math.atan2(turn[1, 0], turn[0, 0])
    else:
        x, y, z = math.atan2(-turn[1, 2], turn[1, 1]), math.atan2(-turn[2, 0], flat), 0.0
    return _neat(x), _neat(y), _neat(z)


def _neat(radians: float) -> float:
    degrees = math.degrees(radians)
    whole = round(degrees)
    degrees = float(whole) if abs(degrees - whole) < _WHOLE else degrees
    return 180.0 if degrees == -180.0 else degrees + 0.0


def turned_around(way: Matrix, degrees: float) -> Matrix:
    """(3, 3) turn about any direction (3,) by the right hand. Source: O. Rodrigues, 1840."""
    axis = unit_vector(way)
    for number in range(3):
        if abs(abs(axis[number]) - 1) < 1e-12:
            return turned_about(number, degrees if axis[number] > 0 else -degrees)
    angle = math.radians(degrees)
    across = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    return np.asarray(np.eye(3) + math.sin(angle) * across + (1 - math.cos(angle)) * (across @ across))


def turned_onto(way: Matrix, wanted: Matrix) -> Matrix:
    """(3, 3) the smallest turn that brings one direction (3,) onto another; of opposite ones, about a level axis."""
    first, second = unit_vector(way), unit_vector(wanted)
    axis, cos = np.cross(first, second), float(first @ second)
    sin = float(np.linalg.norm(axis))
    if sin < 1e-12:
        if cos > 0:
            return np.eye(3)
        least = np.eye(3)[int(np.argmin(np.abs(first)))]
        return turned_around(np.cross(first, least), 180.0)
    return turned_around(axis, math.degrees(math.atan2(sin, cos)))


def unit_vector(way: Matrix) -> Matrix:
    """(3,) of length one. Raises SettingsError for one without a direction."""
    way = np.asarray(way, float)
    length = float(np.linalg.norm(way))
    if not np.isfinite(length) or length == 0:
        raise SettingsError("That has no direction.", "Pick a straight edge, a flat face, or a circle.")
    return way / length
