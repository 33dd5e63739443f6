"""The plane that an entity is drawn in, and what is drawn there.

An entity's plane is its own: the arbitrary axis algorithm of the DXF
reference gives the axes from its extrusion direction, its elevation the
height.
"""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from ezdxf.math import OCS, Vec3
from numpy.typing import NDArray

from hemp_ladder.core.drawn.curves import Subpath
from hemp_ladder.core.drawn.shape import Shape, Stroke

#: Heights and ends that differ by less than this share of the numbers themselves are the same.
SAME = 1e-9
#: An extrusion direction and an elevation along it.
Plane = tuple[float, float, float, float]


@lru_cache(maxsize=1024)
def frame_of(plane: Plane) -> NDArray[np.float64]:
    """4 x 4 from the plane to the coordinates around it; not to be changed."""
    ocs = OCS(Vec3(plane[:3]))
    frame = np.eye(4)
    if ocs.transform:
        frame[:3, 0], frame[:3, 1], frame[:3, 2] = ocs.ux.xyz, ocs.uy.xyz, ocs.uz.xyz
    frame[:3, 3] = frame[:3, 2] * plane[3]
    return frame


@dataclass(slots=True)
class Flat:
    """Subpaths in a plane, how high they are by themselves, and what they are."""

    plane: Plane
    paths: tuple[Subpath, ...]
    thickness: float = 0.0
    fill: bool = False
    rule: Any = "nonzero"
    width: float = 0.0

    @property
    def closed(self) -> bool:
        return bool(self.paths) and all(path.closed for path in self.paths)

    def shape(self) -> Shape:
        pen = Stroke(self.width, "miter", "butt", 10.0) if self.width > 0 else None
        return Shape(self.paths, self.rule, pen)


def plane_of(entity: Any, elevation: float) -> Plane:
    """The entity's own plane, at a height along its extrusion direction."""
    if not entity.dxf.hasattr("extrusion"):
        return level_plane(elevation)
    x, y, z = extrusion_of(entity).xyz
    return round(x, 12), round(y, 12), round(z, 12), float(elevation)


def extrusion_of(entity: Any) -> Vec3:
    """The direction that an entity says it is extruded in; up where it says one of no length, as the library takes it
    in entities that it checks."""
    found = Vec3(entity.dxf.get("extrusion", (0, 0, 1)))
    return Vec3(0, 0, 1) if found.magnitude <= 1e-9 else found


def thickness_of(entity: Any) -> float:
    """How far it is extruded, in drawing units; negative the other way."""
    # The library looks up what an entity may have before it says that it has none.
    return float(entity.dxf.thickness) if entity.dxf.hasattr("thickness") else 0.0


def level(heights: list[float], others: list[float]) -> bool:
    """Whether heights are all the same, for numbers as large as the others."""
    size = max((abs(v) for v in others), default=0.0)
    return max(heights) - min(heights) <= SAME * max(size, 1e-12)


def plane_through(points: NDArray[np.float64]) -> Plane | None:
    """The plane that all points lie in, facing up, or forward where it stands upright; None where there is none."""
    if len(points) < 2:
        return None
    middle = points.mean(axis=0)
    size = float(np.ptp(points, axis=0).max())
    if float(np.ptp(points[:, 2])) <= SAME * max(size, 1e-12):
        return level_plane(float(points[0, 2]))
    _, spread, axes = np.linalg.svd(points - middle)
    if len(spread) < 3 or spread[2] > 1e-7 * spread[0] or spread[1] <= 1e-7 * spread[0]:
        return None
    normal = axes[2] * (1 if tuple(axes[2][::-1]) > (0.0, 0.0, 0.0) else -1)
    x, y, z = (round(float(value), 12) for value in normal)
    return x, y, z, float(normal @ middle)


def level_plane(height: float) -> Plane:
    """The plane at a height of the drawing's own Z."""
    return 0.0, 0.0, 1.0, float(height)
