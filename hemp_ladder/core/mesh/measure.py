"""Measuring meshes before they go to another process; many small ones at once."""

from collections.abc import Sequence
from dataclasses import replace

from hemp_ladder.core.mesh.counts import counted
from hemp_ladder.core.mesh.mesh import Mesh

#: A mesh of more triangles than this is measured alone: together they would only take more memory.
_SMALL, _TOGETHER = 5000, 200_000
#: Half a second's worth of looking for crossings.
_LOOKED_AT = 100_000


def measure(meshes: Sequence[Mesh], suspect: Sequence[bool] = ()) -> list[Mesh]:
    """The same meshes with their figures complete: counts, box, and all that is wrong with them.

    Crossings are looked for in those that are suspected of any and are not large; else they stay uncounted.
    """
    found = dict(enumerate(meshes))
    for group in _groups(meshes):
        for number, mesh in zip(group, _counted([meshes[number] for number in group]), strict=True):
            found[number] = mesh
    crossed = dict(enumerate(suspect))
    return [_measured(found[number], crossed.get(number, False)) for number in range(len(meshes))]


def _groups(meshes: Sequence[Mesh]) -> list[list[int]]:
    """Which meshes are counted together, by their numbers; those without a triangle are not."""
    groups: list[list[int]] = []
    room = 0
    for number, mesh in enumerate(meshes):
        size = len(mesh.triangles)
        if not size:
            continue
        if size > _SMALL:
            groups.insert(0, [number])
            continue
        if size > room:
            groups.append([])
            room = _TOGETHER
        groups[-1].append(number)
        room -= size
    return groups


def _counted(meshes: Sequence[Mesh]) -> list[Mesh]:
    """Counted by points that are the very same; what is not closed so is counted again with near ones as one."""
    figures = counted(meshes, [mesh.same for mesh in meshes])
    again = [number for number, told in enumerate(figures) if told.open_edges]
    for number in again:
        (figures[number],) = counted([meshes[number]], [meshes[number].welded])
    return [replace(mesh, figures=told) for mesh, told in zip(meshes, figures, strict=True)]


def _measured(mesh: Mesh, suspect: bool) -> Mesh:
    """With the plain figures, and without what it knows for itself by now, which is large and quick to find again."""
    some = len(mesh.triangles) > 0
    box = (tuple(mesh.positions.min(axis=0).tolist()), tuple(mesh.positions.max(axis=0).tolist())) if some else ()
    figures = replace(
        mesh.figures, triangles=len(mesh.triangles), vertices=len(mesh.positions), box=box,
        open_edges=mesh.figures.open_edges if some else 0,
        crossing=_crossing(mesh) if suspect else None,
    )  # fmt: skip
    return replace(mesh, figures=figures)


def _crossing(mesh: Mesh) -> int | None:
    """Triangles that another goes through; None where there are too many to look."""
    if len(mesh.triangles) > _LOOKED_AT:
        return None
    if not len(mesh.triangles):
        return 0
    from hemp_ladder.core.mesh.crossing import crossing_triangles

    return len(crossing_triangles(mesh))
