"""How UV are moved before a picture is looked up by them."""

from typing import Protocol

import numpy as np
from numpy.typing import NDArray


class Lies(Protocol):
    """What says how a picture lies on a surface, as `Map` has it."""

    @property
    def offset(self) -> tuple[float, float]: ...
    @property
    def scale(self) -> tuple[float, float]: ...
    @property
    def turn(self) -> float: ...


def laid(uv: NDArray[np.floating], worn: Lies) -> NDArray[np.float32]:
    """UV (n, 2), from the lower left, moved as a picture says that they are (KHR_texture_transform: scaled, turned, moved,
    from the upper left)."""
    across, down = uv[:, 0].astype(np.float64) * worn.scale[0], (1 - uv[:, 1].astype(np.float64)) * worn.scale[1]
    cos, sin = np.cos(worn.turn), np.sin(worn.turn)
    moved = [cos * across + sin * down + worn.offset[0], 1 - (cos * down - sin * across + worn.offset[1])]
    return np.column_stack(moved).astype(np.float32)
