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
from hemp_ladder.core.model.texture import Texture

Matrix = NDArray[np.float64]

#: Nodes in a block of properties. What one node shows is then read from some ten kilobytes.
DETAILS_BLOCK = 256


@dataclass(frozen=True, slots=True)
class Colour:
    """An sRGB colour with opacity, each channel 0 to 1."""

    red: float
    green: float
    blue: float
    alpha: float = 1.0

    @staticmethod
    def from_linear(red: float, green: float, blue: float, alpha: float = 1.0) -> "Colour":
        """Encode linear RGB with the sRGB transfer function (IEC 61966-2-1)."""

        def encode(value: float) -> float:
            value = min(max(value, 0.0), 1.0)
            return 12.92 * value if value <= 0.0031308 else 1.055 * value ** (1 / 2.4) - 0.055

        return Colour(encode(red), encode(green), encode(blue), min(max(alpha, 0.0), 1.0))

    @staticmethod
    def from_hex(text: str) -> "Colour":
        """`#rrggbb` or `#rrggbbaa`."""
        digits = text.removeprefix("#")
        values = [int(digits[i : i + 2], 16) / 255 for i in range(0, len(digits), 2)]
        return Colour(*values)

    @property
    def hex(self) -> str:
        """`#rrggbb`, with two more digits when it is not opaque."""
        shown = [self.red, self.green, self.blue] + ([self.alpha] if self.alpha < 1 else [])
        return "#" + "".join(f"{round(value * 255):02x}" for value in shown)

    @property
    def linear(self) -> tuple[float, float, float]:
        """The three channels decoded to linear light."""

        def decode(value: float) -> float:
            return value / 12.92 if value <= 0.04045 else ((value + 0.055) / 1.055) ** 2.4

        return decode(self.red), decode(self.green), decode(self.blue)


@dataclass(frozen=True, slots=True)
class Look:
    """How a file says that a surface looks, by a name of its own: colour with opacity, metalness and roughness 0 to 1, and
    the picture (by SHA-256) that the colour is multiplied with."""

    colour: Colour
    metalness: float = 0.0
    roughness: float = 0.5
    picture: str | None = None


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


@dataclass(slots=True)
class Part:
    """A shape defined once.

    `label` is what it is called where people read: its name, unique in its
    model. `stable` is what decisions call it, which does not change with what
    stands around it (`references.py`); until that is worked out, its label.
    `key` is the hash of its geometry, `body` what it is made of. `style` and `face_styles` name what the source
    calls the look of the part and of single faces. `cut` is set on a piece
    that a polygon left.
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
    the styles of its parts look like, where the file says more than a colour.
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
    looks: dict[str, Look] = field(default_factory=dict)

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
