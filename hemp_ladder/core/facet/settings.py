"""What a person decides at Facet."""

import math
from typing import Annotated, Literal

from pydantic import Field, model_validator

from hemp_ladder.core.exceptions import MOST_ENTRIES, Excepted, from_parts
from hemp_ladder.core.lengths import Metres
from hemp_ladder.core.settings import Range, Settings

#: Chord errors as a length in metres and as a share of the part's size, and angles in degrees, that are offered.
RANGES = {"chord": Range(1e-5, 0.05, 5e-4), "share": Range(1e-5, 0.1, 1e-3), "degrees": Range(1, 90, 20)}

Degrees = Annotated[float, Field(ge=1, le=90, description="largest angle between facets, in degrees")]


Edge = Annotated[Metres, Field(ge=1e-4, le=1e6, description="longest side of a triangle, in metres")]


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


class FacetException(Excepted):
    """What is different for some parts; what is left out follows the job, or an entry further down."""

    chord: Chord | None = None
    degrees: Degrees | None = None
    longest: Edge | None = None


class FacetSettings(Settings):
    """How densely curves become triangles."""

    chord: Chord = Absolute()
    degrees: Degrees = RANGES["degrees"].start
    segments: Annotated[int, Field(ge=3, le=1000)] | None = Field(
        None, description="of drawn curves: segments each, instead of chord error and angle"
    )
    longest: Edge | None = Field(None, description="longest side of a triangle, in metres; none: as long as it will")
    exceptions: tuple[FacetException, ...] = Field(
        (), max_length=MOST_ENTRIES, description="who differs, in order: the first that speaks of a setting decides it"
    )

    _from_parts = model_validator(mode="before")(from_parts)

    def in_force(self, numbers: tuple[int, ...] = ()) -> tuple[Absolute | Relative, float]:
        """Chord error and angle in radians for a part that the exceptions with these numbers hold for."""
        own = [self.exceptions[number] for number in numbers]
        chord = next((entry.chord for entry in own if entry.chord is not None), self.chord)
        degrees = next((entry.degrees for entry in own if entry.degrees is not None), self.degrees)
        return chord, math.radians(degrees)

    def longest_in_force(self, numbers: tuple[int, ...] = ()) -> float | None:
        """The longest side in metres for a part that the exceptions with these numbers hold for."""
        own = (self.exceptions[number].longest for number in numbers)
        return next((length for length in own if length is not None), self.longest)


def turning_radius(chord: float, degrees: float) -> float:
    """The radius from which on an arc has more segments for its chord error than for its angle; under it the angle decides.

    A segment that turns by a is off by r (1 - cos(a / 2)) at most (sagitta of a circular arc).
    """
    return chord / (1 - math.cos(math.radians(degrees) / 2))


#: Settings to start from, by purpose. The values are common practice: half a
#: millimetre is invisible at arm's length, a tenth survives a macro lens, and
#: a twentieth lies under what a filament printer resolves.
PURPOSES: dict[str, FacetSettings] = {
    "background": FacetSettings(chord=Absolute(metres=5e-3), degrees=30),
    "general": FacetSettings(chord=Absolute(metres=5e-4), degrees=20),
    "close-up": FacetSettings(chord=Absolute(metres=1e-4), degrees=10),
    "print": FacetSettings(chord=Absolute(metres=5e-5), degrees=15),
}
