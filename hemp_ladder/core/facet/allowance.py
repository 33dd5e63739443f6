"""An allowance of triangles spread over parts: each at one of the settings it was measured at, so that what is seen to be
wrong most is wrong as little as can be.

The largest error that is allowed is what is searched for: under a limit every part takes its cheapest setting that keeps
it, so the cheapest total goes down as the limit goes up, and the least limit that fits is the answer (the bottleneck form
of a resource allocation with separable costs). What is left then goes to whichever part is worst of those that can still
be bettered.
"""

import heapq
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.errors import SettingsError

Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Curve:
    """Of one part, at each setting it was measured at, (k,): what it costs over all its placements, and how far it is off,
    in whatever is compared."""

    costs: Floats
    errors: Floats

    @cached_property
    def worth(self) -> NDArray[np.int64]:
        """The settings worth taking, cheapest first: each dearer one is off by less."""
        order = np.lexsort((self.errors, self.costs))
        errors = self.errors[order]
        best = np.minimum.accumulate(errors)
        keep = np.ones(len(order), bool)
        keep[1:] = errors[1:] < best[:-1]
        return np.asarray(order[keep])


@dataclass(frozen=True)
class Spread:
    """Which setting each part takes, what all cost, and the largest error."""

    choices: tuple[int, ...]
    total: float
    error: float


def spread(curves: Sequence[Curve], allowed: float, fixed: float = 0.0) -> Spread:
    """Parts within what is allowed for all, of which `fixed` is spent already. Raises SettingsError where the cheapest of
    everything is more than that."""
    least = fixed + sum(float(curve.costs.min()) for curve in curves)
    if least > allowed:
        stays = f", of which {fixed:,.0f} cannot be made coarser here" if fixed else ""
        raise SettingsError(
            f"The coarsest of everything is {least:,.0f}{stays}.",
            "Allow more, reduce parts at Trim, or leave some out.",
        )
    if not curves:
        return Spread((), fixed, 0.0)
    limits = np.unique(np.concatenate([curve.errors[curve.worth] for curve in curves]))
    low, high = 0, len(limits) - 1
    while low < high:
        middle = (low + high) // 2
        total = fixed + sum(_at(curve, limits[middle])[1] for curve in curves)
        low, high = (low, middle) if total <= allowed else (middle + 1, high)
    at = [_at(curve, limits[low])[0] for curve in curves]
    _spend(curves, at, allowed - fixed - sum(_cost(curve, place) for curve, place in zip(curves, at, strict=True)))
    choices = tuple(int(curve.worth[place]) for curve, place in zip(curves, at, strict=True))
    told = list(zip(curves, choices, strict=True))
    total = fixed + sum(float(curve.costs[choice]) for curve, choice in told)
    return Spread(choices, total, max(float(curve.errors[choice]) for curve, choice in told))


def _cost(curve: Curve, place: int) -> float:
    return float(curve.costs[curve.worth[place]])


def _at(curve: Curve, limit: float) -> tuple[int, float]:
    """The place among the worthy settings of the cheapest that keeps a limit, the finest where none does; and its cost."""
    errors = curve.errors[curve.worth]
    place = min(int(np.searchsorted(-errors, -limit, side="left")), len(errors) - 1)
    return place, float(curve.costs[curve.worth[place]])


def _spend(curves: Sequence[Curve], at: list[int], left: float) -> None:
    """Better the worst part that can be bettered with what is left, again and again. Changes `at`."""
    heap = [(-float(curve.errors[curve.worth[at[n]]]), n) for n, curve in enumerate(curves)]
    heapq.heapify(heap)
    while heap:
        _, number = heapq.heappop(heap)
        curve, place = curves[number], at[number]
        if place + 1 >= len(curve.worth):
            continue
        more = _cost(curve, place + 1) - _cost(curve, place)
        if more > left:
            # Some dearer step may still fit others; of this part every one costs more than the next.
            continue
        left -= more
        at[number] = place + 1
        heapq.heappush(heap, (-float(curve.errors[curve.worth[place + 1]]), number))


def knee(costs: Sequence[float], errors: Sequence[float]) -> int | None:
    """Where a curve of error against cost bends most: beyond it triangles buy little. The point farthest from the line
    between its ends, both axes from nought to one (V. Satopää and others, "Finding a `kneedle' in a haystack", 2011). None
    where it has no bend."""
    some = [(n, c, e) for n, (c, e) in enumerate(zip(costs, errors, strict=True)) if c > 0 and e > 0]
    if len(some) < 3:
        return None
    x = np.array([c for _, c, _ in some])
    y = np.array([e for _, _, e in some])
    if np.ptp(x) < 1e-9 or np.ptp(y) < 1e-9:
        return None
    across, along = (x - x.min()) / np.ptp(x), (y - y.min()) / np.ptp(y)
    # A curve that falls bends below the line from its upper left to its lower right end.
    below = 1 - across - along
    best = int(below.argmax())
    return some[best][0] if below[best] > 1e-3 else None
