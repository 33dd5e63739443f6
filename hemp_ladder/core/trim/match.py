"""An exact part at the count that reduction reaches, by coarser facets: the true surface is known, so this looks better."""

import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace

from hemp_ladder.core.chain.making import Order, make
from hemp_ladder.core.chain.steps import Chain, First
from hemp_ladder.core.errors import LadderError
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.trim.judge import Judge
from hemp_ladder.core.trim.reduce import Reduce, reduce

#: How often another chord error is tried, and how near a count is near enough, as a share of it.
_GOES, _NEAR = 7, 0.04
#: Facets are the measure of both, so many times finer than the full ones, where the part stays under so many triangles.
_FINER, _MOST = 4.0, 400_000


@dataclass(frozen=True)
class Match:
    """How an exact part looks at a count of triangles both ways; lengths in source coordinates.

    times        how many times the chord error that comes nearest to the count
    triangles    of those facets; `reduced` of the reduction held against them
    off, reduced_off  largest distance to the true surface, measured against much finer facets
    """

    times: float
    triangles: int
    off: float
    reduced: int
    reduced_off: float


def match(chain: Chain, bodies: Sequence[bytes], count: int) -> Match:
    """Facets of an exact part with about `count` triangles, held against its full facets reduced to as many. Operations of
    the chain are done to both. Raises LadderError where it has no chord error or cannot be reduced."""

    def made(times: float) -> Mesh:
        first = coarser(chain.first, times)
        told = Chain(chain.part, chain.faces, first, chain.operations)
        return make([Order(told, bodies)])[0][told.key]

    full = made(1.0)
    low, high, times = 1.0, 4096.0, max(1.0, (len(full.triangles) / max(count, 1)) ** 1.5)
    best, best_times = full, 1.0
    for _ in range(_GOES):
        found = made(times)
        if abs(len(found.triangles) - count) < abs(len(best.triangles) - count):
            best, best_times = found, times
        if abs(len(found.triangles) - count) <= _NEAR * count:
            break
        low, high = (times, high) if len(found.triangles) > count else (low, times)
        times = (low * high) ** 0.5
    light = reduce(full, Reduce(count=max(len(best.triangles), 1)))
    finest = made(1 / _FINER) if len(full.triangles) * _FINER < _MOST else full
    judge = Judge(finest)
    return Match(
        best_times, len(best.triangles), judge.largest(best), len(light.triangles), judge.largest(light)
    )  # fmt: skip


def coarser(first: First, times: float) -> First:
    """A first step with so many times the chord error, and angles that follow with its root. Raises LadderError where it has
    none."""
    if first.fineness is None:
        raise LadderError("It is not exact: it has no chord error.")
    chord, angle = first.fineness
    return first.model_copy(update={"chord": chord * times, "angle": min(angle * times**0.5, 1.5)})


def match_told(order: Order, count: int) -> bytes:
    """The match as JSON."""
    whole = replace(order, start=None, done=0)
    return json.dumps(asdict(match(whole.chain, whole.bodies, count))).encode()
