"""`python -m bench.mending`: Mend on a million triangles in one part, against numpy's sort of as many sides in the same
run and against the seconds measured of good routes; and 300 parts on one core and on two."""

import sys
from dataclasses import replace

import numpy as np

from bench.operations import TURNS, on_cores, sides, told, took
from hemp_ladder.core.chain.came import AsItCame, write_meshed
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.mend.facing import Facing, face, turn
from hemp_ladder.core.mend.normals import Normals, shade
from hemp_ladder.core.mend.repair.repair import Repair
from hemp_ladder.core.mend.weld import Weld, weld
from hemp_ladder.core.mesh.measure import measure
from hemp_ladder.core.mesh.mesh import Mesh

#: Seconds of processor that good routes take for a million triangles, as measured beforehand on such a machine.
ALLOWED = {"weld": 2.0, "facing": 1.0, "crease normals": 1.5, "counts": 1.2}


def main() -> None:
    """Print one line a figure: what, how much, and what is allowed."""
    told("bench.mending", ALLOWED)


def torus(around: int, along: int, at: float = 0.0) -> tuple[np.ndarray, np.ndarray]:
    """Positions and triangles of a torus, two for each cell of a grid."""
    u, v = np.meshgrid(np.arange(around) * 2 * np.pi / around, np.arange(along) * 2 * np.pi / along, indexing="ij")
    ring = 3 + np.cos(v)
    spots = np.stack([ring * np.cos(u) + at, ring * np.sin(u), np.sin(v)], axis=-1).reshape(-1, 3)
    number = np.arange(around * along).reshape(around, along)
    right, up = np.roll(number, -1, axis=0), np.roll(number, -1, axis=1)
    over = np.roll(right, -1, axis=1)
    quads = np.stack([number, right, over, up], axis=-1).reshape(-1, 4)
    return spots.astype(np.float32).astype(float), np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]])


def million() -> None:
    """Seconds of processor of each, the floor first, in a process of its own."""
    spots, triangles = torus(1000, 500)
    corners = triangles.reshape(-1)
    normals = np.tile(np.array([0, 0, 1], np.float32), (len(corners), 1))
    loose = np.arange(len(corners), dtype=np.int32).reshape(-1, 3)
    soup = Mesh.of(spots[corners], normals, loose, np.array([0, len(loose)]))
    few = Mesh.of(spots[corners[:3000]], normals[:3000], loose[:1000], np.array([0, 1000]))
    shade(weld(few, Weld()), Normals())  # what is imported only once
    print(sides(len(corners)))
    joined = weld(soup, Weld(tolerance=1e-5))
    wrong = turn(joined, np.random.default_rng(2).random(len(triangles)) < 0.5)
    face(wrong, Facing())
    print("weld", took(lambda: weld(replace(soup), Weld(tolerance=1e-5))))
    print("facing", took(lambda: face(replace(wrong), Facing())))
    print("crease normals", took(lambda: shade(replace(joined), Normals())))
    print("counts", took(lambda: measure([replace(joined)])))


def parts(children: int) -> None:
    """Seconds on the clock for a turn of 300 parts of 20,000 triangles through every operation, on so many cores with a child for
    each."""
    bodies, chains = {}, []
    for number in range(300 // TURNS):
        bodies[f"{number}"] = write_meshed(*torus(100, 100, float(number)))
        steps = (Weld(tolerance=1e-6), Repair(), Facing(), Normals())
        chains.append(Chain(f"{number}", 1, AsItCame(), steps))
    on_cores(children, bodies, chains)


if __name__ == "__main__":
    if sys.argv[1:2] == ["million"]:
        million()
    elif sys.argv[1:2] == ["parts"]:
        parts(int(sys.argv[2]))
    else:
        main()
