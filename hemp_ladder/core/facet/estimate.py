"""About how many triangles a shape will have, before any is made."""

import math
from collections.abc import Sequence

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.facet.longest import MOST

#: No face of a part that is so many chord errors large has more triangles than this many times that: a ball has.
_BALL = 5.0
#: A surface without a closed form is looked at in so many places each way.
_PLACES = 6
#: What is estimated may be off by this much.
_SLACK = 2.0


def refuse_too_many(shape: TopoDS_Shape, faces: Sequence[TopoDS_Face], chord: float, angle: float) -> None:
    """Raise SettingsError, with the estimate, for a chord error (source coordinates) and an angle (radians) that would give
    more triangles of one part than are made."""
    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box, False)
    if box.IsVoid():
        return
    size = math.sqrt(box.SquareExtent())
    if len(faces) * (_BALL * size / chord + 2 * (2 * math.pi / angle) ** 2) < MOST:
        return
    expected = sum(_of_face(face, chord, angle) for face in faces)
    if expected > _SLACK * MOST:
        raise SettingsError(
            f"So fine, this part would have about {_plain(expected)} triangles.",
            f"At most {MOST:,} are made of one: allow a larger chord error or angle.",
        )


def _plain(count: float) -> str:
    """To two figures, and in words where it is very large."""
    if count >= 1e9:
        return f"{count / 1e9:.2g} thousand million"
    return f"{float(f'{count:.2g}'):,.0f}"


def _of_face(face: TopoDS_Face, chord: float, angle: float) -> float:
    surface = BRepAdaptor_Surface(face, True)
    wide = surface.LastUParameter() - surface.FirstUParameter()
    high = surface.LastVParameter() - surface.FirstVParameter()
    kind = surface.GetType()
    if kind == GeomAbs_SurfaceType.GeomAbs_Plane:
        return 2.0
    if kind == GeomAbs_SurfaceType.GeomAbs_Cylinder:
        return 2 * wide / _step(surface.Cylinder().Radius(), chord, angle)
    if kind == GeomAbs_SurfaceType.GeomAbs_Cone:
        cone = surface.Cone()
        ends = (surface.FirstVParameter(), surface.LastVParameter())
        radius = max(abs(cone.RefRadius() + v * math.sin(cone.SemiAngle())) for v in ends)
        return 2 * wide / _step(radius, chord, angle)
    if kind == GeomAbs_SurfaceType.GeomAbs_Sphere:
        step = _step(surface.Sphere().Radius(), chord, angle)
        return 2 * (wide / step) * (high / step)
    if kind == GeomAbs_SurfaceType.GeomAbs_Torus:
        ring, radius = surface.Torus().MajorRadius(), surface.Torus().MinorRadius()
        return 2 * (wide / _step(ring + radius, chord, angle)) * (high / _step(radius, chord, angle))
    return _looked_at(surface, wide, high, chord, angle)


def _step(radius: float, chord: float, angle: float) -> float:
    """The angle of a segment (sagitta of a circular arc)."""
    return min(angle, 2 * math.acos(max(-1.0, 1 - min(chord / max(radius, 1e-300), 2.0)))) or 1e-9


def _looked_at(surface: BRepAdaptor_Surface, wide: float, high: float, chord: float, angle: float) -> float:
    """By how much it bends where it is looked at, each way."""
    point, u, v, uu, vv, uv = gp_Pnt(), gp_Vec(), gp_Vec(), gp_Vec(), gp_Vec(), gp_Vec()
    across = along = 0.0
    for a in np.linspace(0.02, 0.98, _PLACES):
        for b in np.linspace(0.02, 0.98, _PLACES):
            at = surface.FirstUParameter() + a * wide, surface.FirstVParameter() + b * high
            surface.D2(*at, point, u, v, uu, vv, uv)
            normal = u.Crossed(v)
            if normal.Magnitude() < 1e-30:
                continue
            normal.Normalize()
            for number, (first, second, span) in enumerate(((u, uu, wide), (v, vv, high))):
                bend = abs(second.Dot(normal))
                steps = span * max(math.sqrt(bend / (8 * chord)), bend / max(first.Magnitude(), 1e-30) / angle)
                across, along = (max(across, steps), along) if number == 0 else (across, max(along, steps))
    return 2 * max(across, 1.0) * max(along, 1.0)
