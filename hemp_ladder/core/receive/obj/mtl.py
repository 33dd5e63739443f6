"""Materials of an MTL file."""

from pathlib import Path

from hemp_ladder.core.model.model import Colour, Look
from hemp_ladder.core.receive.meshed.colours import roughness_of_exponent


def read_mtl(path: Path) -> dict[str, Look]:
    """Its materials by name. `Pr` and `Pm` of the physically based extension hold where they stand; else roughness comes
    from the exponent `Ns`, and metalness is 0, for Phong's model has none. Lines that make no sense are passed over."""
    told: dict[str, dict[str, list[float]]] = {}
    now: dict[str, list[float]] | None = None
    for line in path.read_bytes().decode("utf-8", "replace").splitlines():
        words = line.split()
        if not words:
            continue
        if words[0].lower() == "newmtl":
            now = told.setdefault(line.strip()[len("newmtl") :].strip()[:200], {})
        elif now is not None:
            try:
                now[words[0]] = [float(word) for word in words[1:4]]
            except ValueError:
                continue
    return {name: _look(values) for name, values in told.items()}


def _look(values: dict[str, list[float]]) -> Look:
    def one(*names: str, start: float) -> float:
        return next((min(max(values[name][0], 0.0), 1.0) for name in names if values.get(name)), start)

    red, green, blue = (*values.get("Kd", [0.8] * 3), 0.8, 0.8)[:3]
    opacity = one("d", start=1 - one("Tr", start=0.0))
    exponent = values.get("Ns") or [10.0]
    red, green, blue = (min(max(channel, 0.0), 1.0) for channel in (red, green, blue))
    colour = Colour(red, green, blue, opacity)
    return Look(colour, one("Pm", start=0.0), one("Pr", start=roughness_of_exponent(exponent[0])))
