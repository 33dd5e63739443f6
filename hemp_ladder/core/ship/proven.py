"""How far what ships lies from the exact shapes it was made of, as it was measured."""

from typing import Any

from hemp_ladder.core.climb import Result
from hemp_ladder.core.facet.gauge import gauged


def facets_told(result: Result) -> dict[str, Any]:
    """What was measured of the facets of a result, in metres: the largest distance from what is exact, either way, and the
    part; no farther than `bound` where that is known of every part."""
    worst, where, samples = 0.0, None, 0
    slender = triangles = 0
    bounds: list[float | None] = []
    for part, chain in enumerate(result.chains):
        figures = result.figures.get(chain.key) if chain is not None and result.times[part] else None
        if figures is not None:
            slender += figures.slender * result.times[part]
            triangles += figures.triangles * result.times[part]
        if chain is None or figures is None or chain.first.fineness is None:
            continue
        scale = float(result.fitted.scale_of(part))
        told = gauged(figures)
        samples += int(told.get("samples", 0))
        bounds.append(told["bound"] * scale if "bound" in told else None)
        if told["off"] * scale >= worst:
            worst, where = told["off"] * scale, result.model.parts[part].label
    known = [item for item in bounds if item is not None]
    report: dict[str, Any] = {
        "off": worst, "worst": where, "samples": samples,
        "under_5_degrees": round(slender / triangles, 4) if triangles else 0.0,
    }  # fmt: skip
    if known and len(known) == len(bounds):
        report["bound"] = max(known)
    return report
