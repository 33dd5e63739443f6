"""What a person decides at Facet."""

import math
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import Field, model_validator

from hemp_ladder.core.exceptions import MOST_ENTRIES, Excepted, from_parts
from hemp_ladder.core.lengths import Metres
from hemp_ladder.core.settings import Range, Settings

#: Chord errors as a length in metres and as a share of the part's size, and angles in degrees, that are offered.
RANGES = {"chord": Range(1e-5, 0.05, 5e-4), "share": Range(1e-5, 0.1, 1e-3), "degrees": Range(1, 90, 20)}

Degrees = Annotated[float, Field(ge=1, le=90, description="largest angle between facets, in degrees")]


Edge = Annotated[Metres, Field(ge=1e-4, le=1e6, description="length of a side of a triangle, in metres")]
#: Of a part's triangles, as many more to cut long thin ones across.
More = Annotated[float, Field(ge=0.01, le=2)]


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


#: Who decided an entry: a person, or what was worked out from lookouts or for an allowance of triangles.
Maker = Literal["hand", "view", "allowance"]


class EdgesInForce(NamedTuple):
    """Shortest side, in metres; as many more triangles to cut long thin ones across; longest side. In the order in which
    they are seen to: where they contradict, the longest holds."""

    shortest: float | None
    even: float | None
    longest: float | None


class FacetException(Excepted):
    """What is different for some parts; what is left out follows the job, or an entry further down.

    What was worked out gives way when it is worked out anew, unless it is pinned.
    """

    chord: Chord | None = None
    degrees: Degrees | None = None
    longest: Edge | None = None
    shortest: Edge | None = None
    even: More | None = None
    made: Maker = "hand"
    pinned: bool = False

    @property
    def stays(self) -> bool:
        """Whether it holds on when settings are worked out anew."""
        return self.made == "hand" or self.pinned


class SeenFrom(Settings):
    """From where a job is looked at: lookouts by name, none for every one; and on the ways from each to the next, where
    a camera moves."""

    lookouts: tuple[Annotated[str, Field(max_length=200)], ...] = Field((), max_length=500)
    path: bool = Field(False, description="also from between one and the next")
    width: Annotated[int, Field(ge=16, le=65_536)] = Field(1920, description="of the picture, in pixels")
    pixels: Annotated[float, Field(ge=0.01, le=100)] = Field(
        0.5, description="how far an outline may be off in the picture, in pixels"
    )


class Allowance(Settings):
    """What a job may spend: triangles over all placements, or bytes of its delivery."""

    by: Literal["count", "bytes"] = "count"
    value: float = Field(gt=0, le=1e15)


class FacetSettings(Settings):
    """How densely curves become triangles."""

    chord: Chord = Absolute()
    degrees: Degrees = RANGES["degrees"].start
    segments: Annotated[int, Field(ge=3, le=1000)] | None = Field(
        None, description="of drawn curves: segments each, instead of chord error and angle"
    )
    longest: Edge | None = Field(None, description="longest side of a triangle, in metres; none: as long as it will")
    shortest: Edge | None = Field(
        None, description="sides shorter than this, in metres, give way where form allows; none: as short as it will"
    )
    even: More | None = Field(
        None, description="of a part's triangles, as many more to cut long thin ones across; none: they stay"
    )
    seen: SeenFrom = SeenFrom()
    allowance: Allowance | None = Field(None, description="what the parts were last brought within")
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

    def edges_in_force(self, numbers: tuple[int, ...] = ()) -> "EdgesInForce":
        """What holds for the sides of triangles of a part that the exceptions with these numbers hold for."""
        own = [self.exceptions[number] for number in numbers]

        def first(name: str) -> float | None:
            told = (getattr(entry, name) for entry in own)
            return next((value for value in told if value is not None), getattr(self, name))

        return EdgesInForce(first("shortest"), first("even"), first("longest"))


def scaled(chord: Absolute | Relative, degrees: float, times: float) -> tuple[Absolute | Relative, float]:
    """So many times the chord error, with the angle that goes with it: the height of an arc goes with the square of its
    angle. In figures that can be read, within what settings may be."""
    wide = min(max(_plain(degrees * math.sqrt(times)), 1.0), 90.0)
    if isinstance(chord, Relative):
        return Relative(share=min(max(_plain(chord.share * times), 1e-5), 0.1)), wide
    return Absolute(metres=min(max(_plain(chord.metres * times), 1e-6), 1.0)), wide


def scaled_settings(settings: FacetSettings, times: float) -> FacetSettings:
    """All that settings say of chord errors and angles, scaled."""
    chord, degrees = scaled(settings.chord, settings.degrees, times)
    own = []
    for entry in settings.exceptions:
        told: dict[str, Any] = {}
        if entry.chord is not None:
            told["chord"] = scaled(entry.chord, 20, times)[0]
        if entry.degrees is not None:
            told["degrees"] = scaled(Absolute(), entry.degrees, times)[1]
        own.append(entry.model_copy(update=told))
    return settings.model_copy(update={"chord": chord, "degrees": degrees, "exceptions": tuple(own)})


def _plain(value: float) -> float:
    """To four figures."""
    return float(f"{value:.4g}")


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
