"""Values of attributes, whose type is whatever the file says: what is of another kind counts as not said."""

from typing import Any

import numpy as np
from numpy.typing import NDArray


def number(value: Any, start: float) -> float:
    """A finite number."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        return start
    return float(value) if np.isfinite(value) else start


def vector(value: Any, start: tuple[float, ...]) -> tuple[float, ...]:
    """As many finite numbers as there are in `start`, the first of those that there are."""
    found = _floats(value)
    told = found[: len(start)]
    return tuple(told.tolist()) if told.shape == (len(start),) and np.isfinite(told).all() else start


def rows(value: Any, width: int) -> NDArray[np.float64]:
    """(n, width), finite or not."""
    found = _floats(value)
    return found if found.ndim == 2 and found.shape[1] == width else np.zeros((0, width))


def wholes(value: Any) -> NDArray[np.int64]:
    """Whole numbers (n,); other numbers are none of them."""
    found = np.asarray(value) if value is not None else np.zeros(0, np.int64)
    return found.astype(np.int64) if found.dtype.kind in "iu" and found.ndim == 1 else np.zeros(0, np.int64)


def _floats(value: Any) -> NDArray[np.float64]:
    try:
        found = np.asarray(value if value is not None else [])
    except (TypeError, ValueError):
        return np.zeros(0)
    return found.astype(np.float64) if found.dtype.kind in "iuf" and found.ndim else np.zeros(0)
