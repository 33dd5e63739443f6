"""Bodies: what a part is made of before any triangle is wanted. One class a kind; everyone else asks the body."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, fields
from typing import TYPE_CHECKING, Any, ClassVar

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from hemp_ladder.core.chain.steps import First
    from hemp_ladder.core.drawn.solid import Solid


#: Takes a body's key and the body as bytes.
BodySink = Callable[[str, bytes], None]
#: The box of what has none yet.
NOWHERE = np.zeros((2, 3))


@dataclass(frozen=True)
class Wish:
    """How a mesh is wanted: chord error in source coordinates, angle in radians, what of a drawn body is solid."""

    chord: float
    angle: float
    solid: Solid | None = None


@dataclass(frozen=True, eq=False)
class Body:
    """One kind of body. `box` is (2, 3), lowest and highest corner in source coordinates."""

    kind: ClassVar[str]
    box: NDArray[np.float64]

    @property
    def face_count(self) -> int:
        """Faces that looks can be given to one by one; 0 where there is no surface."""
        return 0

    @property
    def has_surface(self) -> bool:
        """Whether there is, or by decision can be, anything to mesh."""
        return self.face_count > 0

    def first_step(self, wish: Wish) -> First | None:
        """The step that makes triangles of it; None where it has none to give."""
        return None

    def as_dict(self) -> dict[str, Any]:
        """Plain values, as JSON keeps them."""
        told = {item.name: getattr(self, item.name) for item in fields(self)}
        return {"kind": self.kind, **told, "box": self.box.tolist()}


@dataclass(frozen=True, eq=False)
class Exact(Body):
    """A shape of the kernel: faces on true surfaces.

    `open_edges` bound one face only; `curves` and `points` belong to none; `turned` counts faces that faced against
    the rest in the file and were turned; `holes` are radii of round holes of which there are several alike, in source
    coordinates, and how many there are.
    """

    kind: ClassVar[str] = "exact"
    faces: int = 0
    solids: int = 0
    open_edges: int = 0
    curves: int = 0
    points: int = 0
    turned: int = 0
    holes: tuple[tuple[float, int], ...] = ()

    @property
    def face_count(self) -> int:
        return self.faces

    def first_step(self, wish: Wish) -> First | None:
        from hemp_ladder.core.facet.step import Facet

        return Facet(chord=wish.chord, angle=wish.angle) if self.faces else None


@dataclass(frozen=True, eq=False)
class Drawn(Body):
    """What a drawn part says of itself, before anything is solid. Lengths in source coordinates.

    fill       it is an area in its own right
    stroke     width of the line it is drawn with, 0 for none
    closed     its outline encloses an area
    gap        how far its ends are apart, where it is open
    thickness  how high the drawing says it is
    clipped    part of it is clipped away: its lines on a plan are the border of what is left
    sheet      shapes of one sheet lie in one plane and one coordinate system
    x, y       where its own origin lies on the sheet
    inside     the shapes of its sheet that it lies inside of, outermost first: indices of parts
    """

    kind: ClassVar[str] = "drawn"
    fill: bool = False
    stroke: float = 0.0
    closed: bool = True
    gap: float = 0.0
    thickness: float = 0.0
    clipped: bool = False
    sheet: int = 0
    x: float = 0.0
    y: float = 0.0
    inside: tuple[int, ...] = ()

    @property
    def face_count(self) -> int:
        return 1

    def first_step(self, wish: Wish) -> First | None:
        from hemp_ladder.core.drawn.step import Solidify

        return Solidify(chord=wish.chord, angle=wish.angle, solid=wish.solid) if wish.solid else None


@dataclass(frozen=True, eq=False)
class Meshed(Body):
    """Triangles as a file brought them, in groups that looks can be given to.

    `tiles` has for each group how long a picture that fills the unit square of UV lies on it, in source coordinates, and
    how often it repeats across it; empty where there are no UV.
    """

    kind: ClassVar[str] = "meshed"
    groups: int = 1
    triangles: int = 0
    tiles: tuple[tuple[float, float], ...] = ()

    @property
    def face_count(self) -> int:
        return self.groups

    def first_step(self, wish: Wish) -> First | None:
        from hemp_ladder.core.chain.came import AsItCame

        return AsItCame()


@dataclass(frozen=True, eq=False)
class Assembled(Body):
    """Parts that were joined into one: its faces are theirs, one after the other."""

    kind: ClassVar[str] = "assembled"
    faces: int = 0

    @property
    def face_count(self) -> int:
        return self.faces


@dataclass(frozen=True, eq=False)
class Points(Body):
    """Points of a scan: shown and shipped as points, never as triangles."""

    kind: ClassVar[str] = "points"
    count: int = 0


@dataclass(frozen=True, eq=False)
class Heights(Body):
    """Heights over a grid of ground, from corner to corner of the box."""

    kind: ClassVar[str] = "heights"
    rows: int = 0
    columns: int = 0

    @property
    def face_count(self) -> int:
        return 1 if min(self.rows, self.columns) > 1 else 0

    def first_step(self, wish: Wish) -> First | None:
        from hemp_ladder.core.chain.relief import Relief

        (x, y, _), (far_x, far_y, _) = self.box.tolist()
        return Relief(low=(x, y), high=(far_x, far_y))


_KINDS: dict[str, type[Body]] = {body.kind: body for body in (Exact, Drawn, Meshed, Assembled, Points, Heights)}


def _frozen(value: Any) -> Any:
    return tuple(map(_frozen, value)) if isinstance(value, list) else value


def body_from_dict(values: dict[str, Any]) -> Body:
    """What `Body.as_dict` gave, also after it went through JSON."""
    kind = _KINDS[values["kind"]]
    known = {item.name for item in fields(kind)} - {"box"}
    told = {name: _frozen(v) for name, v in values.items() if name in known}
    return kind(np.array(values["box"]), **told)
