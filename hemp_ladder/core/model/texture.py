"""Textures: pictures that say something of a surface."""

from dataclasses import dataclass
from typing import Literal

#: What a texture says of a surface.
Role = Literal["base colour", "metalness", "roughness", "normal", "occlusion", "emission", "opacity", "height"]


@dataclass(frozen=True)
class Texture:
    """A picture: its bytes by SHA-256, size in pixels, what it says, and whether its numbers are sRGB or as they are."""

    sha256: str
    name: str
    width: int
    height: int
    role: Role
    colour_space: Literal["srgb", "linear"]
