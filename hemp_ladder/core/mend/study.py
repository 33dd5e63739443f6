"""Study: all that is to be shown of one part at Mend, worked out once a mesh."""

import base64
import json
from dataclasses import asdict
from typing import Any

import numpy as np

from hemp_ladder.core.mend.curve import weld_curve
from hemp_ladder.core.mend.flaws import flaws_of
from hemp_ladder.core.mend.shells.loose import shells_of
from hemp_ladder.core.mesh.mesh import Mesh

#: Shells that are told one by one.
_SHELLS = 1000


def study(mesh: Mesh) -> bytes:
    """As JSON: shells, the largest first, and flaws by kind as base64 of 32 bit numbers around `origin`, two points of
    three each edge; triangles that cross others, None where that was not looked for."""
    low, high = mesh.positions.min(axis=0), mesh.positions.max(axis=0)
    origin = (low + high) / 2
    flaws = flaws_of(mesh)
    lines = {
        kind: base64.b64encode(np.ascontiguousarray(points - origin, "<f4").tobytes()).decode()
        for kind, points in flaws.items()
    }
    told: dict[str, Any] = {
        "origin": origin.tolist(), "flaws": lines, "shells": [asdict(shell) for shell in shells_of(mesh, _SHELLS)],
        "crossing": len(flaws.get("crossing", ())) // 6,
    }  # fmt: skip
    return json.dumps(told).encode()


def study_curve(mesh: Mesh) -> bytes:
    """The weld curve as JSON, in source coordinates."""
    return json.dumps(asdict(weld_curve(mesh))).encode()
