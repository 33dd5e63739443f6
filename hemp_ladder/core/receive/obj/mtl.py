"""Materials of an MTL file."""

from pathlib import Path

from hemp_ladder.core.model.model import Colour, Look
from hemp_ladder.core.receive.meshed.colours import roughness_of_exponent
from hemp_ladder.core.receive.meshed.pictures import Pictures

#: How many words each option of a map takes (the MTL specification's texture options).
_OPTIONS = {
    "-blendu": 1, "-blendv": 1, "-bm": 1, "-boost": 1, "-cc": 1, "-clamp": 1, "-imfchan": 1, "-mm": 2, "-texres": 1,
    "-type": 1, "-o": 3, "-s": 3, "-t": 3,
}  # fmt: skip


def map_name(rest: str) -> str:
    """The file that a map names: what stands behind its options, blanks and all. Of `-o`, `-s` and `-t` the second and
    third number may be left out."""
    words = rest.split()
    at = 0
    while at < len(words) - 1 and words[at].lower() in _OPTIONS:
        takes, option = _OPTIONS[words[at].lower()], words[at].lower()
        at += 1
        for _ in range(takes):
            if at >= len(words) - 1 or (option in ("-o", "-s", "-t") and not _is_number(words[at])):
                break
            at += 1
    behind = rest
    for word in words[:at]:
        behind = behind.strip()[len(word) :]
    return behind.strip().strip('"')


def _is_number(word: str) -> bool:
    try:
        float(word)
    except ValueError:
        return False
    return True


def read_mtl(path: Path, pictures: Pictures) -> dict[str, Look]:
    """Its materials by name. `Pr` and `Pm` of the physically based extension hold where they stand; else roughness comes
    from the exponent `Ns`, and metalness is 0, for Phong's model has none. Lines that make no sense are passed over."""
    told: dict[str, dict[str, list[float]]] = {}
    maps: dict[str, str] = {}
    name = ""
    now: dict[str, list[float]] | None = None
    for line in path.read_bytes().decode("utf-8", "replace").splitlines():
        words = line.split()
        if not words:
            continue
        if words[0].lower() == "newmtl":
            name = line.strip()[len("newmtl") :].strip()[:200]
            now = told.setdefault(name, {})
        elif words[0].lower() == "map_kd" and now is not None:
            maps[name] = map_name(line.strip()[len("map_kd") :])
        elif now is not None:
            try:
                now[words[0]] = [float(word) for word in words[1:4]]
            except ValueError:
                continue
    return {
        name: _look(values, pictures.beside(maps[name]) if maps.get(name) else None) for name, values in told.items()
    }


def _look(values: dict[str, list[float]], picture: str | None) -> Look:
    def one(*names: str, start: float) -> float:
        return next((min(max(values[name][0], 0.0), 1.0) for name in names if values.get(name)), start)

    red, green, blue = (*values.get("Kd", [0.8] * 3), 0.8, 0.8)[:3]
    opacity = one("d", start=1 - one("Tr", start=0.0))
    exponent = values.get("Ns") or [10.0]
    red, green, blue = (min(max(channel, 0.0), 1.0) for channel in (red, green, blue))
    colour = Colour(red, green, blue, opacity)
    return Look(colour, one("Pm", start=0.0), one("Pr", start=roughness_of_exponent(exponent[0])), picture)
