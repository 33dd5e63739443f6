"""Sides of curves that are shorter than is asked for: every so many points one stays, and corners all do.

It is done on the outline, before walls stand on it, so that they stay upright.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import manifold3d as m3
import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.drawn.area import area_of
from hemp_ladder.core.drawn.curves import Points

#: A curve keeps a point at least every so much of its turn: a circle smaller than the side asked for, six.
_MOST_TURN = math.radians(60)
#: No side becomes longer than so many times what was asked for to get rid of a short one.
_FAR = 2.0
#: Where outlines would cross, half of it is tried, so often.
_HALVES = 6
#: An area is the same when it differs by no more than this share.
_SAME = 1e-6

Kept = NDArray[np.int64]


@dataclass(frozen=True)
class Shortened:
    """Rings with fewer points; at which of their points, one after the other, a curve goes on; how far from what they were
    they lie; and how many points went."""

    rings: list[Points]
    smooth: NDArray[np.bool_]
    off: float
    gone: int


def shortened(rings: Sequence[Points], edge: float, bend: float, scale: float, closed: bool = True) -> Shortened:
    """Rings (n, 2), or open lines, without the sides under `edge` that their form does not need.

    A turn of more than `bend` (radians) is a corner. Closed ones are an area, outer rings counter-clockwise, which
    `scale` brings to about a thousand across: it keeps its rings, or what is asked for is halved.
    """
    turns = [_turns(ring, closed) for ring in rings]
    most = _MOST_TURN
    for _ in range(_HALVES):
        kept = [_kept(ring, turn, edge, most, bend, closed) for ring, turn in zip(rings, turns, strict=True)]
        fewer = [ring[of] for ring, of in zip(rings, kept, strict=True)]
        if not closed or _whole(fewer, scale):
            smooth = [turn[of] <= bend for turn, of in zip(turns, kept, strict=True)]
            off = max((_off(ring, of, closed) for ring, of in zip(rings, kept, strict=True)), default=0.0)
            gone = sum(map(len, rings)) - sum(map(len, fewer))
            return Shortened(fewer, np.concatenate([np.zeros(0, bool), *smooth]), off, gone)
        edge, most = edge / 2, most / 2
    smooth = [turn <= bend for turn in turns]
    return Shortened(list(rings), np.concatenate([np.zeros(0, bool), *smooth]), 0.0, 0)


def _turns(ring: Points, closed: bool) -> NDArray[np.float64]:
    """By how much each point turns, in radians; the ends of an open line are corners."""
    way = np.roll(ring, -1, axis=0) - ring
    before = np.roll(way, 1, axis=0)
    turn = np.abs(np.arctan2(before[:, 0] * way[:, 1] - before[:, 1] * way[:, 0], (before * way).sum(axis=1)))
    if not closed:
        turn[[0, -1]] = np.inf
    return np.asarray(turn)


def _kept(ring: Points, turns: NDArray[np.float64], edge: float, most: float, bend: float, closed: bool) -> Kept:
    """Of points those that stay: corners, and of curves one for every `edge` of length and for every `most` of turn."""
    corners = np.flatnonzero(turns > bend)
    first = int(corners[0]) if len(corners) else 0
    count = len(ring)
    points, turn, sharp = ring.tolist(), turns.tolist(), (turns > bend).tolist()
    kept, since = [first], [0.0]  # and how much the line turned since the one before
    around = 0.0
    for step in range(1, count + 1 if closed else count):
        at = (first + step) % count
        along, last = math.dist(points[kept[-1]], points[at]), step == count
        if sharp[at] or last:
            # What stands too near before a corner gives way to it.
            if (
                len(kept) > 1 and along < edge and not sharp[kept[-1]] and around + since[-1] <= most
                and math.dist(points[kept[-2]], points[at]) <= _FAR * edge
            ):  # fmt: skip
                kept.pop()
                around += since.pop()
            if not last:
                kept.append(at)
                since.append(around)
                around = 0.0
            continue
        around += turn[at]
        if along >= edge or around >= most:
            kept.append(at)
            since.append(around)
            around = 0.0
    if closed and len(kept) < 3:
        return np.arange(count)
    return np.sort(np.array(kept, np.int64))


def _whole(rings: Sequence[Points], scale: float) -> bool:
    """Whether rings still bound the area that they say they do, with none lost, joined or crossed."""
    area = m3.CrossSection([ring * scale for ring in rings], m3.FillRule.Positive)
    told = area_of(rings) * scale * scale
    return len(area.to_polygons()) == len(rings) and abs(area.area() - told) <= _SAME * abs(told)


def _off(ring: Points, kept: Kept, closed: bool) -> float:
    """The largest distance of a point that went from the side that goes past it."""
    if len(kept) == len(ring):
        return 0.0
    side = np.searchsorted(kept, np.arange(len(ring)), side="right") - 1
    after = np.roll(kept, -1) if closed else np.append(kept[1:], kept[-1])
    start = ring[kept[side]]
    way = ring[after[side]] - start
    square = np.maximum((way * way).sum(axis=1), 1e-300)
    share = (((ring - start) * way).sum(axis=1) / square).clip(0, 1)
    return float(np.linalg.norm(ring - start - share[:, None] * way, axis=1).max())
