"""The boat shed as one shell soup: every triangle for itself, with damage of every kind planted, and how much of each.

Somebody exported the whole shed as one STL. On its way shells turned inside
out, triangles were written twice, a board lost a triangle, and corners came
to lie on the middle of their neighbours' edges.
"""

import tempfile
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from demo import shed
from hemp_ladder.cli.sources import receive_all
from hemp_ladder.core.climb import climb
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.mesh.edges import Edges
from hemp_ladder.core.mesh.triangles import cross, folded, lengths
from hemp_ladder.core.model.join import join
from hemp_ladder.work.children import Crew
from hemp_ladder.work.meshing.shelf import MemoryShelf

Corners = NDArray[np.float64]

#: Planted: shells turned inside out, triangles doubled, triangles lost (a hole each), corners on edges (a joint each).
TURNED, DOUBLED, LOST, JOINTS = 6, 14, 3, 4


def write_soup(path: Path) -> None:
    """As binary STL, in metres."""
    corners = planted(whole())
    record = np.zeros(len(corners), dtype=[("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("more", "<u2")])
    record["corners"] = corners
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    record["normal"] = across / np.maximum(lengths(across), 1e-30)[:, None]
    head = b"boat shed, all in one".ljust(80, b" ")
    path.write_bytes(head + np.uint32(len(corners)).tobytes() + record.tobytes())


def whole() -> Corners:
    """All triangles of the boat shed where they stand, (m, 3, 3), metres, as 32 bit numbers hold them."""
    shapes: dict[str, bytes] = {}
    with tempfile.TemporaryDirectory() as folder, Crew(1) as crew:
        file = Path(folder) / "boat-shed.ifc"
        shed.build().write(file)
        model = join(receive_all([file], Path(folder), crew, shapes, lambda stage, count: None))
        result = climb(model, Decisions(), MemoryShelf(shapes, crew))
    world = result.fitted.placements()
    pieces = []
    for node, part in zip(result.sorted.placements.tolist(), result.sorted.parts.tolist(), strict=True):
        mesh = result.mesh_of(part)
        if mesh is not None:
            placed = mesh.corners @ world[node][:3, :3].T + world[node][:3, 3]
            pieces.append(placed[:, ::-1] if np.linalg.det(world[node][:3, :3]) < 0 else placed)
    corners = np.concatenate(pieces)
    # Where the survey has it, 32 bit numbers would be centimetres apart.
    return (corners - np.floor(corners.reshape(-1, 3).min(axis=0))).astype(np.float32).astype(np.float64)


def planted(corners: Corners) -> Corners:
    """The triangles with the damage; every kind on shells of its own, so that each can be counted by itself."""
    place, _ = folded(corners.reshape(-1, 3))
    edges = Edges.of(place.reshape(-1, 3))
    count, label = edges.shells
    size = np.bincount(label, minlength=count)
    # Shells that are closed and of few triangles: boards, not the drum of the winch.
    shut = np.ones(count, bool)
    shut[label[edges.sides[(edges.uses != 2)[edges.of_side]] // 3]] = False
    plain = np.flatnonzero(shut & (size == 12))
    turned, doubled, lost, joined = np.split(
        plain[: TURNED + DOUBLED + LOST + JOINTS], np.cumsum([TURNED, DOUBLED, LOST])
    )
    out = corners.copy()
    wrong = np.isin(label, turned)
    out[wrong] = out[wrong][:, ::-1]
    first = np.array([np.flatnonzero(label == number)[0] for number in plain])
    of = dict(zip(plain.tolist(), first.tolist(), strict=True))
    more = [out[of[number]] for number in doubled.tolist()]
    gone = [of[number] for number in lost.tolist()]
    for number in joined.tolist():
        a, b, c = out[of[number]]
        # The longest side is the diagonal inside a board's face: nobody sees a joint there, light does.
        middle = ((a + b) / 2).astype(np.float32).astype(np.float64)
        more += [np.array([a, middle, c]), np.array([middle, b, c])]
        gone.append(of[number])
    kept = np.ones(len(out), bool)
    kept[gone] = False
    whole = np.concatenate([out[kept], np.array(more)])
    # A file from a soup has no order that anybody could use.
    return np.asarray(whole[np.random.default_rng(11).permutation(len(whole))])
