"""An allowance spread over the parts of a job: which settings are to be measured for it, and what they come to."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.climb import Plan
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.facet.allowance import Curve, Spread, spread
from hemp_ladder.core.facet.settings import PURPOSES, Absolute, Allowance, FacetSettings
from hemp_ladder.core.ship.format import Weight
from hemp_ladder.core.ship.settings import Target
from hemp_ladder.core.tries import Ladder

Told = Mapping[str, Mapping[str, float]]
Floats = NDArray[np.float64]

#: An allowance is met from this share of it on; until then settings between are measured, so many rounds of so many parts.
NEAR, _ROUNDS, _AT_LEAST, _PARTS = 0.98, 12, 2, 48
#: Times the chord error that are measured of every part.
_FIRST = (32.0, 16.0, 8.0, 4.0, 2.0, 1.0)
#: Finer than this many times its chord error nothing is tried.
_FINEST = 1 / 64
#: Settings of one part nearer than this are not told apart.
_APART = 1.02


@dataclass(frozen=True)
class Outcome:
    """What an allowance comes to: for each part that is free its times and its error, the triangles of all its placements
    as it is without and with it; the total in the allowance's own measure with what is fixed of it, all triangles, the
    largest error, and that which a tenth more would reach."""

    times: dict[int, float]
    errors: dict[int, float]
    before: dict[int, int]
    after: dict[int, int]
    total: float
    fixed: float
    triangles: int
    error: float
    more: float


class Spreading:
    """One allowance for a job. `weights` make an error in metres of each part comparable, (p,): pixels per metre where it is
    seen, 0 where it is not; or one over its size. `told` says of meshes what was measured, by key."""

    def __init__(self, now: Plan, allowance: Allowance, target: Target, weights: Floats) -> None:
        self.now, self.allowance, self._weights = now, allowance, weights
        self.ladder = Ladder(now)
        self._count = np.bincount(now.sorted.parts, minlength=len(now.model.parts))
        # Pieces that a polygon left of one part are decided together.
        alike: dict[str, list[int]] = {}
        for part in self.ladder.free:
            alike.setdefault(now.model.parts[part].decided_as, []).append(part)
        self._units = list(alike.values())
        self._measure = _Bytes(target) if allowance.by == "bytes" else _Triangles()
        self._turn = 0
        self._rows: dict[float, dict[int, Chain]] = {}
        # Whole steps first, none finer than now; what lies between and beyond is measured where the solution is.
        self._tried: list[dict[float, None]] = [dict.fromkeys(_FIRST) for _ in self._units]
        for unit, own in zip(self._units, self._tried, strict=True):
            if not any(weights[part] for part in unit):
                self._background(unit, own)

    def _background(self, unit: Sequence[int], own: dict[float, None]) -> None:
        """What nobody sees is as fine as background at the least, never finer than it was."""
        coarsest = PURPOSES["background"].chord
        assert isinstance(coarsest, Absolute)
        chord = max(chord_of(self.now, part) for part in unit)
        for times in [times for times in own if times > max(1.0, coarsest.metres / max(chord, 1e-12))]:
            del own[times]

    @property
    def fixed(self) -> dict[int, Chain]:
        """The parts whose meshes stay as they are."""
        free = set(self.ladder.free)
        return {
            part: chain for part in sorted(self.now.taken.parts)
            if part not in free and (chain := self.now.chains[part]) is not None
        }  # fmt: skip

    def solve(self, told: Told, failed: Mapping[str, str]) -> Outcome | list[Chain]:
        """What it comes to, or the chains that are to be measured before that can be said. Raises SettingsError for an
        allowance that nothing meets, and where no part is free."""
        if not self._units:
            raise SettingsError(
                "No part has facets that are free to be worked out.",
                "Parts that came as triangles are reduced at Trim; unpin others, or take their exceptions away.",
            )
        fixed = self._measure.start(self.now) + sum(
            self._measure.cost(told[chain.key], self._times(part)) for part, chain in self.fixed.items() if chain.key in told
        )  # fmt: skip
        while True:
            lacking = self._lacking(told, failed)
            if lacking:
                return lacking
            places, curves = self._curves(told)
            found = spread(curves, self.allowance.value, fixed)
            near = found.total >= NEAR * self.allowance.value
            if self._turn >= (_AT_LEAST if near else _ROUNDS) or not self._closer(found, places, curves):
                break
            self._turn += 1
        places, curves = self._curves(told)
        found = spread(curves, self.allowance.value, fixed)
        return self._told(found, places, curves, told, fixed)

    def decided(self, outcome: Outcome, **kept: object) -> FacetSettings:
        """The settings with an outcome in force."""
        return self.ladder.decided(outcome.times, "allowance", allowance=self.allowance, **kept)

    def keys(self) -> set[str]:
        """Of all meshes that are measured for it, as far as that is known."""
        every = {times for own in self._tried for times in own}
        return {chain.key for times in every for chain in self._row(times).values()}

    def _times(self, part: int) -> int:
        return int(self._count[part])

    def _row(self, times: float) -> dict[int, Chain]:
        if times not in self._rows:
            parts = [part for unit, own in zip(self._units, self._tried, strict=True) if times in own for part in unit]
            self._rows[times] = self.ladder.at(times, parts)
        return self._rows[times]

    def _lacking(self, told: Told, failed: Mapping[str, str]) -> list[Chain]:
        """Coarse ones first: they are quick, and much is known by them."""
        every = sorted({times for own in self._tried for times in own}, reverse=True)
        found = {chain.key: chain for times in every for chain in self._row(times).values()}
        return [chain for key, chain in found.items() if key not in told and key not in failed]

    def _curves(self, told: Told) -> tuple[list[list[float]], list[Curve]]:
        """For each unit the times that are known, and its curve over them."""
        places, curves = [], []
        for unit, own in zip(self._units, self._tried, strict=True):
            some = [
                times for times in own
                if all((chain := self._row(times).get(part)) is not None and chain.key in told for part in unit)
            ] or [1.0]  # fmt: skip
            costs, errors = np.zeros(len(some)), np.zeros(len(some))
            for at, times in enumerate(some):
                for part in unit:
                    chain = self._row(times).get(part) or self.now.chains[part]
                    known = told.get(chain.key, {}) if chain is not None else {}
                    if not known:
                        continue
                    costs[at] += self._measure.cost(known, self._times(part))
                    errors[at] = max(errors[at], self._error(part, known))
            places.append(some)
            curves.append(Curve(costs, errors))
        return places, curves

    def _error(self, part: int, known: Mapping[str, float]) -> float:
        return known["off"] * float(self.now.fitted.scale_of(part)) * float(self._weights[part])

    def _closer(self, found: Spread, places: list[list[float]], curves: list[Curve]) -> bool:
        """Have settings measured that lie between what some parts have and what was too dear, or finer ones where nothing
        was; whether there are any."""
        left = self.allowance.value - found.total
        finer = []
        steps: list[tuple[float, int, float]] = []
        for number, (choice, some, curve) in enumerate(zip(found.choices, places, curves, strict=True)):
            if curve.errors[choice] <= 0:
                continue
            at = int(np.flatnonzero(curve.worth == choice)[0])
            now = some[choice]
            if at + 1 < len(curve.worth):
                dearer = int(curve.worth[at + 1])
                cost, times = float(curve.costs[dearer] - curve.costs[choice]), (now * some[dearer]) ** 0.5
                if max(now, some[dearer]) / min(now, some[dearer]) < _APART**2:
                    continue
            else:
                # What it may cost is not known, but grows at the least by a half.
                times = now / 2
                if times >= _FINEST and times not in self._tried[number] and curve.costs[choice] / 2 <= left:
                    finer.append((number, times))
                continue
            if times >= _FINEST and times not in self._tried[number]:
                steps.append((cost, number, times))
        # The cheapest that did not fit first: what lies between fits soonest.
        for number, times in [*finer, *((number, times) for _, number, times in sorted(steps)[:_PARTS])]:
            self._tried[number][times] = None
            self._rows.pop(times, None)
        return bool(steps or finer)

    def _told(self, found: Spread, places: list[list[float]], curves: list[Curve], told: Told, fixed: float) -> Outcome:
        times: dict[int, float] = {}
        errors: dict[int, float] = {}
        before: dict[int, int] = {}
        after: dict[int, int] = {}
        for unit, choice, some, curve in zip(self._units, found.choices, places, curves, strict=True):
            for part in unit:
                times[part], errors[part] = some[choice], float(curve.errors[choice])
                for counts, chain in ((before, self.now.chains[part]), (after, self._row(some[choice]).get(part))):
                    known = told.get(chain.key, {}) if chain is not None else {}
                    counts[part] = int(known.get("triangles", 0)) * self._times(part)
        rest = sum(
            int(told[chain.key]["triangles"]) * self._times(part)
            for part, chain in self.fixed.items() if chain.key in told
        )  # fmt: skip
        more = spread(curves, 1.1 * self.allowance.value, fixed).error
        return Outcome(times, errors, before, after, found.total, fixed, rest + sum(after.values()), found.error, more)


def chord_of(now: Plan, part: int) -> float:
    """The chord error that is asked of a part, in metres; 0 where none is."""
    chain = now.chains[part]
    fine = chain.first.fineness if chain is not None else None
    return fine[0] * float(now.fitted.scale_of(part)) if fine else 0.0


class _Triangles:
    def start(self, now: Plan) -> float:
        return 0.0

    def cost(self, known: Mapping[str, float], times: int) -> float:
        return known["triangles"] * times


class _Bytes:
    """What a file weighs, by what one more vertex and one more triangle do; meshes that are shared count once."""

    def __init__(self, target: Target) -> None:
        form = target.written_format
        self._shared = "instances" in form.carries and target.written_group == "part"
        self._form = form
        nothing = Weight((0, 0), (0, 0), False, 0)

        def more(vertices: int, triangles: int) -> float:
            both = vertices, triangles
            return (form.weighs(replace(nothing, own=both, placed=both)) - form.weighs(nothing)) / 1000

        self._vertex, self._triangle = more(1000, 0), more(0, 1000)

    def start(self, now: Plan) -> float:
        return float(self._form.weighs(Weight((0, 0), (0, 0), False, len(now.sorted.parts))))

    def cost(self, known: Mapping[str, float], times: int) -> float:
        return (known["vertices"] * self._vertex + known["triangles"] * self._triangle) * (
            min(times, 1) if self._shared else times
        )


def by_size(now: Plan) -> Floats:
    """Weights without lookouts: an error as a share of the part's size, (p,)."""
    sizes = [part.size * float(now.fitted.scale_of(index)) for index, part in enumerate(now.model.parts)]
    return np.asarray(1 / np.maximum(np.array(sizes, float).reshape(-1), 1e-9))
