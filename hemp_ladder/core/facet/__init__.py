"""Facet: every part becomes triangles once, whatever its number of placements."""

from collections.abc import Collection, Mapping
from dataclasses import astuple, dataclass
from typing import Any

from hemp_ladder.core.drawn.solid import Solid
from hemp_ladder.core.facet.settings import PURPOSES, Absolute, FacetOverride, FacetSettings, Relative
from hemp_ladder.core.fit import Fitted
from hemp_ladder.core.keys import mesh_key
from hemp_ladder.core.model import Cut, Part

__all__ = [
    "PURPOSES",
    "Absolute",
    "FacetOverride",
    "FacetSettings",
    "MeshRequest",
    "Relative",
    "climb_facet",
]


@dataclass(frozen=True)
class MeshRequest:
    """One part to mesh: under which key, from which exact shape, how finely (source coordinates), what cuts it,
    and what of a drawn part is solid."""

    key: str
    part_key: str
    chord: float
    angle: float
    faces: int
    cut: Cut | None = None
    solid: Solid | None = None

    def as_list(self) -> list[Any]:
        """For a queue that speaks JSON."""
        return [*list(astuple(self))[:-1], self.solid.as_list() if self.solid else None]

    @staticmethod
    def from_list(values: list[Any]) -> "MeshRequest":
        """What `as_list` gave, also after it went through JSON."""
        key, part_key, chord, angle, faces, cut, solid = values
        polygon = cut and tuple((x, y) for x, y in cut[2])
        piece = cut and Cut(cut[0], tuple(cut[1]), polygon)
        return MeshRequest(key, part_key, chord, angle, faces, piece, solid and Solid.from_list(solid))

    @property
    def shapes(self) -> list[str]:
        """Keys of the shapes that it is made from: the part's own first."""
        return [self.part_key, *(other.key for other in (self.solid.others if self.solid else ()))]


def climb_facet(
    fitted: Fitted,
    settings: FacetSettings,
    wanted: Collection[int] | None = None,
    solids: Mapping[int, Solid] | None = None,
) -> list[MeshRequest | None]:
    """For each part of the model, the mesh it needs; None where it has no surface, or is not among the wanted.

    Parts of equal geometry under equal settings share one request.
    """
    scales = [float(source.scale) for source in fitted.sources]
    owners = fitted.model.piece_of_part
    solids = solids or {}
    return [
        _request(part, settings, scales[owners[i]], solids.get(i)) if wanted is None or i in wanted else None
        for i, part in enumerate(fitted.model.parts)
    ]


def _request(part: Part, settings: FacetSettings, scale: float, solid: Solid | None) -> MeshRequest | None:
    if not part.faces or (part.drawn and solid is None):
        return None
    chord, angle = settings.in_force(part.decided_as)
    length = chord.share * part.size if isinstance(chord, Relative) else chord.metres / scale
    # A part flatter than rounding has size 0; any positive chord error will do for it.
    length = max(length, part.size * 1e-6, 1e-9)
    cut = astuple(part.cut)[1:] if part.cut else None
    key = mesh_key(part.key, length, angle, cut, solid and solid.as_list())
    return MeshRequest(key, part.key, length, angle, part.faces, part.cut, solid)
