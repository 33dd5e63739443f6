"""Colours by which materials are told apart by eye, whatever they look like in the picture."""

import hashlib
from collections.abc import Iterable

from hemp_ladder.core.model.material import UNDECIDED

#: What is to be seen at once: a loose end.
LOOSE = "#c4480f"
#: Each as far as can be from those before it, from that of loose ends and from paper, in CIEDE2000; as common eyes see them
#: and as eyes without one kind of cones do (G. Machado, M. Oliveira, L. Fernandes, "A physiologically-based model for
#: simulation of color vision deficiency", IEEE TVCG 15(6), 2009), whose differences count 1.6 (red, green) and 1.2 (blue)
#: times. Found once, by taking the farthest of a grid of colours again and again; tests hold what it promises.
SEQUENCE = (
    "#0000b1", "#0089eb", "#3b2727", "#00ff00", "#897689", "#eb9d89", "#627662", "#b1b1eb", "#273b00", "#76004e",
    "#76b100", "#893bb1", "#ebc4d8", "#276276", "#c4eb9d", "#eb4eb1", "#b19d9d", "#004eff", "#624e3b", "#9d764e",
    "#626262", "#4e3b76", "#c4c462", "#3bb162", "#89d8b1", "#898989", "#9d0027", "#8989c4", "#b14e9d", "#4e0076",
    "#008927", "#00ffff", "#2700ff", "#763b4e", "#d89dc4", "#143b4e", "#ff004e", "#3b3b3b", "#c47676", "#ebeb76",
    "#9d3b4e", "#d83bff", "#899dff", "#4e7676", "#273b9d", "#b1899d", "#00d814", "#7600c4", "#c40000", "#7662c4",
    "#4e4e62", "#b1b1b1", "#768962", "#c44e76", "#76623b", "#9d9d89", "#620027", "#d8c4ff", "#4e9d00", "#766289",
    "#9db14e", "#9d769d", "#eb76b1", "#760000", "#ebd8d8", "#d8ebc4", "#3b4e27", "#00c4c4", "#c40089", "#d8c489",
    "#b1c4c4", "#277600", "#763bd8", "#899dc4", "#c4b1d8", "#622762", "#d8d8c4", "#c49d76", "#9dc4b1", "#9d6262",
    "#629d9d", "#c4ebeb", "#eb00b1", "#00769d", "#c4b19d", "#0089b1", "#b19dd8", "#146227", "#eb76ff", "#002789",
    "#c4d8eb", "#c4d862", "#ebb100", "#623b3b", "#ffd8ff", "#d8763b",
)  # fmt: skip
#: Of so many colours for each in use, that one can come without others giving way.
_ROOM = 1.5
#: How far on the next colour is tried: no factor of any number of colours.
_STEPS = (1, 5, 7, 11, 13)


def colours_apart(used: Iterable[str], others: Iterable[str] = ()) -> dict[str, str]:
    """For material ids a colour each as #rrggbb: those in use far apart, `others` as it comes.

    A colour goes by its material's id, not by what else is there: when one comes or goes, the others keep theirs, but for
    a few that wanted the same one, or where so many came that there have to be twice as many colours.
    """
    found: dict[str, str] = {}
    wanted = sorted({id_ for id_ in used if id_ != UNDECIDED.id})
    size = 8
    while size < len(wanted) * _ROOM:
        size *= 2
    size = min(size, len(SEQUENCE)) if len(wanted) <= len(SEQUENCE) else size
    taken: set[int] = set()
    for id_ in sorted(wanted, key=_code):
        code = _code(id_)
        slot, step = code % size, _STEPS[code // size % len(_STEPS)]
        while slot in taken:
            slot = (slot + step) % size
        taken.add(slot)
        found[id_] = _colour(slot)
    for id_ in others:
        if id_ not in found:
            found[id_] = _colour(_code(id_) % len(SEQUENCE))
    found[UNDECIDED.id] = LOOSE
    return found


def _code(id_: str) -> int:
    return int.from_bytes(hashlib.sha256(id_.encode("utf-8", "surrogatepass")).digest()[:8])


def _colour(slot: int) -> str:
    """Of the sequence; behind its end those that are a little lighter or darker."""
    colour = SEQUENCE[slot % len(SEQUENCE)]
    step = slot // len(SEQUENCE)
    if not step:
        return colour
    shift = (1 if step % 2 else -1) * 9 * ((step + 1) // 2)
    return "#" + "".join(f"{min(255, max(0, int(colour[k : k + 2], 16) + shift)):02x}" for k in (1, 3, 5))
