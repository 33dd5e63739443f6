"""What is noticed about the triangles of a climb."""

from collections.abc import Iterator, Mapping, Sequence

from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.drawn.step import Solidify
from hemp_ladder.core.findings import Finding, Offer, finding, names
from hemp_ladder.core.fit import Fitted
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.units import say_metric

#: Common practice: scenes of 50,000 triangles trouble nobody, one to two million slow a workstation.
DENSE_TRIANGLES, DENSE_SHARE = 250_000, 0.25
#: What is found by samples may be so many times the chord error before it is told.
OVER = 1.02


def review_meshes(
    fitted: Fitted,
    chains: Sequence[Chain | None],
    flipped: Sequence[bool],
    meshes: Mapping[str, Figures],
    times: Sequence[int],
    failed: Mapping[str, str] | None = None,
) -> list[Finding]:
    """Very dense parts, faces and parts without triangles, and parts that are inside out, in the model's order.

    `times` counts each part's placements; `failed` says why the meshes with these keys could not be made.

    Parts whose mesh is not there yet are passed over.
    """
    model = fitted.model
    found: list[Finding] = [
        *_dense(fitted, chains, times, meshes),
        *_thin(fitted, chains, meshes, times),
        *_over(fitted, chains, meshes, times),
    ]
    for index, (part, chain, turned) in enumerate(zip(model.parts, chains, flipped, strict=True)):
        if chain is not None and failed and chain.key in failed:
            found.append(finding("failed-part", part.label, f"{part.label}: {failed[chain.key]}", parts=[index]))
        mesh = meshes.get(chain.key) if chain else None
        if chain is None or mesh is None:
            continue
        lost = len(mesh.failed)
        if not mesh.triangles and (part.cut or part.drawn) and not lost:
            continue  # nothing of it lies inside the polygon, or nothing of it is left by other shapes
        if not mesh.triangles:
            message = f"{part.label}: none of its faces could be meshed."
            found.append(finding("failed-part", part.label, message, parts=[index]))
            continue
        if lost:
            number = "1 face" if lost == 1 else f"{lost} faces"
            message = f"{part.label}: {number} of {chain.faces} could not be meshed."
            found.append(finding("failed-face", part.label, message, parts=[index]))
        if mesh.watertight and mesh.inside_out != turned:
            message, offer = f"{part.label}: its surface faces inward.", Offer("Turn it", "flip", safe=True)
            found.append(finding("inside-out", part.label, message, parts=[index], offers=[offer]))
    return found


def _over(
    fitted: Fitted, chains: Sequence[Chain | None], meshes: Mapping[str, Figures], times: Sequence[int]
) -> Iterator[Finding]:
    """All parts that are farther off than their chord error allows, in one finding, the worst told."""
    parts: list[int] = []
    worst, how = 0.0, ""
    for index, chain in enumerate(chains):
        fine = chain.first.fineness if chain is not None and times[index] else None
        if chain is None or fine is None or (isinstance(chain.first, Solidify) and chain.first.solid.segments):
            continue
        mesh = meshes.get(chain.key)
        if mesh is None or mesh.deviation <= fine[0] * OVER:
            continue
        parts.append(index)
        if mesh.deviation / fine[0] > worst:
            scale = float(fitted.scale_of(index))
            worst = mesh.deviation / fine[0]
            how = f"{say_metric(mesh.deviation * scale)} where {say_metric(fine[0] * scale)} is asked"
    if parts:
        refs = names([fitted.model.parts[index].label for index in parts])
        many = "1 part lies" if len(parts) == 1 else f"{len(parts):,} parts lie"
        yield finding(
            "over-chord", refs, f"{many} farther from the exact shape than the chord error, by up to {how}: {refs}.",
            parts=parts, offers=[Offer("Half the chord error", "coarser", {"times": 0.5})],
        )  # fmt: skip


def _thin(
    fitted: Fitted, chains: Sequence[Chain | None], meshes: Mapping[str, Figures], times: Sequence[int]
) -> Iterator[Finding]:
    """All drawn parts with walls thinner than the nozzle, in one finding."""
    parts, places, thinnest, nozzle = [], 0, float("inf"), 0.0
    for index, chain in enumerate(chains):
        if chain is None or not times[index] or not isinstance(chain.first, Solidify):
            continue
        mesh = meshes.get(chain.key)
        if mesh is None or not mesh.thin:
            continue
        scale = float(fitted.scale_of(index))
        parts.append(index)
        places += len(mesh.thin)
        thinnest = min(thinnest, min(width for _, _, width in mesh.thin) * scale)
        nozzle = max(nozzle, chain.first.solid.nozzle * scale)
    if parts:
        refs = names([fitted.model.parts[i].label for i in parts])
        many = "1 place is" if places == 1 else f"{places:,} places are"
        yield finding(
            "thin-wall", refs,
            f"{many} thinner than {say_metric(nozzle)}, the thinnest {say_metric(thinnest)}: {refs}.",
            parts=parts, offers=[Offer(f"Make them {say_metric(nozzle)} wide", "thicken")],
        )  # fmt: skip


def _dense(
    fitted: Fitted, chains: Sequence[Chain | None], times: Sequence[int], meshes: Mapping[str, Figures]
) -> Iterator[Finding]:
    """Parts with a large share of a job that is large; only once all meshes are there, or shares mean nothing."""
    wanted = [(i, chain) for i, chain in enumerate(chains) if chain is not None and times[i]]
    if not all(chain.key in meshes for _, chain in wanted):
        return
    weights = {i: meshes[chain.key].triangles * times[i] for i, chain in wanted}
    whole = sum(weights.values())
    for index, chain in wanted:
        weight, fineness = weights[index], chain.first.fineness
        if fineness is None or weight <= DENSE_TRIANGLES or weight <= DENSE_SHARE * whole or len(wanted) < 4:
            continue
        part = fitted.model.parts[index]
        coarser = min(4 * fineness[0] * float(fitted.scale_of(index)), 1.0)
        yield finding(
            "dense-part", part.label,
            f"{part.label}: {weight:,} triangles over its placements, {100 * weight / whole:.0f}% of the job.",
            parts=[index], offers=[Offer(f"Chord error {say_metric(coarser)}", "chord", {"metres": coarser})],
        )  # fmt: skip
