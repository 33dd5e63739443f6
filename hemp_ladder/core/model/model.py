"""What a source is, in one shape for every format: `Model` and its pieces.

Coordinates stand as the source wrote them, in the source's own axes; one
coordinate is `Model.metres_per_coordinate` metres when the declared unit
holds. Only Fit turns them into metres.
"""

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.findings import Finding
from hemp_ladder.core.model.bodies import Body, Drawn
from hemp_ladder.core.model.colour import Colour as Colour
from hemp_ladder.core.model.finish import Finish, Map, Slot
from hemp_ladder.core.model.texture import Texture

Matrix = NDArray[np.float64]

#: Nodes in a block of properties. What one node shows is then read from some ten kilobytes.
DETAILS_BLOCK = 256


#: What a thing is for: to be seen, or a volume of air, a hole, or a note on paper.
Kind = Literal["body", "space", "opening", "annotation"]


@dataclass(frozen=True, slots=True)
class Tags:
    """What a building says of a placement: one object for all that agree."""

    kind: Kind = "body"
    ifc_class: str | None = None
    storey: str | None = None
    materials: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Cut:
    """A piece of a placed part: which, where it stood (4 x 4 by rows, to metres, Z up), and the polygon on the plan."""

    of: str
    matrix: tuple[float, ...]
    polygon: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class Shells:
    """Loose shells of a part: which part, by index, points on them in its coordinates, and whether they are what is
    left out (`rest`) or what is there."""

    of: int
    points: tuple[tuple[float, float, float], ...]
    rest: bool


@dataclass(frozen=True, slots=True)
class Limb:
    """A placed part that is joined into another: which, by index, and where it stands there (4 x 4 by rows)."""

    part: int
    matrix: tuple[float, ...]


@dataclass(slots=True)
class Part:
    """A shape defined once.

    `label` is what it is called where people read: its name, unique in its
    model. `stable` is what decisions call it, which does not change with what
    stands around it (`references.py`); until that is worked out, its label.
    `key` is the hash of its geometry, `body` what it is made of. `style` and `face_styles` name what the source
    calls the look of the part and of single faces. `cut` is set on a piece
    that a polygon left, `shells` on what is some of another's loose shells
    or what those left, `limbs` on what was joined of others.
    """

    label: str
    name: str
    key: str
    body: Body
    layer: str | None = None
    colour: Colour | None = None
    face_colours: dict[int, Colour] = field(default_factory=dict)
    style: str | None = None
    face_styles: dict[int, str] = field(default_factory=dict)
    cut: Cut | None = None
    shells: Shells | None = None
    limbs: tuple[Limb, ...] = ()
    stable: str = ""

    @property
    def ref(self) -> str:
        """What decisions call it."""
        return self.stable or self.label

    @property
    def box(self) -> Matrix:
        """Lowest and highest corner in source coordinates, (2, 3)."""
        return self.body.box

    @property
    def drawn(self) -> Drawn | None:
        """Its body, where it is an outline and becomes a surface only by decision."""
        return self.body if isinstance(self.body, Drawn) else None

    @property
    def decided_as(self) -> str:
        """What decisions call it: a piece that a polygon left follows the part it was cut from."""
        return self.cut.of if self.cut else self.ref

    @property
    def size(self) -> float:
        """The diagonal of its box, in source coordinates."""
        return float(np.linalg.norm(self.box[1] - self.box[0]))


UNTAGGED = Tags()
#: So many placements are worked out together, which keeps what lies about meanwhile small.
_AT_ONCE = 8192


@dataclass(slots=True)
class Node:
    """One place in the tree. `part` is an index into `Model.parts`, -1 for a group."""

    name: str
    parent: int
    part: int = -1
    layer: str | None = None
    colour: Colour | None = None
    tags: Tags = UNTAGGED


@dataclass(frozen=True, slots=True)
class MapPlace:
    """Where the source's origin lies on a map: metres, and degrees from the grid's east to its X."""

    easting: float
    northing: float
    height: float
    turn: float = 0.0
    scale: float = 1.0
    grid: str = ""


@dataclass(frozen=True, slots=True)
class Lookout:
    """A camera: looks along its -Z with +Y up, as `matrix` (4 x 4 by rows) places it in the source's axes. `tall` is the
    angle in radians that it sees from bottom to top; 0 where its lines are parallel, and then `reach` is the height it
    sees, in source coordinates. `wide` is the width of its picture to the height, 0 where nothing is said."""

    name: str
    matrix: tuple[float, ...]
    tall: float
    wide: float = 0.0
    reach: float = 0.0


@dataclass(slots=True)
class Model:
    """A received source.

    Nodes stand in an order where every parent comes before its children.
    `local` is (n, 4, 4) float64: each node's placement in its parent.
    `box` is (2, 3), the whole of it, in source coordinates and axes.
    `hidden` names the layers that the source switched off, `leftovers`
    counts by kind what has no surface beside the parts' own curves.
    `place` says where the origin lies on a map; `detailed`, whether its
    nodes have properties, which are kept beside it in blocks; `page` is the
    sheet of paper it was drawn on, (2, 2), where it was; `sized`, that the
    file says how large it is though its unit has no name; `textures`, the
    pictures it brought, whose bytes lie beside it by SHA-256; `looks`, what
    the styles of its parts look like, where the file says more than a colour;
    `guesses`, pictures that by their names belong to a style and that nobody
    named; `lacking`, the file names of those that are named and not there;
    `lookouts`, the cameras it brought; `sun`, the way that its sunlight goes.
    """

    format: str
    schema: str
    writer: str
    unit: str | None
    up: str | None
    metres_per_coordinate: Fraction
    parts: list[Part]
    nodes: list[Node]
    local: Matrix
    box: NDArray[np.float64]
    layers: list[str] = field(default_factory=list)
    findings: list[Finding] = field(default_factory=list)
    hidden: list[str] = field(default_factory=list)
    leftovers: dict[str, int] = field(default_factory=dict)
    place: MapPlace | None = None
    detailed: bool = False
    page: NDArray[np.float64] | None = None
    sized: bool = False
    textures: list[Texture] = field(default_factory=list)
    looks: dict[str, Finish] = field(default_factory=dict)
    guesses: dict[str, dict[Slot, Map]] = field(default_factory=dict)
    lacking: dict[str, dict[Slot, str]] = field(default_factory=dict)
    lookouts: list[Lookout] = field(default_factory=list)
    sun: tuple[float, float, float] | None = None

    @property
    def placements(self) -> list[int]:
        """Indices of the nodes where a part with a surface stands."""
        return [i for i, node in enumerate(self.nodes) if node.part >= 0 and self.parts[node.part].body.has_surface]

    def world(self) -> Matrix:
        """Each node's placement in the source's axes, (n, 4, 4) float64."""
        world = self.local.copy()
        depth = np.zeros(len(self.nodes), dtype=int)
        parents = np.array([node.parent for node in self.nodes], dtype=int)
        for i, parent in enumerate(parents):
            depth[i] = 0 if parent < 0 else depth[parent] + 1
        for level in range(1, int(depth.max(initial=0)) + 1):
            chosen = np.flatnonzero(depth == level)
            for some in np.array_split(chosen, 1 + len(chosen) // _AT_ONCE):
                world[some] = world[parents[some]] @ self.local[some]
        return world

    def counts(self) -> dict[int, int]:
        """How many times each part index is placed."""
        counts: dict[int, int] = {}
        for node in self.nodes:
            if node.part >= 0:
                counts[node.part] = counts.get(node.part, 0) + 1
        return counts

    def colours(self) -> list[str]:
        """Every colour in use, as hex, in order of first use."""
        seen: dict[str, None] = {}
        for part in self.parts:
            if part.colour:
                seen.setdefault(part.colour.hex)
            for colour in part.face_colours.values():
                seen.setdefault(colour.hex)
        for node in self.nodes:
            if node.colour:
                seen.setdefault(node.colour.hex)
        return list(seen)
