"""Triangles of one part from its exact shape, within a stated distance of it.

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
control, which is where there are spline surfaces, and what is then off by more than e is turned
and split here, there and nowhere else (`refine`): 1,648 triangles in 0.1 s
for the same bar, and e is kept.
"""

import time
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.IMeshTools import IMeshTools_MeshAlgoType, IMeshTools_Parameters
from OCP.ShapeFix import ShapeFix_Shape
from OCP.ShapeUpgrade import ShapeUpgrade_ShapeDivideClosed
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Compound, TopoDS_Face, TopoDS_Shape

from hemp_ladder.core.facet.edges import EdgesOff, edges_off
from hemp_ladder.core.facet.estimate import refuse_too_many
from hemp_ladder.core.facet.grids import with_grids
from hemp_ladder.core.facet.harvest import patch_of
from hemp_ladder.core.facet.limits import by_limit
from hemp_ladder.core.facet.measured import measured
from hemp_ladder.core.facet.patch import Floats, Patch, apart, joined
from hemp_ladder.core.facet.refine import refine, with_free
from hemp_ladder.core.facet.strips import with_strips
from hemp_ladder.core.facet.surface import TrueSurface
from hemp_ladder.core.kernel.rounding import rounded
from hemp_ladder.core.kernel.shapes import FACE, ShapeMap, faces_of, open_edges, read_shape
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import facing_as_wound, weld_indices, weld_tolerance

_WATSON = IMeshTools_MeshAlgoType.IMeshTools_MeshAlgoType_Watson
_DELABELLA = IMeshTools_MeshAlgoType.IMeshTools_MeshAlgoType_Delabella
_TORUS = GeomAbs_SurfaceType.GeomAbs_Torus
_TURNED = GeomAbs_SurfaceType.GeomAbs_SurfaceOfRevolution
#: Along a spline the kernel's steps stray now and then, whatever it is asked for; the next finer ones seldom do.
_FINER = (1.2, 0.8)
#: What is found by samples may be so many times the chord error before another mesh is tried.
_SAMPLED = 1.02
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


def tessellate(data: bytes, chord: float, angle: float) -> Mesh:
    """Mesh the exact shape in `data` within `chord` (source coordinates) and `angle` (radians)."""
    return tessellate_all([(data, chord, angle)])[0]


def tessellate_all(wanted: Sequence[tuple[bytes, float, float]], rounding: Sequence[float] = ()) -> list[Mesh]:
    """Mesh exact shapes, given as (bytes, chord error, angle), each as it would be alone. `rounding` has for each the
    radius by which its sharp convex edges are rounded before, 0 for not.

    Where faces fail, a shape is closed and its triangles are not, or the
    chord error is not kept, finer edges are tried, and then the kernel's
    careful algorithm; where that does not help either, closed faces are cut
    in two, and the shape is healed. The best is kept.

    Raises SettingsError, before anything is made, for what would be too many triangles.
    """
    asked = [Wanted(read_shape(data), chord, angle) for data, chord, angle in wanted]
    for item in asked:
        refuse_too_many(item.shape, faces_of(item.shape), item.chord, item.angle)
    effects: list[dict[str, float]] = [{} for _ in asked]
    for number, radius in enumerate(rounding):
        if radius > 0:
            made = rounded(asked[number].shape, radius)
            asked[number] = replace(asked[number], shape=made.shape, owners=made.owners)
            effects[number] = {"round": float(made.rounded), "round.sharp": float(made.sharp)}
    settled = [_settle(item, mesh) for item, mesh in zip(asked, _mesh(asked), strict=True)]
    return [
        replace(mesh, figures=replace(mesh.figures, effects=told)) if told else mesh
        for mesh, told in zip(settled, effects, strict=True)
    ]


def _settle(wanted: Wanted, mesh: Mesh) -> Mesh:
    """The mesh, or a better one where it has a fault."""
    shape, chord = wanted.shape, wanted.chord
    # Of a sheet that is open all the same, finer edges are more open ones.
    sheet = not mesh.watertight and open_edges(shape) > 0
    shut = mesh.watertight or sheet
    better = partial(_better, chord=chord, sheet=sheet)

    def holds() -> bool:
        return not mesh.figures.failed and mesh.figures.deviation <= chord * _SAMPLED

    for edges in _FINER:
        if not shut or mesh.figures.failed or holds():
            break
        mesh = better(mesh, _mesh([replace(wanted, edges=edges)])[0])
    if shut and holds():
        return mesh
    for careful in (None, *_FINER):
        mesh = better(mesh, _mesh([replace(wanted, careful=True, edges=careful)])[0])
        if mesh.figures.failed or holds():
            break
    if mesh.figures.failed:
        mesh = better(mesh, _mesh_divided(wanted))
    if ((mesh.watertight or shut) and not mesh.figures.failed) or wanted.owners is not None:
        return mesh
    healer = ShapeFix_Shape(shape)
    healer.Perform()
    healed = healer.Shape()
    if len(faces_of(healed)) != mesh.faces.count:
        return mesh
    (repaired,) = _mesh([replace(wanted, shape=healed, careful=True)])
    return better(mesh, replace(repaired, figures=replace(repaired.figures, healed=True)))


def _mesh_divided(wanted: Wanted) -> Mesh:
    """Mesh with every closed face cut in two: some that run once around beat the kernel's mesher, their halves do not."""
    divider = ShapeUpgrade_ShapeDivideClosed(wanted.shape)
    divider.SetNbSplitPoints(1)
    divider.Perform()
    halves, pieces = divider.Result(), ShapeMap()
    TopExp.MapShapes_s(halves, FACE, pieces)
    owners = np.zeros(pieces.Extent(), dtype=np.int32)
    for number, face in enumerate(faces_of(wanted.shape)):
        for piece in faces_of(divider.GetContext().Apply(face)):
            owners[pieces.FindIndex(piece) - 1] = number if wanted.owners is None else wanted.owners[number]
    return _mesh([replace(wanted, shape=halves, owners=owners)])[0]


def _better(first: Mesh, second: Mesh, chord: float, sheet: bool) -> Mesh:
    faults = [
        (len(m.figures.failed), 0 if sheet else m.open_edges, max(m.figures.deviation, chord)) for m in (first, second)
    ]
    return second if faults[1] < faults[0] else first


def _mesh(wanted: Sequence[Wanted]) -> list[Mesh]:
    """Mesh from nothing: each by the kernel, then all refined together."""
    patches: list[Patch] = []
    surfaces: list[TrueSurface] = []
    lost: list[list[int]] = []
    edges: list[EdgesOff] = []
    counts: list[int] = []
    took: list[float] = []
    begun = time.process_time()
    for item in wanted:
        start = time.process_time()
        own = faces_of(item.shape)
        edges.append(_by_kernel(item, own))
        patch, failed = patch_of(own)
        known = [TrueSurface(face) for face in own]
        patches.append(with_grids(with_strips(with_free(patch, known), known), known, item.chord, item.angle))
        surfaces += known
        counts.append(len(own))
        lost.append(failed)
        took.append(time.process_time() - start)
    chords = np.repeat([item.chord for item in wanted], counts)
    arcs = np.repeat([1 - np.cos(item.angle / 2) for item in wanted], counts)
    chords = np.minimum(chords, arcs * [surface.ball or np.inf for surface in surfaces])
    refined, off_by = refine(joined(patches, counts), surfaces, chords)
    ends = np.cumsum([0, *counts]).tolist()
    runs = [slice(*ends[number : number + 2]) for number in range(len(wanted))]
    made = []
    for item, patch, run, failed, off in zip(wanted, apart(refined, counts), runs, lost, edges, strict=True):
        mesh = _gathered(item, patch, failed, off_by[run])
        told = measured(mesh, patch, surfaces[run], off)
        told |= by_limit(patch, item.chord, item.angle)
        made.append(replace(mesh, figures=replace(mesh.figures, faceted=told)))
    # What was done for all together is shared by how many triangles each has.
    share = (time.process_time() - begun - sum(took)) / max(1, sum(len(mesh.triangles) for mesh in made))
    return [
        replace(mesh, figures=replace(mesh.figures, seconds=own + share * len(mesh.triangles)))
        for mesh, own in zip(made, took, strict=True)
    ]


def _by_kernel(wanted: Wanted, faces: list[TopoDS_Face]) -> EdgesOff:
    """Have the kernel hang triangles on the shape's faces, and how far edges are from their sides. Where they stray, finer
    ones are asked for at once: faces cannot be refined to anything along such a border."""
    off = _asked(wanted, faces)
    if wanted.edges is None and not wanted.careful:
        for edges in _FINER:
            if off.largest <= wanted.chord * _SAMPLED:
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


def _gathered(wanted: Wanted, patch: Patch, failed: list[int], off_by: Floats) -> Mesh:
    """A part's mesh from its refined patch, triangles face by face."""
    owners = np.arange(len(off_by), dtype=np.int32) if wanted.owners is None else wanted.owners
    spots, corners = _joined(patch.positions), patch.triangles
    # Where two corners fell into one place there is nothing to see.
    same = [(spots[corners[:, k]] == spots[corners[:, k - 1]]).all(axis=1) for k in range(3)]
    corners = corners[~np.any(same, axis=0)] if len(corners) else corners
    of_triangle = owners[patch.face[corners[:, 0]]]
    order = np.argsort(of_triangle, kind="stable")
    starts = np.searchsorted(of_triangle[order], np.arange(owners.max(initial=-1) + 2))
    lost = tuple(sorted({int(owners[number]) for number in failed}))
    positions, normals, triangles = facing_as_wound(spots, patch.normals, corners[order])
    return Mesh.of(positions, normals, triangles, starts, Figures(off_by=float(off_by.max(initial=0)), failed=lost))


def _joined(positions: NDArray[np.float64]) -> NDArray[np.float64]:
    """Give neighbouring faces' border points the very same numbers, so that no rounding opens a crack."""
    if not len(positions):
        return positions
    welded = weld_indices(positions, weld_tolerance(positions))
    first = np.zeros(int(welded.max()) + 1, dtype=np.int64)
    first[welded[::-1]] = np.arange(len(positions))[::-1]
    return positions[first[welded]]
