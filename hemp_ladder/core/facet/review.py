"""What is noticed about the triangles of a climb."""

from hemp_ladder.core.climb import Result
from hemp_ladder.core.findings import Finding, finding


def review_meshes(result: Result) -> list[Finding]:
    """Faces and parts without triangles, and parts that are inside out, in the model's order."""
    found: list[Finding] = []
    for index, (part, request) in enumerate(zip(result.model.parts, result.requests, strict=True)):
        if request is None:
            continue
        mesh = result.meshes[request.key]
        if not len(mesh.triangles):
            found.append(finding("failed-part", part.ref, "None of its faces could be meshed."))
            continue
        if mesh.failed:
            verb = "face" if len(mesh.failed) == 1 else "faces"
            numbers = ", ".join(str(number + 1) for number in mesh.failed[:8])
            found.append(
                finding(
                    "failed-face", part.ref,
                    f"{len(mesh.failed)} {verb} of {request.faces} could not be meshed: number {numbers}.",
                )
            )  # fmt: skip
        if mesh.inside_out != result.flipped[index] and mesh.watertight:
            found.append(finding("inside-out", part.ref, "Its surface faces inward."))
    return found
