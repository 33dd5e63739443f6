"""Sharing: parts that are copies of others give way to those, which then stand in their places too."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from hemp_ladder.core.choose.take import Taken
from hemp_ladder.core.mend.apart import Added
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.join import Joined
from hemp_ladder.core.sort.copies import Copy, copies
from hemp_ladder.core.sort.settings import Shared


def shareable(model: Joined, meshes: Mapping[int, Mesh], metres: float, scales: Mapping[int, float]) -> list[Copy]:
    """Copies among some parts, by index, within a tolerance in metres; `scales` are metres a coordinate. Those of one
    source, that look the same face by face, are each other's."""
    found: list[Copy] = []
    for owner in np.unique(model.member_of_part[list(meshes)]).tolist() if meshes else []:
        mine = {part: mesh for part, mesh in meshes.items() if model.member_of_part[part] == owner}
        # What has looks of its own on faces is told apart by their numbers.
        looks = {part: _looks(model, part) for part in mine}
        scale = next(scales[part] for part in mine)
        found += copies(mine, metres / scale, looks)
    return found


def _looks(model: Joined, part: int) -> object:
    own = model.parts[part]
    return (
        tuple(sorted(own.face_colours.items())),
        tuple(sorted(own.face_styles.items())),
        own.style,
        own.colour,
        own.layer,
    )


def as_shared(model: Joined, found: Sequence[Copy]) -> tuple[Shared, ...]:
    """Copies as decisions hold them."""
    return tuple(
        Shared(
            part=model.parts[item.part].ref, of=model.parts[item.of].ref, matrix=tuple(item.matrix.reshape(-1).tolist())
        )
        for item in found
    )


def with_shared(taken: Taken, shared: Sequence[Shared]) -> Taken:
    """What entered, with the parts that others stand for at the places of their copies. Entries about parts that are not
    there, or that give way themselves, change nothing."""
    model = taken.model
    index = {part.ref: number for number, part in enumerate(model.parts)}
    giving = {entry.part for entry in shared}
    entries = {
        index[entry.part]: (index[entry.of], np.array(entry.matrix).reshape(4, 4))
        for entry in shared
        if entry.part in index and entry.of in index and entry.of not in giving
    }
    if not entries:
        return taken
    parts = model.columns.part[taken.rows]
    gone = np.isin(parts, list(entries))
    added = Added(replace(taken, rows=taken.rows[~gone]))
    for row in taken.rows[gone].tolist():
        part = int(model.columns.part[row])
        leader, matrix = entries[part]
        node = model.nodes[int(model.columns.node[row])]
        added.instead(row, node.name or model.parts[part].label, leader, matrix)
    return added.done()
