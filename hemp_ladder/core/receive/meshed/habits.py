"""What pictures of surfaces are called: which files beside a known one say something else of the same surface.

The words are common practice among those who make and sell such pictures.
"""

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import PurePosixPath

from hemp_ladder.core.model.finish import Channel, Slot


@dataclass(frozen=True)
class Told:
    """What a file name says of its picture: its slots with the channel of each, and whether the numbers are turned over."""

    slots: tuple[tuple[Slot, Channel], ...]
    inverted: bool = False


def _one(slot: Slot, inverted: bool = False) -> Told:
    return Told(((slot, "rgb"),), inverted)


def _packed(red: Slot | None, green: Slot, blue: Slot) -> Told:
    slots: list[tuple[Slot, Channel]] = [(green, "g"), (blue, "b")]
    return Told(((red, "r"), *slots) if red else tuple(slots))


_WORDS: dict[str, Told] = {
    **dict.fromkeys(["basecolor", "basecolour", "albedo", "diffuse", "diff", "color", "colour", "col", "base"], _one("base colour")),
    **dict.fromkeys(["normal", "normals", "normalmap", "nrm", "nor", "norm", "nml", "normalgl", "normaldx"], _one("normal")),
    **dict.fromkeys(["roughness", "rough", "rgh"], _one("roughness")),
    **dict.fromkeys(["gloss", "glossiness", "glossy", "smoothness", "smooth"], _one("roughness", inverted=True)),
    **dict.fromkeys(["metalness", "metallic", "metal", "metallness", "mtl"], _one("metalness")),
    **dict.fromkeys(["ao", "occlusion", "ambientocclusion", "occ"], _one("occlusion")),
    **dict.fromkeys(["height", "displacement", "displace", "disp", "bump"], _one("height")),
    **dict.fromkeys(["opacity", "alpha", "mask", "transparency", "cutout"], _one("opacity")),
    **dict.fromkeys(["emission", "emissive", "emit", "glow"], _one("emission")),
    **dict.fromkeys(["transmission", "transmissive"], _one("transmission")),
    **dict.fromkeys(["orm", "arm", "aorm", "occlusionroughnessmetallic"], _packed("occlusion", "roughness", "metalness")),
    **dict.fromkeys(["metallicroughness", "roughnessmetallic", "metalrough"], _packed(None, "roughness", "metalness")),
    "rma": Told((("roughness", "r"), ("metalness", "g"), ("occlusion", "b"))),
    "mra": Told((("metalness", "r"), ("roughness", "g"), ("occlusion", "b"))),
}  # fmt: skip
#: Single letters, which count at the end of a name alone.
_LETTERS: dict[str, Told] = {
    "n": _one("normal"), "r": _one("roughness"), "m": _one("metalness"), "h": _one("height"), "e": _one("emission"),
    "d": _one("base colour"), "c": _one("base colour"),
}  # fmt: skip
#: Words that tell neither the surface nor the slot.
_IDLE = re.compile(r"\d+k|gl|dx|opengl|directx|map|tex|texture|srgb|linear|raw|\d{3,4}x\d{3,4}|\d{3,4}px")
_PIECES = re.compile(r"[A-Z]+(?=[A-Z][a-z])|[A-Z]?[a-z]+|[A-Z]+|\d+[kK]\b|\d+x\d+|\d+")


def read_name(name: str) -> tuple[tuple[str, ...], Told | None]:
    """The words of a file name that name the surface, and what the others say of the picture."""
    stem = PurePosixPath(name.replace("\\", "/")).stem
    words = [piece.lower() for piece in _PIECES.findall(stem)]
    found: list[tuple[str, Told | None]] = []
    at = 0
    while at < len(words):
        # Three words, two, one: "ambient occlusion" is one thing.
        count = next((n for n in (3, 2, 1) if "".join(words[at : at + n]) in _WORDS and at + n <= len(words)), 1)
        whole = "".join(words[at : at + count])
        found.append((whole, _WORDS.get(whole)))
        at += count
    if len(found) > 1 and found[-1][0] in _LETTERS:
        found[-1] = (found[-1][0], _LETTERS[found[-1][0]])
    # Of several words that could name a slot the last does: rusty metal roughness. A lone word names the surface.
    last = max((n for n, (_, told) in enumerate(found) if told is not None), default=-1) if len(found) > 1 else -1
    kept = [word for n, (word, _) in enumerate(found) if n != last and not _IDLE.fullmatch(word)]
    return tuple(kept), found[last][1] if last >= 0 else None


def sisters(known: str, others: Iterable[str]) -> Iterator[tuple[str, Told]]:
    """Of the other files those that by their names say something else of the surface that `known` is a picture of."""
    surface, _ = read_name(known)
    if not surface:
        return
    for name in others:
        words, told = read_name(name)
        if told is not None and words == surface:
            yield name, told
