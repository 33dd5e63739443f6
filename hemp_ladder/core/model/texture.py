"""Textures: pictures that say something of a surface."""

from dataclasses import dataclass
from typing import Literal

from hemp_ladder.core.model.finish import Slot

#: What a picture's opacity does: nothing, cuts holes, or lets through by shares.
Clear = Literal["", "cut", "soft"]


@dataclass(frozen=True)
class Texture:
    """A picture: its bytes by SHA-256, how many, size in pixels, and what it says of a surface, None where nobody wears it.

    clear   what its opacity does
    mean    its mean colour, #rrggbb
    bluish  its colours are those of a normal map: most point straight out of the surface
    """

    sha256: str
    name: str
    width: int
    height: int
    role: Slot | None
    bytes: int = 0
    clear: Clear = ""
    bluish: bool = False
    mean: str = ""
