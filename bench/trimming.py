"""`python -m bench.trimming`: Trim on a million triangles in one part, against numpy's sort of as many sides in the same run
and against the seconds measured of good routes; a grade of a part of 70,000; and 300 parts on one core and on two."""

import sys
import time
from dataclasses import replace

import numpy as np

from bench.mending import torus
from bench.operations import TURNS, best, on_cores, sides, told
from hemp_ladder.core.chain.came import AsItCame, write_meshed
from hemp_ladder.core.chain.making import Order, make
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.mesh.mesh import Mesh, Runs
from hemp_ladder.core.trim.deviation import deviation
from hemp_ladder.core.trim.flats import Flats
from hemp_ladder.core.trim.reduce import Reduce

#: Seconds of processor that good routes take, as measured beforehand on such a machine; of a grade, seconds on the clock.
ALLOWED = {
    "a million triangles to a tenth, with normals and UV": 2.5, "flats of a plate of 845,000 with 100 holes": 3.0,
    "deviation of a million both ways, 100,000 samples": 3.0, "a grade of 70,000, with all that is measured, clock": 1.0,
}  # fmt: skip
#: What the libraries alone took, as measured beforehand on a quiet machine.
KNOWN = {"the simplifier alone": 1.8, "the tree of a million and 100,000 distances alone": 1.8}


def main() -> None:
    """Print one line a figure: what, how much, and what is allowed."""
    told("bench.trimming", ALLOWED, KNOWN)


def lumpy(around: int, along: int) -> Mesh:
    """A torus with lumps, true normals and UV."""
    u, v = np.meshgrid(np.linspace(0, 2 * np.pi, around + 1), np.linspace(0, 2 * np.pi, along + 1), indexing="ij")
    u[-1], v[:, -1] = 0.0, 0.0
    small = 1 + 0.05 * np.sin(9 * u) * np.sin(7 * v)
    out = np.stack([np.cos(v) * np.cos(u), np.cos(v) * np.sin(u), np.sin(v)], axis=-1)
    spots = small[..., None] * out + 3 * np.stack([np.cos(u), np.sin(u), np.zeros_like(u)], axis=-1)
    uv = np.stack(np.meshgrid(np.linspace(0, 1, around + 1), np.linspace(0, 1, along + 1), indexing="ij"), axis=-1)
    i, j = np.meshgrid(np.arange(around), np.arange(along), indexing="ij")
    a = (i * (along + 1) + j).reshape(-1)
    b = a + along + 1
    triangles = np.concatenate([np.column_stack([a, b, b + 1]), np.column_stack([a, b + 1, a + 1])]).astype(np.int32)
    attributes = {"normal": out.reshape(-1, 3).astype(np.float32), "uv": uv.reshape(-1, 2).astype(np.float32)}
    return Mesh(
        spots.reshape(-1, 3), triangles, attributes, {"face": Runs.each(np.array([0, len(triangles)]))}
    ).settled()


def plate() -> Mesh:
    """A plate with 100 holes of 32 sides, each triangle of its least cover divided into four three times."""
    import manifold3d as m3
    import trimesh

    flat = m3.CrossSection.square((10, 10))
    holes = [m3.CrossSection.circle(0.3, 32).translate((0.5 + x, 0.5 + y)) for x in range(10) for y in range(10)]
    flat = m3.CrossSection.batch_boolean([flat, *holes], m3.OpType.Subtract)
    body = m3.Manifold.extrude(flat, 0.5).to_mesh64()
    spots, triangles = np.array(body.vert_properties)[:, :3], np.array(body.tri_verts).astype(int)
    for _ in range(3):
        spots, triangles = trimesh.remesh.subdivide(spots, triangles)
    corners = spots[triangles]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals = (across / np.maximum(np.linalg.norm(across, axis=1), 1e-300)[:, None]).astype(np.float32)
    loose = np.arange(corners.size // 3, dtype=np.int32).reshape(-1, 3)
    starts = np.array([0, len(loose)])
    return Mesh.of(corners.reshape(-1, 3), np.repeat(normals, 3, axis=0), loose, starts).settled()


def million() -> None:
    """Seconds of each, the floor first, in a process of its own."""
    from hemp_ladder.core.trim.flats import covered
    from hemp_ladder.core.trim.reduce import to

    whole = lumpy(1000, 500)
    make([Order(Chain("warm", 1, AsItCame(), (Reduce(share=0.5), Flats())), [write_meshed(*torus(20, 20))])])
    print(sides(3 * len(whole.triangles)))
    names = list(ALLOWED)
    libraries(whole)
    print(names[0], best(lambda: to(replace(whole), len(whole.triangles) // 10)))
    slab = plate()
    print(names[1], best(lambda: covered(replace(slab), 1e-6)))
    made = to(whole, len(whole.triangles) // 10)
    assert made is not None
    print(names[2], best(lambda: deviation(replace(whole), made)))
    body = write_meshed(*torus(250, 140))
    chain = Chain("grade", 1, AsItCame(), (Reduce(share=0.25),))
    start = make([Order(Chain("grade", 1, AsItCame()), [body])])[0][chain.keys[0]]
    tried = []
    for _ in range(3):
        before = time.monotonic()
        make([Order(chain, start=start, done=1)])
        tried.append(time.monotonic() - before)
    print(names[3], round(min(tried), 3))


def libraries(whole: Mesh) -> None:
    """Seconds of what is not ours."""
    from hemp_ladder.core.mesh.tree import Tree
    from hemp_ladder.core.trim.deviation import SAMPLES
    from hemp_ladder.core.trim.prepare import prepare
    from hemp_ladder.core.trim.simplifier import ANY, simplify

    ready = prepare(whole)
    spots, weights = ready.positions.astype(np.float32), np.array([0.5, 0.5, 0.5, 1, 1], np.float32)
    columns = np.concatenate([ready.attributes["normal"], ready.attributes["uv"]], axis=1)
    points = whole.positions[:: len(whole.positions) // SAMPLES] + 1e-3
    names = list(KNOWN)
    print(names[0], best(lambda: simplify(ready.triangles, spots, columns, weights, len(ready.triangles) // 10, ANY)))
    print(names[1], best(lambda: Tree(whole).nearest(points)))


def parts(children: int) -> None:
    """Seconds on the clock for a turn of 300 parts of 20,000 triangles."""
    bodies = {f"{number}": write_meshed(*torus(100, 100, float(number))) for number in range(300 // TURNS)}
    chains = [Chain(number, 1, AsItCame(), (Flats(), Reduce(share=0.25))) for number in bodies]
    on_cores(children, bodies, chains)


if __name__ == "__main__":
    if sys.argv[1:2] == ["million"]:
        million()
    elif sys.argv[1:2] == ["parts"]:
        parts(int(sys.argv[2]))
    else:
        main()
