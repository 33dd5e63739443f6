"""Facet settings tried on parts before anything is decided: chains as they would be, and ladders of settings around those
in force."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace

from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.climb import Held, Plan, climb_chains, held_by
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.facet.settings import FacetException, FacetSettings, scaled_settings

#: Chord errors of a ladder, as times the one in force: so many steps coarser and finer, each by the root of two.
COARSER, FINER = 10, 6


def rungs(finer: int = FINER, coarser: int = COARSER) -> list[float]:
    """The factors of a ladder, the finest first; 1 among them."""
    return [2 ** (step / 2) for step in range(-finer, coarser + 1)]


def tried(now: Plan, parts: Collection[int], settings: FacetSettings) -> dict[int, Chain]:
    """For parts the chains that they would have, were these settings those of all of them."""
    alone = settings.model_copy(update={"exceptions": ()})
    return _chains(now, now.decisions.model_copy(update={"facet": alone}), replace(now.held, facet={}), parts)


def _chains(now: Plan, decisions: Decisions, held: Held, parts: Collection[int]) -> dict[int, Chain]:
    chains = climb_chains(now.taken, decisions, held, only=parts)
    return {part: chain for part in parts if (chain := chains[part]) is not None}


def settled(settings: FacetSettings) -> FacetSettings:
    """Without what was worked out and is not pinned."""
    return settings.model_copy(update={"exceptions": tuple(item for item in settings.exceptions if item.stays)})


class Ladder:
    """The parts of a job whose settings are free to be worked out, each at settings around those it would have without
    anything worked out."""

    def __init__(self, now: Plan) -> None:
        self._now = now
        self.settings = settled(now.decisions.facet)
        self._decisions = now.decisions.model_copy(update={"facet": self.settings})
        self._locked = set(now.decisions.sort.locked)
        self._held = held_by(now.taken, now.sorted, self._decisions)
        self.free = [part for part in sorted(now.taken.parts) if self._is_free(part)]

    def _is_free(self, part: int) -> bool:
        chain = self._now.chains[part]
        if chain is None or chain.first.fineness is None or self._now.model.parts[part].decided_as in self._locked:
            return False
        own = (self.settings.exceptions[number] for number in self._held.facet.get(part, ()))
        return all(entry.chord is None and entry.degrees is None for entry in own)

    def at(self, times: float, parts: Collection[int] | None = None) -> dict[int, Chain]:
        """Chains of the free parts, or some of them, at so many times their chord error."""
        decisions = self._decisions.model_copy(update={"facet": scaled_settings(self.settings, times)})
        return _chains(self._now, decisions, self._held, self.free if parts is None else parts)

    def decided(self, times: Mapping[int, float], made: str, **kept: object) -> FacetSettings:
        """The settings with those parts so many times their chord error, one entry for all that are alike; `kept`, what else
        is noted."""
        alike: dict[float, list[str]] = {}
        for part, factor in sorted(times.items()):
            if factor != 1:
                alike.setdefault(factor, []).append(self._now.model.parts[part].decided_as)
        own = []
        for factor, refs in sorted(alike.items()):
            whole = scaled_settings(self.settings, factor)
            own.append(FacetException.model_validate({
                "by": "parts", "parts": tuple(dict.fromkeys(refs)), "chord": whole.chord, "degrees": whole.degrees,
                "made": made,
            }))  # fmt: skip
        entries = (*self.settings.exceptions, *own)
        return self.settings.model_copy(update={"exceptions": entries, **kept})


def heaviest(triangles: Mapping[int, int], most: int) -> Sequence[int]:
    """Of parts those with most triangles, in order of their number."""
    return sorted(sorted(triangles, key=lambda part: -triangles[part])[:most])
