"""The kernel's mesher, and how it is called.

How the kernel's mesher behaves decides how it is called (8.0, measured on
sphere, cylinder, cone, torus and the splines of the demo):

* It walks every edge curve at half the deflection it is given. Given the
  chord error e, a circle gets 1.41 times the segments it needs; given 2e,
  exactly pi / arccos(1 - e/r). Along splines its steps are up to a tenth too
  long, so where there are any it is given 1.8e.
* It halves the angle too: given a, a circle gets 4 pi / a segments; given
  2a, exactly 2 pi / a, and a torus the same both ways. On a sphere its grid
  then turns by up to twice the angle at a side, so refining holds a sphere to
  the height of an arc of that angle as well.
* Its own control of the surface's deflection inserts points one by one until
  it is satisfied. Held to e, that costs nine tenths of the time on splines
  and gives five to ten times the triangles needed (a bar of radius 22 mm
  along a spline at 0.5 mm: 18,918 in 0.34 s), and still does not keep e: a
  sphere is off by 2.06e at a few slivers.
* On surfaces of revolution it costs next to nothing when held loosely, and
  gives the triangles a better start: vases along a spline end with a sixth
  fewer triangles in two thirds of the time. On spline surfaces the angle
  makes it insert as many points as ever.

* Without that control, its grid inside spline faces follows the deflection
  asked for there: at 5e instead of 10e refining takes a seventh less time and
  gives 2% fewer triangles. (At 3e a bend hid inside one edge of a pipe.)

So it is asked for 2e along edges and 10e inside faces, or 5e without that
control, which is where there are spline surfaces; what is then off by more
than e is turned and split elsewhere (`refine`).
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.IMeshTools import IMeshTools_MeshAlgoType, IMeshTools_Parameters
from OCP.TopoDS import TopoDS_Compound, TopoDS_Face, TopoDS_Shape

from hemp_ladder.core.facet.edges import EdgesOff, edges_off

_WATSON = IMeshTools_MeshAlgoType.IMeshTools_MeshAlgoType_Watson
_DELABELLA = IMeshTools_MeshAlgoType.IMeshTools_MeshAlgoType_Delabella
_TORUS = GeomAbs_SurfaceType.GeomAbs_Torus
_TURNED = GeomAbs_SurfaceType.GeomAbs_SurfaceOfRevolution
#: Along a spline the kernel's steps stray now and then, whatever it is asked for; the next finer ones seldom do.
FINER = (1.2, 0.8)
#: What is found by samples may be so many times the chord error before another mesh is tried.
SAMPLED = 1.02
_SPLINES = {GeomAbs_SurfaceType.GeomAbs_BSplineSurface, GeomAbs_SurfaceType.GeomAbs_BezierSurface}
_PLAIN = {
    GeomAbs_SurfaceType.GeomAbs_Plane,
    GeomAbs_SurfaceType.GeomAbs_Cylinder,
    GeomAbs_SurfaceType.GeomAbs_Cone,
    GeomAbs_SurfaceType.GeomAbs_Sphere,
    GeomAbs_SurfaceType.GeomAbs_Torus,
}


@dataclass(frozen=True)
class Wanted:
    """A shape to mesh: the kernel's, within a chord error (source coordinates) and an angle (radians).

    `careful` takes the kernel's slower algorithm with its own control;
    `edges` is the deflection asked for along edges, as a multiple of `chord`;
    `owners` gives for each face the number it is to be counted under.
    """

    shape: TopoDS_Shape
    chord: float
    angle: float
    careful: bool = False
    edges: float | None = None
    owners: NDArray[np.int32] | None = None


def by_kernel(wanted: Wanted, faces: list[TopoDS_Face]) -> EdgesOff:
    """Have the kernel hang triangles on the shape's faces, and how far edges are from their sides. Where they stray, finer
    ones are asked for at once: faces cannot be refined to anything along such a border."""
    off = _asked(wanted, faces)
    if wanted.edges is None and not wanted.careful:
        for edges in FINER:
            if off.largest <= wanted.chord * SAMPLED:
                break
            finer = _asked(replace(wanted, edges=edges), faces)
            if finer.samples < off.samples:
                # Faces were lost over it.
                return _asked(wanted, faces)
            off = finer
    return off


def _asked(wanted: Wanted, faces: list[TopoDS_Face]) -> EdgesOff:
    """Have the kernel hang triangles on the shape's faces as asked, and how far edges are from their sides."""
    shape = wanted.shape
    BRepTools.Clean_s(shape)
    kinds = {BRepAdaptor_Surface(face, False).GetType() for face in faces}
    if _TORUS in kinds and wanted.edges is None:
        # The kernel keeps edges that have their points: those of tori first, finer.
        tori = TopoDS_Compound()
        BRep_Builder().MakeCompound(tori)
        for face in faces:
            if BRepAdaptor_Surface(face, False).GetType() == _TORUS:
                BRep_Builder().Add(tori, face)
        _by_mesher(tori, replace(wanted, edges=1.0), {_TORUS})
    _by_mesher(shape, wanted, kinds)
    return edges_off(faces)


def _by_mesher(shape: TopoDS_Shape, wanted: Wanted, kinds: set[GeomAbs_SurfaceType]) -> None:
    chord = wanted.chord
    settings = IMeshTools_Parameters()
    settings.Deflection = chord * (wanted.edges or (2 if kinds <= _PLAIN else 1.8))
    controlled = wanted.careful or (_TURNED in kinds and kinds.isdisjoint(_SPLINES))
    settings.DeflectionInterior = chord * (1 if wanted.careful else 10 if controlled else 5)
    settings.ForceFaceDeflection = True
    settings.ControlSurfaceDeflection = controlled
    settings.MeshAlgo = _WATSON if wanted.careful else _DELABELLA
    settings.Angle = 2 * wanted.angle
    settings.AngleInterior = wanted.angle
    settings.MinSize = min(chord * 0.1, 1e-3)
    settings.Relative = False
    settings.InParallel = False
    BRepMesh_IncrementalMesh(shape, settings)
