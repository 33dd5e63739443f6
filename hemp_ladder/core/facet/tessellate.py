"""Triangles of one part from its exact shape, within a stated distance of it.

The kernel is asked for few triangles (`mesher`), and what is then off by more
than the chord error is turned and split here, there and nowhere else
(`refine`): 1,648 triangles in 0.1 s for a bar along a spline that takes the
kernel 18,918 in 0.34 s, and the error is kept.
"""

import time
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray
from OCP.ShapeFix import ShapeFix_Shape
from OCP.ShapeUpgrade import ShapeUpgrade_ShapeDivideClosed
from OCP.TopExp import TopExp

from hemp_ladder.core.facet.edges import EdgesOff
from hemp_ladder.core.facet.estimate import refuse_too_many
from hemp_ladder.core.facet.grids import with_grids
from hemp_ladder.core.facet.harvest import patch_of
from hemp_ladder.core.facet.limits import by_limit
from hemp_ladder.core.facet.measured import measured
from hemp_ladder.core.facet.mesher import FINER, SAMPLED, Wanted, by_kernel
from hemp_ladder.core.facet.patch import Floats, Patch, apart, joined
from hemp_ladder.core.facet.refine import refine, with_free
from hemp_ladder.core.facet.strips import with_strips
from hemp_ladder.core.facet.surface import TrueSurface
from hemp_ladder.core.kernel.rounding import rounded
from hemp_ladder.core.kernel.shapes import FACE, ShapeMap, faces_of, open_edges, read_shape
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import facing_as_wound, weld_indices, weld_tolerance

#: Refining looks at sides and middles of triangles. Where points between them are found off, it goes on: the first time to
#: this share of what the part seems to need, and then to this share of what it was held to. The kernel's own control, to
#: which it would come in the end, makes four times the triangles of such a part.
_MARGIN, _TIGHTER = 0.95, (1.0, 0.75)
#: What is off by more than so many times what it may be has another fault.
_NEARLY = 1.5


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
        return not mesh.figures.failed and mesh.figures.deviation <= chord * SAMPLED

    for edges in FINER:
        if not shut or mesh.figures.failed or holds():
            break
        mesh = better(mesh, _mesh([replace(wanted, edges=edges)])[0])
    if shut and holds():
        return mesh
    for careful in (None, *FINER):
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
        edges.append(by_kernel(item, own))
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
    ends = np.cumsum([0, *counts]).tolist()
    parts = [
        _Part(item, patch, own, list(surfaces[start:end]), chords[start:end], failed)
        for item, patch, own, failed, start, end in zip(wanted, patches, edges, lost, ends[:-1], ends[1:], strict=True)
    ]
    _refine(parts)
    for most in _TIGHTER:
        strays = [part for part in parts if part.strays()]
        for part in strays:
            part.chords = part.chords * min(most, _MARGIN * part.wanted.chord / part.mesh.figures.deviation)
        _refine(strays)
    made = []
    for part in parts:
        told = {**part.mesh.figures.faceted} | by_limit(part.patch, part.wanted.chord, part.wanted.angle)
        made.append(replace(part.mesh, figures=replace(part.mesh.figures, faceted=told)))
    # What was done for all together is shared by how many triangles each has.
    share = (time.process_time() - begun - sum(took)) / max(1, sum(len(mesh.triangles) for mesh in made))
    return [
        replace(mesh, figures=replace(mesh.figures, seconds=own + share * len(mesh.triangles)))
        for mesh, own in zip(made, took, strict=True)
    ]


@dataclass
class _Part:
    """A part on its way: what is wanted, its triangles with the faces' surfaces and what each is held to, and the mesh."""

    wanted: Wanted
    patch: Patch
    edges: EdgesOff
    surfaces: list[TrueSurface]
    chords: Floats
    lost: list[int]
    mesh: Mesh = field(default_factory=lambda: Mesh.nothing(0))

    def strays(self) -> bool:
        """Whether points were found a little too far off, where its edges and all that refining looks at hold."""
        most = self.wanted.chord * SAMPLED
        told = self.mesh.figures
        return max(self.edges.largest, told.off_by) <= most < told.deviation <= _NEARLY * most


def _refine(parts: Sequence[_Part]) -> None:
    """Split triangles of all parts that stray, and measure what comes of it."""
    if not parts:
        return
    counts = [len(part.surfaces) for part in parts]
    surfaces = [surface for part in parts for surface in part.surfaces]
    chords = np.concatenate([part.chords for part in parts])
    refined, off_by = refine(joined([part.patch for part in parts], counts), surfaces, chords)
    ends = np.cumsum(counts)[:-1]
    for part, patch, off in zip(parts, apart(refined, counts), np.split(off_by, ends), strict=True):
        part.patch = patch
        mesh = _gathered(part.wanted, patch, part.lost, off)
        told = measured(mesh, patch, part.surfaces, part.edges)
        part.mesh = replace(mesh, figures=replace(mesh.figures, faceted=told))


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
