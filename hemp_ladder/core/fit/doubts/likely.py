"""Which unit a source's numbers are likely in, and whether the one it declares can be true."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hemp_ladder.core.findings import names
from hemp_ladder.core.fit.doubts.clues import Clue, clues_of
from hemp_ladder.core.fit.doubts.mistakes import mistake_of
from hemp_ladder.core.fit.matrix import metres_in
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.units import UNITS, say_metric

#: Common practice: products, rooms and sites lie between these; what lies outside is nearly always a wrong unit.
SMALLEST_METRES, LARGEST_METRES = 2e-3, 5e3
#: Units that a wrong one is looked for among.
_ASKED = ("mm", "cm", "m", "in", "ft", "um", "km", "mil", "dm")


@dataclass(frozen=True)
class Likely:
    """A unit, how large everything is in it at its largest (metres), what speaks for it, and how much that weighs."""

    unit: str
    size: float
    weight: float
    reasons: tuple[str, ...]


@dataclass(frozen=True)
class Doubt:
    """A declared size that cannot be true: what would be how large, the unit that explains it, and the mistake."""

    said: tuple[str, ...]
    unit: str
    factor: float
    mistake: str


def likely_units(model: Model, usual: Sequence[str]) -> list[Likely]:
    """Units in the order of what speaks for them; `usual` are those of the kind of source, the usual first."""
    clues = clues_of(model)
    largest = _largest(model)
    found = []
    for number, code in enumerate(usual):
        metres = float(metres_in(model, code))
        fitting = [clue for clue in clues if clue.fits(metres)]
        size = largest * metres
        weight = sum(_weight(clue) * (0.7 + 0.3 * clue.likely(metres)) for clue in fitting) - sum(
            0.5 * _weight(c) for c in clues if not c.fits(metres) and not c.exact
        )
        reasons = [f"makes sense of {names(list(dict.fromkeys(clue.said for clue in fitting)))}"] if fitting else []
        if SMALLEST_METRES <= size <= LARGEST_METRES:
            weight += 0.5 + 0.4 * _usual_size(model, size)
        else:
            reasons.append("would be out of all proportion")
            weight -= 2
        if number == 0:
            reasons.append(f"usual for {model.format}")
        found.append(Likely(code, size, weight - 0.15 * number, tuple(reasons)))
    return sorted(found, key=lambda item: -item.weight)


def doubt_of(model: Model) -> Doubt | None:
    """Whether another unit makes sense of things that the declared size makes nonsense of, and takes the sense from none.

    One word is no proof: it takes an exact size, things of two kinds, or that nothing makes sense as it is.
    """
    declared = float(model.metres_per_coordinate)
    clues = clues_of(model)
    wrong = [clue for clue in clues if not clue.fits(declared)]
    right = [clue for clue in clues if clue.fits(declared)]
    best: tuple[float, str, list[Clue]] | None = None
    for code in _ASKED if wrong else ():
        metres = float(metres_in(model, code))
        explained = [clue for clue in wrong if clue.fits(metres)]
        lost = [clue for clue in right if not clue.fits(metres)]
        left = [clue for clue in wrong if not clue.fits(metres) and not clue.exact]
        kinds = {clue.said for clue in explained}
        proven = any(clue.exact for clue in explained) or len(kinds) > 1 or not right
        gain = sum(map(_weight, explained)) - 3 * sum(map(_weight, lost)) - sum(map(_weight, left))
        gain += 0.1 * _usual_size(model, _largest(model) * metres) + 0.3 * sum(
            clue.likely(metres) for clue in explained
        )
        sensible = SMALLEST_METRES <= _largest(model) * metres <= LARGEST_METRES
        if explained and proven and gain > 0.7 and sensible and (best is None or gain > best[0]):
            best = (gain, code, explained)
    if best is None:
        return None
    _, unit, explained = best
    factor = float(metres_in(model, unit)) / declared
    mistake = mistake_of(factor, UNITS[model.unit].metres if model.unit else model.metres_per_coordinate)
    told = tuple(dict.fromkeys(_told(clue, declared) for clue in explained))
    return Doubt(told, unit, factor, mistake.said if mistake else f"a factor of {factor:.6g}")


def _told(clue: Clue, metres: float) -> str:
    size = say_metric(max(clue.sides) * metres)
    return f"{clue.said} would be {size}"


def _weight(clue: Clue) -> float:
    return 1.5 if clue.exact else 1.0


def _largest(model: Model) -> float:
    return float(np.ptp(model.box, axis=0).max())


def _usual_size(model: Model, metres: float) -> float:
    """How usual a size is, 0 to 1: buildings are tens of metres, all else from a hand's width to a room."""
    middle, spread = (20.0, 1.2) if model.format == "IFC" or any(n.tags.storey for n in model.nodes) else (0.6, 1.5)
    return float(np.exp(-0.5 * (np.log10(metres / middle) / spread) ** 2))
