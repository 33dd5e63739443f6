"""What the command line says of a source: for people line by line, or as data."""

from typing import Any

import numpy as np

from hemp_ladder.core.choose.tally import tally_all
from hemp_ladder.core.model.join import Given
from hemp_ladder.core.model.model import Model


def describe(model: Model) -> dict[str, Any]:
    """What `inspect --json` prints: sizes in metres after the declared unit, in the file's own axes."""
    scale = float(model.metres_per_coordinate)
    return {
        "format": model.format,
        "schema": model.schema,
        "unit": model.unit,
        "up": model.up,
        "parts": sum(1 for part in model.parts if part.body.has_surface),
        "placements": len(model.placements),
        "layers": model.layers,
        "materials": [*model.looks] or model.colours(),
        **_textures(model),
        **({"lookouts": [item.name for item in model.lookouts]} if model.lookouts else {}),
        "size_m": [round(float(side), 9) for side in np.ptp(model.box, axis=0) * scale],
        **_building(model),
        "findings": [item.as_dict() for item in model.findings],
    }


def _textures(model: Model) -> dict[str, Any]:
    told = [f"{item.name}, {item.width} × {item.height} px" for item in model.textures]
    return {"textures": told} if told else {}


def _building(model: Model) -> dict[str, Any]:
    """Classes and storeys with their placements, and the place on a map: where the source has any of it."""
    told: dict[str, Any] = {}
    counts: dict[str, dict[str, int]] = {"class": {}, "storey": {}}
    for item in tally_all(model):
        if item.by in counts:
            counts[item.by][item.match] = item.placements
    for name, by in (("classes", "class"), ("storeys", "storey")):
        if counts[by]:
            told[name] = counts[by]
    if model.place:
        place = model.place
        told["map"] = {"grid": place.grid, "easting_m": place.easting, "northing_m": place.northing,
                       "height_m": place.height, "turn_deg": round(place.turn, 9)}  # fmt: skip
    return told


def tell(given: Given, several: bool) -> None:
    """Print it for people."""
    report = describe(given.model)
    if several:
        print(f"{given.name}\n{'─' * len(given.name)}")
    width = max(len(key) for key in report)
    for key, value in report.items():
        if key != "findings":
            print(f"{key:<{width}}  {_words(key, value)}")
    for item in given.model.findings:
        print(f"{item.severity}: {item.message} {item.remedy}")
    if several:
        print()


def _words(key: str, value: Any) -> str:
    if value is None:
        return "not declared"
    if key == "size_m":
        return " × ".join(f"{side:.4f}" for side in value) + " m"
    if key == "map":
        return f"E {value['easting_m']:,.3f} m, N {value['northing_m']:,.3f} m, {value['grid'] or 'grid not named'}"
    if isinstance(value, dict):
        return ", ".join(f"{name} {count:,}" for name, count in value.items())
    return (", ".join(value) or "none") if isinstance(value, list) else str(value)
