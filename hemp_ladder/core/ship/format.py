"""`Format`: what a format out says of itself. Receipt, command line and browser ask it; nobody goes by its name."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.fit.settings import Axis
from hemp_ladder.core.ship.dressing import OutSlot
from hemp_ladder.core.ship.scene import Scene

Group = Literal["part", "material", "layer", "class", "storey", "group", "source", "one"]
#: What a file of a format can hold: a tree whose meshes stand in several places; names of objects; materials by name;
#: normals of vertices; UV; colours of vertices; pictures that materials wear; faces of more than three corners.
Carries = Literal["instances", "objects", "materials", "normals", "uv", "colours", "pictures", "polygons"]


@dataclass(frozen=True)
class Weight:
    """About what a file holds: vertices and triangles, each once (`own`) and at every place (`placed`); whether there are
    UV; placements."""

    own: tuple[int, int] = (0, 0)
    placed: tuple[int, int] = (0, 0)
    uv: bool = False
    placements: int = 0


@dataclass(frozen=True)
class Written:
    """The files that were written for a scene, the one to open first, and what each material is called in them."""

    paths: list[Path]
    materials: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Facets:
    """Triangles as a reader shows them: centres (k, 3), and the means of what is at their corners: normals (k, 3), and UV
    (k, 2), from the lower left, where there are any."""

    centres: NDArray[np.float64]
    normals: NDArray[np.float64]
    uv: NDArray[np.float64] | None = None


@dataclass
class Found:
    """What another library finds in files: (2, 3) box in the file's axes and unit, counts over placements, and doubts.

    astray  share of the surface whose shading normals point against the winding
    open    names of the meshes that have a border
    pictures  by material and slot: width, height and SHA-256 of the pixels
    facets  of every mesh as it lies in the file, before it is placed
    """

    box: NDArray[np.float64] = field(default_factory=lambda: np.array([[np.inf] * 3, [-np.inf] * 3]))
    triangles: int = 0
    placements: int = 0
    materials: set[str] = field(default_factory=set)
    normals: bool = True
    astray: float = 0.0
    open: set[str] = field(default_factory=set)
    meshes: set[str] = field(default_factory=set)
    facets: list[Facets] = field(default_factory=list)
    pictures: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Verdict:
    """What a validator says of a file: how many errors, and the first in words."""

    name: str
    errors: int | str


@dataclass(frozen=True)
class Format:
    """A format out.

    unit, up     what its files are read in when nobody says otherwise
    group        how it is grouped when nobody says otherwise
    carries      what its files can hold
    shows        slots whose pictures the library that proves gives back
    inside       pictures lie in the file when nobody says otherwise; None where they never can
    moves        its readers move a picture on the surface as the file says
    joint        roughness and metalness lie in one picture, opacity beside the colour
    write        writes a scene at a path, and what belongs to it beside
    proof        reads files back with a library that shares no code with `write`; kept out of import until it is asked
    validate     a validator of the format, where there is one
    load_early   has that validator load before there is a file, where it takes long to
    noted        the offset that a file says was taken from all places, in its unit and axes; None where it says none
    right_handed its standard says so
    weighs       bytes of its files without pictures, about, for what is in them
    """

    code: str
    name: str
    suffix: str
    unit: str
    up: Axis
    group: Group
    carries: frozenset[Carries]
    write: Callable[[Scene, Path], Written]
    proof: Callable[[Sequence[Path]], Found]
    validate: Callable[[Path], Verdict] | None = None
    load_early: Callable[[], None] = lambda: None
    shows: frozenset[OutSlot] = frozenset()
    inside: bool | None = None
    joint: bool = False
    moves: bool = False
    noted: Callable[[Path], tuple[float, ...] | None] = lambda path: None
    right_handed: bool = False
    weighs: Callable[[Weight], int] = lambda weight: 0

    @property
    def one_mesh(self) -> bool:
        """A file holds one mesh without parts: what is to stay apart goes into files of its own."""
        return "objects" not in self.carries
