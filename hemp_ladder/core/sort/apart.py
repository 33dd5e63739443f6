"""Colours by which materials are told apart by eye, whatever they look like in the picture."""

import colorsys
from collections.abc import Iterable

from hemp_ladder.core.model.material import UNDECIDED
from hemp_ladder.core.model.model import Colour

#: Hues a golden angle apart, which no two of a few dozen share; and kept away from that of loose ends.
_TURN, _FIRST = 0.381966, 0.47
_LOOSE_HUE, _NEAR, _AWAY = 0.06, 0.05, 0.14
_LIGHTNESS = (0.3, 0.5, 0.4)
#: What is to be seen at once: a loose end.
LOOSE = "#c4480f"


def colours_apart(materials: Iterable[str]) -> dict[str, str]:
    """For material ids in an order that stays, a colour each as #rrggbb."""
    found: dict[str, str] = {}
    for id_ in materials:
        if id_ == UNDECIDED.id:
            found[id_] = LOOSE
        elif id_ not in found:
            number = len(found) - (UNDECIDED.id in found)
            hue = (_FIRST + number * _TURN) % 1
            hue += _AWAY if abs(hue - _LOOSE_HUE) < _NEAR else 0.0
            red, green, blue = colorsys.hls_to_rgb(hue % 1, _LIGHTNESS[number % 3], 0.5)
            found[id_] = Colour(red, green, blue).hex
    return found
