"""Materials of an MTL file."""

from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from hemp_ladder.core.model.colour import BLACK, Colour
from hemp_ladder.core.model.finish import Channel, Finish, Map, Slot
from hemp_ladder.core.receive.meshed.colours import roughness_of_exponent
from hemp_ladder.core.receive.meshed.parts import Builder
from hemp_ladder.core.receive.meshed.placing import laid_by
from hemp_ladder.core.receive.obj.maps import MAPS, read_options

_CHANNELS: dict[str, Channel] = {"r": "r", "g": "g", "b": "b", "m": "a", "l": "rgb"}


@dataclass
class _Told:
    """What stands of one material: rows of numbers, and maps by slot with their options."""

    numbers: dict[str, list[float]] = field(default_factory=dict)
    maps: dict[Slot, tuple[str, dict[str, list[str]]]] = field(default_factory=dict)


def read_mtl(path: Path, builder: Builder) -> None:
    """Give the builder its materials by name. `Pr` and `Pm` of the physically based extension hold where they stand; else
    roughness comes from the exponent `Ns`, and metalness is 0, for Phong's model has none. Lines that make no sense are
    passed over."""
    told: dict[str, _Told] = {}
    now: _Told | None = None
    for line in path.read_bytes().decode("utf-8", "replace").splitlines():
        words = line.split()
        if not words:
            continue
        key = words[0].lower()
        if key == "newmtl":
            now = told.setdefault(line.strip()[len("newmtl") :].strip()[:200], _Told())
        elif key in MAPS and now is not None:
            now.maps[MAPS[key]] = read_options(line.strip()[len(key) :])
        elif now is not None:
            try:
                now.numbers[words[0]] = [float(word) for word in words[1:4]]
            except ValueError:
                continue
    for name, own in told.items():
        builder.look(name, _finish(own.numbers))
        for slot, (file, options) in own.maps.items():
            # Where a number stands beside the map it counts; else the map alone does. Nothing times a map would be nothing,
            # and is what some programs write for not said (common practice).
            beside = {"roughness": "Pr", "metalness": "Pm", "emission": "Ke", "base colour": "Kd"}.get(slot, "")
            _wear(builder, name, slot, file, options, alone=not any(own.numbers.get(beside, ())))


def _finish(values: dict[str, list[float]]) -> Finish:
    def one(*names: str, start: float) -> float:
        return next((min(max(values[name][0], 0.0), 1.0) for name in names if values.get(name)), start)

    def colour(name: str, start: float, alpha: float = 1.0) -> Colour:
        numbers = (*values.get(name, [start] * 3), start, start)[:3]
        red, green, blue = (min(max(channel, 0.0), 1.0) for channel in numbers)
        return Colour(red, green, blue, alpha)

    opacity = one("d", start=1 - one("Tr", start=0.0))
    exponent = values.get("Ns") or [10.0]
    ior = values.get("Ni") or [1.5]
    return Finish(
        colour("Kd", 0.8, opacity), one("Pm", start=0.0), one("Pr", start=roughness_of_exponent(exponent[0])),
        emission=colour("Ke", 0.0) if values.get("Ke") else BLACK, ior=ior[0] if 1 < ior[0] < 4 else 1.5,
    )  # fmt: skip


def _wear(builder: Builder, name: str, slot: Slot, file: str, options: dict[str, list[str]], alone: bool) -> None:
    """Its map in a slot. A height map whose colours are those of a normal map is one."""

    def pair(option: str, start: float) -> tuple[float, float]:
        numbers = [float(word) for word in options.get(option, [])]
        return (*numbers, start, start)[0], (*numbers[:2], start, start)[1]

    (across, along), (aside, above) = pair("-s", 1.0), pair("-o", 0.0)
    channel = _CHANNELS.get((options.get("-imfchan") or [""])[0].lower(), "rgb")

    def placed(picture: str) -> Map:
        return laid_by(np.diag([across, along]), np.array([aside, above]), picture, channel)

    builder.wear(name, slot, file, placed, alone)
