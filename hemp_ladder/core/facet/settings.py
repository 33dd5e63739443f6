"""What a person decides at Facet."""

import math
from typing import Annotated, Literal

from pydantic import Field

from hemp_ladder.core.lengths import Metres
from hemp_ladder.core.refs import PartRef
from hemp_ladder.core.settings import MOST_PARTS, Range, Settings

#: Chord errors as a length in metres and as a share of the part's size, and angles in degrees, that are offered.
RANGES = {"chord": Range(1e-5, 0.05, 5e-4), "share": Range(1e-5, 0.1, 1e-3), "degrees": Range(1, 90, 20)}

Degrees = Annotated[float, Field(ge=1, le=90, description="largest angle between facets, in degrees")]


class Absolute(Settings):
    """Chord error as a length."""

    kind: Literal["absolute"] = "absolute"
    metres: Annotated[Metres, Field(ge=1e-6, le=1.0)] = Field(
        RANGES["chord"].start, description="largest distance between facet and true surface, in metres"
    )


class Relative(Settings):
    """Chord error as a share of the part's size (the diagonal of its box)."""

    kind: Literal["relative"] = "relative"
    share: float = Field(RANGES["share"].start, ge=1e-5, le=0.1, description="share of the part's box diagonal")


Chord = Annotated[Absolute | Relative, Field(discriminator="kind")]


class FacetOverride(Settings):
    """A setting of one part's own; what is left out follows the job."""

    chord: Chord | None = None
    degrees: Degrees | None = None


class FacetSettings(Settings):
    """How densely curves become triangles."""

    chord: Chord = Absolute()
    degrees: Degrees = RANGES["degrees"].start
    segments: Annotated[int, Field(ge=3, le=1000)] | None = Field(
        None, description="of drawn curves: segments each, instead of chord error and angle"
    )
    parts: dict[PartRef, FacetOverride] = Field(
        default_factory=dict, max_length=MOST_PARTS, description="overrides by part"
    )

    def in_force(self, ref: str) -> tuple[Absolute | Relative, float]:
        """Chord error and angle in radians for the part called `ref`."""
        own = self.parts.get(ref)
        chord = own.chord if own and own.chord else self.chord
        degrees = own.degrees if own and own.degrees else self.degrees
        return chord, math.radians(degrees)


#: Settings to start from, by purpose. The values are common practice: half a
#: millimetre is invisible at arm's length, a tenth survives a macro lens, and
#: a twentieth lies under what a filament printer resolves.
PURPOSES: dict[str, FacetSettings] = {
    "background": FacetSettings(chord=Absolute(metres=5e-3), degrees=30),
    "general": FacetSettings(chord=Absolute(metres=5e-4), degrees=20),
    "close-up": FacetSettings(chord=Absolute(metres=1e-4), degrees=10),
    "print": FacetSettings(chord=Absolute(metres=5e-5), degrees=15),
}
