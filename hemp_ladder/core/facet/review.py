"""What is noticed about the triangles of a climb."""

from collections.abc import Mapping, Sequence
from typing import Protocol

from hemp_ladder.core.facet import MeshRequest
from hemp_ladder.core.findings import Finding, finding
from hemp_ladder.core.model import Model


class Figures(Protocol):
    """What is to be known of a mesh without having its triangles."""

    @property
    def count(self) -> int:
        """Of triangles."""

    @property
    def failed_count(self) -> int:
        """Of faces that gave no triangles though they should."""

    @property
    def watertight(self) -> bool: ...

    @property
    def inside_out(self) -> bool: ...


def review_meshes(
    model: Model, requests: Sequence[MeshRequest | None], flipped: Sequence[bool], meshes: Mapping[str, Figures]
) -> list[Finding]:
    """Faces and parts without triangles, and parts that are inside out, in the model's order.

    Parts whose mesh is not there yet are passed over.
    """
    found: list[Finding] = []
    for part, request, turned in zip(model.parts, requests, flipped, strict=True):
        mesh = meshes.get(request.key) if request else None
        if request is None or mesh is None:
            continue
        if not mesh.count and part.cut and not mesh.failed_count:
            continue  # nothing of it lies inside the polygon
        if not mesh.count:
            found.append(finding("failed-part", part.ref, f"{part.ref}: none of its faces could be meshed."))
            continue
        if mesh.failed_count:
            number = "1 face" if mesh.failed_count == 1 else f"{mesh.failed_count} faces"
            found.append(
                finding("failed-face", part.ref, f"{part.ref}: {number} of {request.faces} could not be meshed.")
            )
        if mesh.watertight and mesh.inside_out != turned:
            found.append(finding("inside-out", part.ref, f"{part.ref}: its surface faces inward."))
    return found
