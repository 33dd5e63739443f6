"""Placements as formats write them."""

import math

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.model.finish import Channel, Map


def turned(axis: NDArray[np.float64], angle: float) -> NDArray[np.float64]:
    """A turn about an axis (3 x 3), by O. Rodrigues' formula; none about nothing."""
    length = float(np.linalg.norm(axis))
    if not length:
        return np.eye(3)
    x, y, z = axis / length
    cross = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    return np.asarray(np.eye(3) + np.sin(angle) * cross + (1 - np.cos(angle)) * (cross @ cross))


def turned_flat(angle: float) -> NDArray[np.float64]:
    """A turn in the plane (2 x 2), counterclockwise; exactly none by nothing."""
    return np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]])


def laid_by(turn: NDArray[np.float64], shift: NDArray[np.float64], picture: str, channel: Channel = "rgb") -> Map:
    """A map whose UV, from the lower left, go through `turn` (2 x 2) and are then moved by `shift` (2,). What shears them
    is left out: a map scales, then turns."""
    across, along, angle = float(turn[0, 0]), float(turn[1, 1]), 0.0
    if turn[0, 1] or turn[1, 0]:
        angle = math.atan2(turn[1, 0], turn[0, 0])
        across, along = float(np.hypot(*turn[:, 0])), float(np.copysign(np.hypot(*turn[:, 1]), np.linalg.det(turn)))
    # A map counts from the upper left: its offset is where the corner (0, 1) goes.
    left, low = -along * math.sin(angle) + float(shift[0]), along * math.cos(angle) + float(shift[1])
    return Map(picture, channel, offset=(left, 1 - low), scale=(across, along), turn=angle)
