"""How fine parts must be for what lookouts show of them."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from hemp_ladder.core.climb import Plan
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.facet.settings import PURPOSES, Absolute, FacetSettings, SeenFrom
from hemp_ladder.core.facet.sight import Sight, on_the_way
from hemp_ladder.core.fit.lookouts import View, lookouts_of
from hemp_ladder.core.spreads import chord_of
from hemp_ladder.core.tries import Ladder

#: What does not show an outline shows only by its shading, where a silhouette's error is many times as far from being seen.
INSIDE = 4.0
#: Settings by the root of two, so that many parts share one; so many finer and coarser at the most.
_FINEST, _COARSEST = -16, 16


@dataclass(frozen=True)
class ByView:
    """For the free parts the times of their chord error; which are near (finer than they were), middle, far (coarser, by
    more than twice), and unseen."""

    times: Mapping[int, float]
    near: list[int] = field(default_factory=list)
    middle: list[int] = field(default_factory=list)
    far: list[int] = field(default_factory=list)
    unseen: list[int] = field(default_factory=list)


def views_of(now: Plan, seen: SeenFrom) -> list[View]:
    """The lookouts that are meant, those on the way too. Raises SettingsError where there are none."""
    every = lookouts_of(now.fitted, now.decisions.fit)
    if seen.lookouts:
        names = {view.name for view in every}
        lost = next((name for name in seen.lookouts if name not in names), None)
        if lost is not None:
            raise SettingsError(f"There is no lookout called “{lost[:40]}”.", "Choose one of those listed.")
        every = [next(view for view in every if view.name == name) for name in seen.lookouts]
    if not every:
        raise SettingsError("There is no lookout to look from.", "Keep a view as a lookout first.")
    return on_the_way(every) if seen.path else every


def by_view(now: Plan, seen: SeenFrom, sight: Sight) -> ByView:
    """How fine the free parts must be so that no outline is off by more than the pixels asked for at its nearest visible
    point, insides by no more than four times that; what is not seen falls to background. Raises SettingsError where no part
    is free."""
    ladder = Ladder(now)
    if not ladder.free:
        raise SettingsError(
            "No part has facets that are free to be worked out.", "Unpin some, or take exceptions away."
        )
    own = ladder.at(1.0)
    background = PURPOSES["background"].chord
    assert isinstance(background, Absolute)
    found = ByView({})
    times: dict[int, float] = {}
    for part in ladder.free:
        fine = own[part].first.fineness if part in own else None
        chord = fine[0] * float(now.fitted.scale_of(part)) if fine else chord_of(now, part)
        if not chord:
            continue
        wide = float(sight.pixels[part])
        if not wide:
            times[part] = _rung(max(background.metres / chord, 1.0))
            found.unseen.append(part)
            continue
        times[part] = _rung(seen.pixels * (1.0 if sight.outline[part] else INSIDE) / wide / chord)
        group = found.near if times[part] < 1 else found.middle if times[part] <= 2 else found.far
        group.append(part)
    return ByView(_together(now, times), found.near, found.middle, found.far, found.unseen)


def _rung(times: float) -> float:
    """The next finer factor that many parts share."""
    step = np.floor(2 * np.log2(max(times, 1e-12)) + 1e-9)
    return float(2 ** (np.clip(step, _FINEST, _COARSEST) / 2))


def _together(now: Plan, times: Mapping[int, float]) -> dict[int, float]:
    """Pieces of one part are decided together: the strictest wins."""
    least: dict[str, float] = {}
    for part, factor in times.items():
        name = now.model.parts[part].decided_as
        least[name] = min(least.get(name, np.inf), factor)
    return {part: least[now.model.parts[part].decided_as] for part in times}


def decided(now: Plan, seen: SeenFrom, found: ByView) -> FacetSettings:
    """The settings with what views ask for in force."""
    return Ladder(now).decided(found.times, "view", seen=seen, allowance=None)
