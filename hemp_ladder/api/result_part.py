"""One part of a result: how it is made, and what was measured of it."""

import math
from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.api import trimming
from hemp_ladder.api.result_views import PartResult
from hemp_ladder.core.climb import Plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.facet.settings import turning_radius
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.store.meshes import Stored

#: What is wrong with triangles, by the names of the remedies, as the figures have it.
_FLAWS = {
    "holes": "holes", "against": "against", "over-shared": "over_shared", "t-joints": "t_joints",
    "duplicate": "duplicate", "degenerate": "degenerate", "crossing": "crossing", "inward": "inward",
}  # fmt: skip


#: Of those, what may be as somebody wanted it.
MEANT = frozenset({"holes", "crossing", "over-shared"})


def _flaws(known: Figures) -> dict[str, int]:
    if known.sound:
        return {}
    found = {name: getattr(known, field) or 0 for name, field in _FLAWS.items()}
    found["normals"] = sum(known.bad_normals.get(name, 0) for name in ("zero", "against"))
    return {name: count for name, count in found.items() if count}


def part_result(
    index: int, decisions: Decisions, now: Plan, there: Mapping[str, Stored], figures: Mapping[str, Figures],
    failed: Mapping[str, str], before: Stored | None, pixels: NDArray[np.float64] | None,
) -> PartResult:  # fmt: skip
    """A part by index, as far as it is made."""
    chain = now.chains[index]
    known = figures.get(chain.key) if chain else None
    scale = float(now.fitted.scale_of(index))
    chord, angle = (chain.first.fineness if chain else None) or (0.0, 0.0)
    values: dict[str, Any] = {}
    if chain and known is not None:
        values = {
            "pack": there[chain.key].pack if known.triangles else None, "triangles": known.triangles,
            "vertices": known.vertices, **_measured(known, scale), "area": known.area * scale**2,
            "watertight": known.watertight, "inside_out": known.inside_out, "failed_faces": len(known.failed),
            "flaws": _flaws(known), "shells": known.shells, "slender": known.slender,
            "volume": known.volume * scale**3 * (-1 if now.flipped[index] else 1), "bad_normals": dict(known.bad_normals),
            "uncounted": chain.first.faulty and known.crossing is None,
            "effects": {name: value for name, value in known.effects.items() if value},
            **_trimmed(index, known, scale, pixels),
        }  # fmt: skip
    return PartResult(
        mesh=chain.key if chain else None,
        mesh_before=before.key if before else None,
        pack_before=before.pack if before and before.figures.triangles else None,
        triangles_before=before.figures.triangles if before else None,
        chord=chord * scale, degrees=float(np.degrees(angle)),
        facet_by=list(now.held.facet.get(index, ())), mend_by=list(now.held.mend.get(index, ())),
        trim_by=list(now.held.trim.get(index, ())),
        failure=failed.get(chain.key) if chain else None, flipped=now.flipped[index],
        turning=turning_radius(chord * scale, float(np.degrees(angle))) if chord else 0.0,
        sides=_sides(now.model.parts[index].box, scale), **values,
    )  # fmt: skip


def _measured(known: Figures, scale: float) -> dict[str, Any]:
    bound = known.faceted.get("bound")
    off = known.deviation + known.effects.get("shortest.off", 0.0)
    told = {
        "off_by": off * scale,
        "samples": int(known.faceted.get("samples", 0)),
        "by_angle": known.faceted.get("by_angle"),
    }
    return told if bound is None else {**told, "bound": bound * scale}


def _sides(box: NDArray[np.float64], scale: float) -> list[float]:
    low, high = box
    sides = [float(b - a) * scale for a, b in zip(low.tolist(), high.tolist(), strict=True)]
    return sorted((side if math.isfinite(side) and side > 0 else 0.0 for side in sides), reverse=True)


def _trimmed(index: int, known: Figures, scale: float, pixels: NDArray[np.float64] | None) -> dict[str, Any]:
    if not known.trimmed:
        return {}
    off = trimming.apart(known) * scale
    wide = off * float(pixels[index]) if pixels is not None else None
    return {"before_trim": int(known.trimmed["triangles"]), "deviation": off, "pixels": wide}
