"""How large a length is in the picture that a lookout sees."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

#: Width over height of a picture where a lookout says only how tall it sees.
_ASPECT = 16 / 9
#: What is nearer to the eye than this share of its own size is looked at from there.
_NEAREST = 0.1


@dataclass(frozen=True)
class Seen:
    """A lookout: eye in metres, unit vector of its way; the angle in radians that it sees from bottom to top, 0 where it
    sees parallel, and the height in metres that it sees then; the width of its picture to the height, 0 for not said."""

    eye: tuple[float, float, float]
    way: tuple[float, float, float]
    tall: float
    wide: float
    reach: float


def pixels_per_metre(
    seen: Seen, width: int, middles: NDArray[np.float64], radii: NDArray[np.float64]
) -> NDArray[np.float64]:
    """For things of so large a radius about their middles, (p, 3) in metres: pixels that a metre is wide at their nearest,
    in a picture of so many pixels across; 0 for what lies behind the eye."""
    aspect = seen.wide or _ASPECT
    if not seen.tall:
        return np.full(len(middles), width / max(seen.reach * aspect, 1e-9))
    half = np.tan(seen.tall / 2) * aspect
    depth = (middles - np.array(seen.eye)) @ np.array(seen.way)
    near = np.maximum(depth - radii, _NEAREST * np.maximum(radii, 1e-9))
    return np.where(depth + radii > 0, width / (2 * half * near), 0.0)
