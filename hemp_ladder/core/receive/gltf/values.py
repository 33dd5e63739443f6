"""Values of a JSON document that strangers wrote: of the wanted kind, or the standard's own where they are none."""

import math
from collections.abc import Sequence
from typing import Any


def as_dict(value: Any) -> dict[str, Any]:
    return value if isinstance(value, dict) else {}


def as_list(value: Any) -> list[Any]:
    return value if isinstance(value, list) else []


def number(value: Any, start: float, most: float = 1.0) -> float:
    """A finite number from 0 to `most`."""
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        return start
    return min(max(float(value), 0.0), most)


def vector(value: Any, start: Sequence[float]) -> list[float]:
    """As many numbers as there are in `start`."""
    told = as_list(value)
    if len(told) != len(start) or any(isinstance(v, bool) or not isinstance(v, int | float) for v in told):
        return list(start)
    return [float(v) if math.isfinite(v) else s for v, s in zip(told, start, strict=True)]
