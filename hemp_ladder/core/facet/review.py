"""What is noticed about the triangles of a climb."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Protocol

from hemp_ladder.core.facet import MeshRequest
from hemp_ladder.core.findings import Finding, Offer, finding, names
from hemp_ladder.core.fit import Fitted
from hemp_ladder.core.units import say_metric


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

    @property
    def thin(self) -> Sequence[Sequence[float]]:
        """Thin places, (x, y, width) each."""


#: Common practice: scenes of 50,000 triangles trouble nobody, one to two million slow a workstation.
DENSE_TRIANGLES, DENSE_SHARE = 250_000, 0.25


def review_meshes(
    fitted: Fitted,
    requests: Sequence[MeshRequest | None],
    flipped: Sequence[bool],
    meshes: Mapping[str, Figures],
    times: Sequence[int],
) -> list[Finding]:
    """Very dense parts, faces and parts without triangles, and parts that are inside out, in the model's order.

    `times` counts each part's placements.

    Parts whose mesh is not there yet are passed over.
    """
    model = fitted.model
    found: list[Finding] = [*_dense(fitted, requests, times, meshes), *_thin(fitted, requests, meshes, times)]
    for index, (part, request, turned) in enumerate(zip(model.parts, requests, flipped, strict=True)):
        mesh = meshes.get(request.key) if request else None
        if request is None or mesh is None:
            continue
        if not mesh.count and (part.cut or part.drawn) and not mesh.failed_count:
            continue  # nothing of it lies inside the polygon, or nothing of it is left by other shapes
        if not mesh.count:
            message = f"{part.ref}: none of its faces could be meshed."
            found.append(finding("failed-part", part.ref, message, parts=[index]))
            continue
        if mesh.failed_count:
            number = "1 face" if mesh.failed_count == 1 else f"{mesh.failed_count} faces"
            message = f"{part.ref}: {number} of {request.faces} could not be meshed."
            found.append(finding("failed-face", part.ref, message, parts=[index]))
        if mesh.watertight and mesh.inside_out != turned:
            message, offer = f"{part.ref}: its surface faces inward.", Offer("Turn it", "flip")
            found.append(finding("inside-out", part.ref, message, parts=[index], offers=[offer]))
    return found


def _thin(
    fitted: Fitted, requests: Sequence[MeshRequest | None], meshes: Mapping[str, Figures], times: Sequence[int]
) -> Iterator[Finding]:
    """All drawn parts with walls thinner than the nozzle, in one finding."""
    parts, places, thinnest, nozzle = [], 0, float("inf"), 0.0
    for index, request in enumerate(requests):
        mesh = meshes.get(request.key) if request and request.solid and times[index] else None
        if mesh is None or not mesh.thin or request is None or request.solid is None:
            continue
        scale = float(fitted.scale_of(index))
        parts.append(index)
        places += len(mesh.thin)
        thinnest = min(thinnest, min(width for _, _, width in mesh.thin) * scale)
        nozzle = max(nozzle, request.solid.nozzle * scale)
    if parts:
        refs = names([fitted.model.parts[i].ref for i in parts])
        many = "1 place is" if places == 1 else f"{places:,} places are"
        yield finding(
            "thin-wall", refs,
            f"{many} thinner than {say_metric(nozzle)}, the thinnest {say_metric(thinnest)}: {refs}.",
            parts=parts, offers=[Offer(f"Make them {say_metric(nozzle)} wide", "thicken")],
        )  # fmt: skip


def _dense(
    fitted: Fitted, requests: Sequence[MeshRequest | None], times: Sequence[int], meshes: Mapping[str, Figures]
) -> Iterator[Finding]:
    """Parts with a large share of a job that is large; only once all meshes are there, or shares mean nothing."""
    wanted = [(i, r) for i, r in enumerate(requests) if r is not None and times[i]]
    if not all(request.key in meshes for _, request in wanted):
        return
    weights = {i: meshes[request.key].count * times[i] for i, request in wanted}
    whole = sum(weights.values())
    for index, request in wanted:
        weight = weights[index]
        if weight <= DENSE_TRIANGLES or weight <= DENSE_SHARE * whole or len(wanted) < 4:
            continue
        part = fitted.model.parts[index]
        coarser = min(4 * request.chord * float(fitted.scale_of(index)), 1.0)
        yield finding(
            "dense-part", part.ref,
            f"{part.ref}: {weight:,} triangles over its placements, {100 * weight / whole:.0f}% of the job.",
            parts=[index], offers=[Offer(f"Chord error {say_metric(coarser)}", "chord", {"metres": coarser})],
        )  # fmt: skip
