"""`Marks` of a part, and how they are gathered within a budget."""

import io
import json
from dataclasses import dataclass
from enum import IntEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
#: Raise when the same part has other marks.
MARKS_VERSION = 1
#: So many marks and points of lines a part has at the most; the longest edges and largest faces are kept.
MOST_MARKS, MOST_POINTS = 20_000, 60_000


class Kind(IntEnum):
    """What a mark is. The numbers go over the wire."""

    CORNER = 0
    EDGE_MIDDLE = 1
    CENTRE = 2
    FACE_CENTRE = 3


@dataclass(frozen=True, eq=False)
class Marks:
    """Points that can be picked, and the edges to show, in the part's own coordinates, float64.

    at      (n, 3) where each is
    kind    (n,) what it is, of `Kind`
    way     (n, 3) unit vectors: along the edge, the circle's axis, off the face outward; zeros at corners and on bent edges
    radius  (n,) of circles, else 0
    lines   (m, 3) points along edges, one edge after the other
    starts  (e + 1,) where each begins, and m
    of      (e,) the mark in the middle of each edge, or its circle's centre; -1 for none
    full    whether nothing was left out
    """

    at: Array
    kind: NDArray[np.uint8]
    way: Array
    radius: Array
    lines: Array
    starts: NDArray[np.int64]
    of: NDArray[np.int32]
    full: bool = True

    def to_bytes(self) -> bytes:
        stream = io.BytesIO()
        np.savez_compressed(
            stream, at=self.at, kind=self.kind, way=self.way, radius=self.radius, lines=self.lines, starts=self.starts,
            of=self.of, full=np.array(self.full),
        )  # fmt: skip
        return stream.getvalue()

    @staticmethod
    def from_bytes(data: bytes) -> "Marks":
        with np.load(io.BytesIO(data), allow_pickle=False) as told:
            return Marks(
                told["at"], told["kind"], told["way"], told["radius"], told["lines"], told["starts"], told["of"],
                bool(told["full"]),
            )  # fmt: skip

    def to_json(self) -> bytes:
        """For a browser: numbers in lists, coordinates with nine digits, which is all that it needs to show them."""
        told: dict[str, Any] = {
            "at": _digits(self.at), "kind": self.kind.tolist(), "way": _digits(self.way), "radius": _digits(self.radius),
            "lines": _digits(self.lines), "starts": self.starts.tolist(), "of": self.of.tolist(), "full": self.full,
        }  # fmt: skip
        return json.dumps(told, separators=(",", ":")).encode()


def _digits(values: Array) -> list[float]:
    return [float(f"{value:.9g}") for value in values.reshape(-1).tolist()]


class MarksBuilder:
    """Gathers marks: corners one by one, edges with their middles or centres, faces. What stands at one place counts once."""

    def __init__(self) -> None:
        self._marks: list[tuple[Kind, Array, Array, float, float]] = []
        self._lines: list[tuple[float, Array, int]] = []
        self._known: dict[tuple[Any, ...], int] = {}
        self.size = 1.0

    def mark(self, kind: Kind, at: Any, way: Any = (0, 0, 0), radius: float = 0.0, weight: float = 0.0) -> int:
        """Add one; the larger its weight, the sooner it is kept. Returns its number."""
        at, way = np.asarray(at, float), np.asarray(way, float)
        if not (np.isfinite(at).all() and np.isfinite(way).all() and np.isfinite(radius)):
            return -1
        case = (kind, *np.round(at / (1e-9 * self.size)).tolist(), round(radius / (1e-9 * self.size)))
        known = self._known.get(case)
        if known is None:
            known = self._known[case] = len(self._marks)
            self._marks.append((kind, at, way, radius, weight))
        elif weight > self._marks[known][4]:
            self._marks[known] = (kind, at, way, radius, weight)
        return known

    def line(self, points: Array, of: int, length: float) -> None:
        """Add an edge, (k, 3) along it, with the number of its mark."""
        self._lines.append((length, np.asarray(points, float), of))

    def build(self) -> Marks:
        """All of them, or as many as the budget allows: faces and circles first, then edges and their ends, the long ones
        before the short."""
        order = np.arange(len(self._marks))
        full = True
        if len(order) > MOST_MARKS:
            full = False
            weights = np.array([item[4] for item in self._marks])
            order = np.sort(np.argsort(-weights, kind="stable")[:MOST_MARKS])
        number = {int(old): new for new, old in enumerate(order)}
        kept = [self._marks[i] for i in order]
        lines: list[tuple[float, Array, int]] = []
        count = 0
        for item in sorted(self._lines, key=lambda one: -one[0]):
            if count + len(item[1]) > MOST_POINTS:
                full = False
                break
            count += len(item[1])
            lines.append(item)
        points = [line for _, line, _ in lines]
        return Marks(
            np.array([item[1] for item in kept]).reshape(-1, 3), np.array([item[0] for item in kept], np.uint8),
            np.array([item[2] for item in kept]).reshape(-1, 3), np.array([item[3] for item in kept], float),
            np.concatenate(points) if points else np.zeros((0, 3)),
            np.cumsum([0, *(len(line) for line in points)]).astype(np.int64),
            np.array([number.get(of, -1) for _, _, of in lines], np.int32), full,
        )  # fmt: skip
