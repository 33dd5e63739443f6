"""Facet: every part becomes triangles once, whatever its number of placements."""

from dataclasses import dataclass

from hemp_ladder.core.facet.settings import PURPOSES, Absolute, FacetOverride, FacetSettings, Relative
from hemp_ladder.core.fit import Fitted
from hemp_ladder.core.keys import mesh_key
from hemp_ladder.core.model import Part

__all__ = [
    "PURPOSES",
    "Absolute",
    "FacetOverride",
    "FacetSettings",
    "MeshRequest",
    "Relative",
    "climb_facet",
]


@dataclass(frozen=True, order=True)
class MeshRequest:
    """One part to mesh: under which key, from which exact shape, how finely (source coordinates)."""

    key: str
    part_key: str
    chord: float
    angle: float
    faces: int


def climb_facet(fitted: Fitted, settings: FacetSettings) -> list[MeshRequest | None]:
    """For each part of the model, the mesh it needs; None where it has no surface.

    Parts of equal geometry under equal settings share one request.
    """
    scale = float(fitted.scale)
    return [_request(part, settings, scale) for part in fitted.model.parts]


def _request(part: Part, settings: FacetSettings, scale: float) -> MeshRequest | None:
    if not part.faces:
        return None
    chord, angle = settings.in_force(part.ref)
    length = chord.share * part.size if isinstance(chord, Relative) else chord.metres / scale
    # A part flatter than rounding has size 0; any positive chord error will do for it.
    length = max(length, part.size * 1e-6, 1e-9)
    return MeshRequest(mesh_key(part.key, length, angle), part.key, length, angle, part.faces)
