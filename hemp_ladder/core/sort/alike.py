"""Materials that differ by name only, or by nothing that can be seen."""

from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache

import numpy as np

from hemp_ladder.core.model.difference import ciede2000, lab
from hemp_ladder.core.model.finish import Finish
from hemp_ladder.core.model.material import UNDECIDED, Material

#: Colours that differ by less than this in CIEDE2000, and shares by less than that, look the same (common practice).
NOT_SEEN, SHARE = 1.0, 0.02
_COLOURS = ("colour", "emission", "tint", "specular_tint", "sheen")
_SHARES = (
    "metalness",
    "roughness",
    "least_roughness",
    "transmission",
    "coat",
    "coat_roughness",
    "specular",
    "sheen_roughness",
)
#: How far apart colours in CIELAB may lie, number by number, that look the same.
_AT_MOST = np.array([1.75, 10.0, 10.0]) * NOT_SEEN
#: More materials than this are not held against each other.
_MOST = 2000


def alike(materials: Sequence[Material]) -> list[list[Material]]:
    """Groups of two and more that look the same, each led by the one that comes first."""
    return _alike(tuple(item for item in materials if item.id != UNDECIDED.id)[:_MOST])


@lru_cache(maxsize=16)
def _alike(materials: tuple[Material, ...]) -> list[list[Material]]:
    """Asked for with every result, and the same until a material changes."""
    if len(materials) < 2:
        return []
    known = {colour: lab(colour) for m in materials for colour in (getattr(m.finish, name) for name in _COLOURS)}
    colours = {name: np.array([known[getattr(m.finish, name)] for m in materials]) for name in _COLOURS}
    shares = np.array([[m.finish.colour.alpha, *(getattr(m.finish, name) for name in _SHARES)] for m in materials])
    rest = [_rest(item.finish) for item in materials]
    groups: list[list[Material]] = []
    taken: set[int] = set()
    for first, material in enumerate(materials):
        if first in taken:
            continue
        near = np.abs(shares[first + 1 :] - shares[first]).max(axis=1) <= SHARE
        # The weight of lightness is below 1.75, those of chroma and hue below 10: most are told apart without the formula.
        near &= (np.abs(colours["colour"][first + 1 :] - colours["colour"][first]) <= _AT_MOST).all(axis=1)
        some = np.flatnonzero(near) + first + 1
        for name in _COLOURS:
            if not len(some):
                break
            some = some[ciede2000(colours[name][some], colours[name][first][None]) <= NOT_SEEN]
        same = [at for at in some.tolist() if at not in taken and rest[at] == rest[first]]
        if same:
            taken |= {first, *same}
            groups.append([material, *(materials[at] for at in same)])
    return groups


def _rest(finish: Finish) -> Finish:
    """What has to be equal: all but colours and shares."""
    plain = Finish()
    told = {name: getattr(plain, name) for name in (*_COLOURS, *_SHARES)}
    return replace(finish, mode=finish.opacity_mode, **told)
