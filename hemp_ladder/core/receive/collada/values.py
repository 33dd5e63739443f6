"""Values in a COLLADA document."""

import math
from xml.etree.ElementTree import Element

import numpy as np
from numpy.typing import NDArray

#: Values that hang on one corner, or make one row.
_MOST = 1 << 16


def child(above: Element | None, tag: str) -> Element | None:
    return above.find(tag) if above is not None else None


def text_of(item: Element | None) -> str:
    return (item.text or "").strip() if item is not None else ""


def ref(item: Element | None, name: str) -> str:
    """The id that an attribute refers to, within the document."""
    return (item.get(name) or "").rpartition("#")[2] if item is not None else ""


def number(text: str | None, start: float) -> float:
    """A finite number; some programs write decimal commas."""
    try:
        value = float((text or "").replace(",", "."))
    except ValueError:
        return start
    return value if math.isfinite(value) else start


def count(text: str | None, start: int) -> int:
    """How many, or which: as many as a document may have beside each other; `start` where it is none."""
    value = number(text, start)
    return int(value) if 0 <= value < _MOST else start


def numbers(text: str | None) -> list[float]:
    """All numbers of a list, empty where one of them is none."""
    found = array(text)
    return found.tolist() if np.isfinite(found).all() else []


def array(text: str | None) -> NDArray[np.float64]:
    """Numbers of a list; what is none becomes none."""
    words = (text or "").split()
    try:
        return np.array(words, dtype="U40").astype(np.float64) if words else np.zeros(0)
    except ValueError:
        return np.array([number(word, math.nan) for word in words])


def whole(text: str | None) -> NDArray[np.int64]:
    """Whole numbers of a list; what is none becomes -1."""
    words = (text or "").split()
    try:
        return np.array(words, dtype="U20").astype(np.int64) if words else np.zeros(0, np.int64)
    except (ValueError, OverflowError):
        values = [number(word, -1.0) for word in words]
        return np.array([int(value) if abs(value) < 1 << 40 else -1 for value in values], np.int64)
