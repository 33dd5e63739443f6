"""Placements as formats write them."""

import numpy as np
from numpy.typing import NDArray


def turned(axis: NDArray[np.float64], angle: float) -> NDArray[np.float64]:
    """A turn about an axis (3 x 3), by O. Rodrigues' formula; none about nothing."""
    length = float(np.linalg.norm(axis))
    if not length:
        return np.eye(3)
    x, y, z = axis / length
    cross = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    return np.asarray(np.eye(3) + np.sin(angle) * cross + (1 - np.cos(angle)) * (cross @ cross))
