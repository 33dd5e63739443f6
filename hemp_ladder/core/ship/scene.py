"""What is to be written, in the target's unit and up axis, before any format is chosen."""

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.model.material import Material
from hemp_ladder.core.model.model import Matrix
from hemp_ladder.core.ship.dressing import Applied, OutSlot

#: What hangs on vertices, by name, as in `Mesh.attributes`.
Attributes = Mapping[str, NDArray[np.float32]]


_NOTED = re.compile(r"\boffset ([-+.\deE]+) ([-+.\deE]+) ([-+.\deE]+)")


def noted_offset(head: str) -> tuple[float, ...] | None:
    """The offset that a comment written from `Scene.note` says."""
    found = _NOTED.search(head)
    return tuple(map(float, found.groups())) if found else None


def uv_name(number: int) -> str:
    """What the attribute of a set of UV is called."""
    return f"uv{number or ''}"


def of_place(geometry: str, node: int) -> str:
    """The key of geometry that one placement has for itself."""
    return f"{geometry}@{node}"


def is_alone(geometry: str) -> bool:
    """Whether it is one placement's own."""
    return "@" in geometry


class Run(NamedTuple):
    """Triangles of one material at a place, with only the vertices they need."""

    material: str
    positions: NDArray[np.float64]
    attributes: Attributes
    triangles: NDArray[np.int32]
    sizes: NDArray[np.int32] | None = None


@dataclass(frozen=True)
class Surface:
    """A mesh to be written; coordinates in the target's unit.

    geometry   equal for surfaces whose positions and attributes are the same arrays
    runs       (material id, triangles (k, 3) int32) in order
    sizes      for each run how many corners its faces have, (f,) int32, where triangles make larger ones
               (`polygons.fanned`); nothing where they do not
    origin     (3,) float64, to be added to the positions: kept apart so that
               a part designed far from its origin survives 32 bit numbers
    """

    name: str
    geometry: str
    positions: NDArray[np.float64]
    attributes: Attributes
    runs: list[tuple[str, NDArray[np.int32]]]
    origin: NDArray[np.float64]
    watertight: bool
    sizes: tuple[NDArray[np.int32], ...] = ()

    @property
    def triangles(self) -> int:
        return sum(len(run) for _, run in self.runs)

    def placed(self, matrix: Matrix) -> Iterator[Run]:
        """Its runs at a place. A mirrored placement turns winding over, so that the outside stays outside."""
        positions = (self.positions + self.origin) @ matrix[:3, :3].T + matrix[:3, 3]
        attributes = {**self.attributes, "normal": turned_normals(self.attributes["normal"], matrix)}
        mirrored = np.linalg.det(matrix[:3, :3]) < 0
        for number, (material, triangles) in enumerate(self.runs):
            sizes = self.sizes[number] if self.sizes else None
            # The first corner stays the first: larger faces are cut up from there.
            wound = np.ascontiguousarray(triangles[:, [0, 2, 1]]) if mirrored else triangles
            if len(self.runs) == 1:
                yield Run(material, positions, attributes, wound, sizes)
                continue
            needed, index = np.unique(wound, return_inverse=True)
            some = {name: values[needed] for name, values in attributes.items()}
            yield Run(material, positions[needed], some, index.reshape(-1, 3).astype(np.int32), sizes)


def turned_normals(normals: NDArray[np.float32], matrix: Matrix) -> NDArray[np.float32]:
    """Normals (n, 3) of a surface after the matrix (4, 4), of unit length.

    They turn by the inverse transpose, else a stretched surface is lit as if
    it were not (K. Turkowski, "Properties of surface-normal transformations",
    Graphics Gems, 1990). The matrix of cofactors is that but for its length,
    and there is one also where the matrix flattens everything.
    """
    turn = matrix[:3, :3]
    cofactors = np.array([np.cross(turn[1], turn[2]), np.cross(turn[2], turn[0]), np.cross(turn[0], turn[1])])
    turned = normals.astype(np.float64) @ (cofactors * (np.sign(np.linalg.det(turn)) or 1.0)).T
    length = np.linalg.norm(turned, axis=1, keepdims=True)
    unit = np.divide(turned, length, out=np.zeros_like(turned), where=length > 0)
    return np.asarray(unit, np.float32)


@dataclass
class Place:
    """A node: `surface` is an index into `Scene.surfaces`, -1 for a group; `matrix` to its parent; `node` the model's that
    it stands for, -1 for none; `fixed`, that it stays where it is because something turns about it."""

    name: str
    parent: int
    matrix: Matrix
    surface: int = -1
    node: int = -1
    fixed: bool = False


@dataclass
class Scene:
    """Surfaces and the tree of places they stand in. Parents come before children.

    unit, up   of its coordinates; `group` says whether surfaces are parts, materials, or the whole
    materials  those in use, by id, in order of first use
    worn       by material what it wears, by slot
    laid       by material how its UV are moved where the format has no words for it, and all it wears lies so
    pictures   those pictures, PNG or JPEG, by SHA-256; `beside` says that they lie beside the file, not in it
    polygons   what is flat is written as few convex faces
    quads      two triangles that make a good quad are written as one
    offset     to be added to all coordinates to have them where the sources said, in its unit and axes
    """

    unit: str
    up: str
    group: str
    materials: dict[str, Material] = field(default_factory=dict)
    worn: dict[str, dict[OutSlot, Applied]] = field(default_factory=dict)
    laid: dict[str, Applied] = field(default_factory=dict)
    pictures: dict[str, bytes] = field(default_factory=dict)
    beside: bool = False
    surfaces: list[Surface] = field(default_factory=list)
    places: list[Place] = field(default_factory=list)
    offset: tuple[float, float, float] = (0.0, 0.0, 0.0)
    left_handed: bool = False
    polygons: bool = False
    quads: bool = False

    @property
    def note(self) -> str:
        """What a file that has no words for it says in a comment: unit, axes, and what was taken from all places."""
        told = f"1 unit = 1 {self.unit}, {self.up} up{', left-handed' if self.left_handed else ''}"
        return f"{told}, offset {' '.join(map(repr, self.offset))}" if any(self.offset) else told

    def world(self) -> list[Matrix]:
        """Each place's matrix to the whole."""
        world: list[Matrix] = []
        for place in self.places:
            world.append(place.matrix if place.parent < 0 else world[place.parent] @ place.matrix)
        return world

    def standing(self) -> Iterator[tuple[Place, Surface, Matrix]]:
        """Every place with a surface, and its matrix to the whole."""
        for place, matrix in zip(self.places, self.world(), strict=True):
            if place.surface >= 0:
                yield place, self.surfaces[place.surface], matrix
