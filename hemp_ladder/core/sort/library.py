"""A small library of neutral materials with the open standard's properties.

Properties are those of glTF 2.0's metallic-roughness model, sections 3.9.2
and 5.22. Values are our own, set by eye within the ranges that are common
practice: metals bright with metalness 1, all else metalness 0.
"""

from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.finish import Finish
from hemp_ladder.core.model.material import Material


def _material(id_: str, name: str, colour: str, metalness: float, roughness: float) -> Material:
    return Material(id_, name, Finish(Colour.from_hex(colour), metalness, roughness))


#: What a new rule gives until a person chooses.
FIRST_MATERIAL = "painted-iron"
LIBRARY: dict[str, Material] = {
    material.id: material
    for material in (
        _material("clear-glass", "Clear glass", "#e4f1ef3d", 0.0, 0.03),
        _material("lens-glass", "Lens glass", "#b9dedb80", 0.0, 0.02),
        _material("ruby-glass", "Ruby glass", "#a3222c8c", 0.0, 0.05),
        _material("painted-iron", "Painted iron", "#3b4147", 0.0, 0.45),
        _material("red-oxide", "Red oxide paint", "#9c4a2f", 0.0, 0.55),
        _material("white-paint", "White paint", "#ebe7dc", 0.0, 0.5),
        _material("signal-paint", "Signal paint", "#d2581c", 0.0, 0.4),
        _material("galvanised", "Galvanised steel", "#b4b9ba", 1.0, 0.5),
        _material("polished-steel", "Polished steel", "#c9cdcf", 1.0, 0.15),
        _material("gun-metal", "Gun metal", "#a38f63", 1.0, 0.4),
        _material("brass", "Polished brass", "#d0ab5c", 1.0, 0.2),
        _material("copper", "Weathered copper", "#6f9a86", 0.2, 0.7),
        _material("granite", "Granite", "#a7a29a", 0.0, 0.85),
        _material("timber", "Oiled timber", "#8a6239", 0.0, 0.65),
        _material("rubber", "Black rubber", "#2a2a2b", 0.0, 0.9),
        _material("clay", "Plain clay", "#c3b7a5", 0.0, 0.8),
    )
}
