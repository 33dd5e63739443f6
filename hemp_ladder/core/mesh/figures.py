"""`Figures`: all that is known of a mesh to whoever does not hold its triangles."""

from collections.abc import Iterable, Mapping
from dataclasses import asdict, dataclass, field, fields
from typing import Any

#: A place on a part's plan where a wall is thinner than the nozzle: x, y and the width there.
Thin = tuple[float, float, float]


@dataclass(frozen=True)
class Figures:
    """Counted and measured of one mesh; lengths in the part's own source coordinates.

    box         lowest and highest corner, or nothing where there is no triangle
    open_edges  edges not run along as often one way as the other; None until they are counted
    against     of those, edges whose two triangles disagree in their winding
    over_shared edges of more than two triangles
    holes       rings of edges where the surface ends
    t_joints    places on the middle of such an edge; None where there are too many to look
    shells      what hangs together by edges
    inward      closed shells that face inward, those inside other shells not counted
    duplicate   triangles that lie on an earlier one
    degenerate  triangles without an area
    slender     triangles with an angle under five degrees
    crossing    triangles that another goes through; None until they are counted
    inside_out  closed, and wound so that the inside is outside; of several shells for most of what they hold
    volume      signed, by the divergence theorem; means nothing where it is not closed
    area        of all triangles
    refused     by operation, why it could not be done: the mesh before it stays
    bad_normals of what a file brought, by what is wrong: vertices, or for `split` those that another would do for
    off_by      largest distance measured between a triangle and the true surface
    faceted     of triangles of an exact shape: how far they lie from it, both ways (`core/facet/measured.py`)
    seconds     of processor that its facets took
    failed      numbers of the faces that gave no triangles though they should
    healed      the exact shape was repaired on the way
    thin        of a drawn part: where a wall is thinner than the nozzle
    trimmed     of what was made lighter: what it was before, and how far it lies from that (`core/trim/judge.py`)
    effects     by operation, what it did: vertices that `weld` joined, and so on
    """

    triangles: int = 0
    vertices: int = 0
    box: tuple[tuple[float, float, float], ...] = ()
    open_edges: int | None = None
    against: int = 0
    over_shared: int = 0
    holes: int = 0
    t_joints: int | None = 0
    shells: int = 0
    inward: int = 0
    duplicate: int = 0
    degenerate: int = 0
    slender: int = 0
    crossing: int | None = None
    inside_out: bool = False
    volume: float = 0.0
    area: float = 0.0
    bad_normals: Mapping[str, int] = field(default_factory=dict)
    off_by: float = 0.0
    faceted: Mapping[str, float] = field(default_factory=dict)
    seconds: float = field(default=0.0, compare=False)
    failed: tuple[int, ...] = ()
    healed: bool = False
    thin: tuple[Thin, ...] = ()
    effects: Mapping[str, float] = field(default_factory=dict)
    refused: Mapping[str, str] = field(default_factory=dict)
    trimmed: Mapping[str, float] = field(default_factory=dict)

    @property
    def watertight(self) -> bool:
        """Closed and consistently wound."""
        return self.triangles > 0 and self.open_edges == 0

    @property
    def deviation(self) -> float:
        """The largest distance that was found between its facets and the exact shape, either way."""
        return max(self.off_by, self.faceted.get("back", 0.0), self.faceted.get("there", 0.0))

    @property
    def sound(self) -> bool:
        """Nothing at all is wrong with it: asked before anything is told of a hundred thousand."""
        return not (
            self.open_edges or self.over_shared or self.duplicate or self.degenerate or self.inward or self.crossing
            or self.bad_normals or self.refused
        )  # fmt: skip

    def as_dict(self) -> dict[str, Any]:
        """Plain values, as JSON keeps them."""
        return asdict(self)

    @staticmethod
    def from_dict(values: Mapping[str, Any]) -> "Figures":
        """What `as_dict` gave, also after it went through JSON; figures this version does not know are passed over."""
        told = {name: values[name] for name in _NAMES if name in values}
        for name in ("box", "failed", "thin"):
            if name in told:
                told[name] = _tuples(told[name]) if told[name] else ()
        return Figures(**told)


_NAMES = [item.name for item in fields(Figures)]


def _tuples(value: Any) -> Any:
    return tuple(_tuples(item) for item in value) if isinstance(value, list | tuple) else value


def effects_in_all(known: Iterable[tuple[Figures | None, int]]) -> dict[str, float]:
    """What operations did, over figures and how often each counts; counts only, as lengths (`.off`) do not add up."""
    total: dict[str, float] = {}
    for figures, times in known:
        for name, effect in figures.effects.items() if figures else ():
            if not name.endswith(".off"):
                total[name] = total.get(name, 0.0) + effect * times
    return total
