"""Materials, wherever they come from: the house, a source, or the job."""

from collections.abc import Mapping
from dataclasses import dataclass

from hemp_ladder.core.model.model import Colour


@dataclass(frozen=True)
class Material:
    """A surface: base colour (sRGB with opacity), metalness and roughness 0 to 1 (glTF 2.0 sections 3.9.2 and 5.22).
    `picture` is the SHA-256 of a texture that the colour is multiplied with."""

    id: str
    name: str
    colour: Colour
    metalness: float
    roughness: float
    picture: str | None = None


#: All materials that a job may use, by id.
Palette = Mapping[str, Material]

#: What a loose end wears until someone decides.
UNDECIDED = Material("undecided", "Undecided", Colour.from_hex("#bdb6a8"), 0.0, 0.8)


def look_id(style: str) -> str:
    """The id of the material that a source describes under this name."""
    return f"look:{style}"


def source_id(colour: Colour) -> str:
    """The id of the material that a colour of a source stands for."""
    return f"source:{colour.hex}"
