"""Which limit a part's facets come from: its chord error where curves are wide, the angle where they are tight."""

import numpy as np

from hemp_ladder.core.facet.patch import Patch
from hemp_ladder.core.mesh.triangles import cross, dot, lengths

#: A side that turns by less than this share of what its limit allows runs along a surface that is straight that way.
_STRAIGHT = 0.2


def by_limit(patch: Patch, chord: float, angle: float) -> dict[str, float]:
    """For facets within a chord error (source coordinates) and an angle (radians): `by_angle`, the share of the sides across
    curves that the angle decides, left out where nothing is curved.

    A side over which the surface turns by t, and which is l long in the direction it turns in, lies on an arc of radius
    l / 2 sin(t / 2). An arc of that radius may turn by 2 arccos(1 - chord / radius) for the chord error (sagitta of a
    circular arc): where that is more than the angle, the angle decides.
    """
    ends = patch.triangles
    one, two = ends.reshape(-1), np.roll(ends, -1, axis=1).reshape(-1)
    first, second = patch.normals[one].astype(np.float64), patch.normals[two].astype(np.float64)
    turn = np.arctan2(lengths(cross(first, second)), dot(first, second))
    some = turn > 1e-5
    turn, change = turn[some], (first - second)[some]
    long = np.abs(dot(patch.positions[one[some]] - patch.positions[two[some]], change)) / lengths(change)
    radius = long / (2 * np.sin(turn / 2))
    for_chord = 2 * np.arccos(np.clip(1 - chord / np.maximum(radius, 1e-300), -1, 1))
    across = turn > _STRAIGHT * np.minimum(for_chord, angle)
    if not across.any():
        return {}
    return {"by_angle": round(float((for_chord[across] > angle * (1 + 1e-9)).mean()), 4)}
