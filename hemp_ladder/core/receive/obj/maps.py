"""Lines of an MTL file that name a picture."""

from hemp_ladder.core.model.finish import Slot

#: How many words each option of a map takes (the MTL specification's texture options).
_OPTIONS = {
    "-blendu": 1, "-blendv": 1, "-bm": 1, "-boost": 1, "-cc": 1, "-clamp": 1, "-imfchan": 1, "-mm": 2, "-texres": 1,
    "-type": 1, "-o": 3, "-s": 3, "-t": 3,
}  # fmt: skip
#: Which line says what: those of the specification, and of its physically based extension, which several programs read.
MAPS: dict[str, Slot] = {
    "map_kd": "base colour", "map_d": "opacity", "map_ke": "emission", "map_bump": "height", "bump": "height",
    "disp": "height", "norm": "normal", "map_pr": "roughness", "map_pm": "metalness",
}  # fmt: skip


def map_name(rest: str) -> str:
    """The file that a map names: what stands behind its options, blanks and all."""
    return read_options(rest)[0]


def read_options(rest: str) -> tuple[str, dict[str, list[str]]]:
    """A map's file name and its options. Of `-o`, `-s` and `-t` the second and third number may be left out."""
    words = rest.split()
    told: dict[str, list[str]] = {}
    at = 0
    while at < len(words) - 1 and words[at].lower() in _OPTIONS:
        takes, option = _OPTIONS[words[at].lower()], words[at].lower()
        at += 1
        values = told.setdefault(option, [])
        for _ in range(takes):
            if at >= len(words) - 1 or (option in ("-o", "-s", "-t") and not _is_number(words[at])):
                break
            values.append(words[at])
            at += 1
    behind = rest
    for word in words[:at]:
        behind = behind.strip()[len(word) :]
    return behind.strip().strip('"'), told


def _is_number(word: str) -> bool:
    try:
        float(word)
    except ValueError:
        return False
    return True
