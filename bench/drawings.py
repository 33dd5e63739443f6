"""`python -m bench.drawings`: icons made solid, a drawing of a hundred thousand entities, and a layer's height changed.

Each is a limit of its own in seconds, and a ratio to the library that reads
the file, where there is one.
"""

import random
import time
from collections.abc import Iterator
from pathlib import Path

from bench.measure import run
from house.places import PYTHON, ROOT

OUT = ROOT / "bench" / "out"
ICONS = ROOT / "web" / "node_modules" / "lucide-static" / "icons"


def main() -> None:
    """Print one line a figure."""
    told("300 stroked icons from files to solids, seconds", _icons(), 5.0)
    path = write_drawing(OUT / "drawing.dxf")
    ours, theirs = (run([str(PYTHON), "-m", "bench.drawings", who, str(path)], ROOT) for who in ("ours", "library"))
    told(f"drawing of 100,000 entities ({path.stat().st_size / 1e6:.0f} MB) read, seconds", ours.wall, 20.0)
    told("  its peak memory, GB", ours.peak / 1000, 2.0)
    print(f"  {ours.wall / theirs.wall:.2f} times the library's own reading ({theirs.wall:.1f} s)")
    for name, took in _layer():
        told(f"1,000 outlines made anew after {name}, two children, seconds", took, 0.3)


def told(name: str, value: float, allowed: float) -> None:
    print(f"{'ok  ' if value <= allowed else 'OVER'} {name}: {value:.2f} (at most {allowed})", flush=True)


def _icons() -> float:
    """After start-up, in one process: read each file, make each shape solid."""
    from hemp_ladder.core.chain.steps import Job
    from hemp_ladder.core.drawn.solid import Solid
    from hemp_ladder.core.drawn.step import Solidify
    from hemp_ladder.core.receive.report import Kept
    from hemp_ladder.core.receive.svg.read import read_svg

    files = sorted(ICONS.glob("*.svg"))[:300]
    read_svg(files[0], Kept())
    step = Solidify(chord=0.01, angle=0.35, solid=Solid(height=1.0))
    began = time.monotonic()
    jobs = []
    for path in files:
        kept = Kept()
        model = read_svg(path, kept)
        jobs += [Job(step, [kept.shapes[part.key]]) for part in model.parts]
    meshes = Solidify.make(jobs)
    took = time.monotonic() - began
    if not all(mesh.watertight and mesh.volume() > 0 for mesh in meshes):
        raise SystemExit("not all icons are closed solids")
    return took


def _layer() -> Iterator[tuple[str, float]]:
    """A thousand circles and slots of one layer, whose height, and then wall, is changed."""
    from hemp_ladder.core.chain.steps import Chain
    from hemp_ladder.core.drawn.curves import circle, polyline
    from hemp_ladder.core.drawn.shape import Shape, write_drawn
    from hemp_ladder.core.drawn.solid import Solid
    from hemp_ladder.core.drawn.step import Solidify
    from hemp_ladder.work.children import Crew
    from hemp_ladder.work.meshing.shelf import Maker

    shapes = {}
    for k in range(1000):
        path = circle(0, 0, 5 + k / 100) if k % 2 else polyline([(0, 0), (20 + k / 100, 0), (20, 8), (0, 8)], True)
        shapes[str(k)] = write_drawn(Shape((path,)))

    def chains(solid: Solid) -> list[Chain]:
        step = Solidify(chord=0.05, angle=0.35, solid=solid)
        return [Chain(key, 1, step) for key in shapes]

    with Crew(2) as crew:
        maker = Maker(crew, shapes.__getitem__, lambda chain, made: None, lambda chain, why: None)
        maker.make(chains(Solid(height=1.0)))
        for name, solid in (("a height", Solid(height=2.0)), ("a wall", Solid(height=2.0, wall=1.0))):
            times = []
            for _ in range(3):
                began = time.monotonic()
                maker.make(chains(solid))
                times.append(time.monotonic() - began)
            yield name, sorted(times)[1]


def write_drawing(path: Path) -> Path:
    """A hundred thousand lines, arcs, circles and polylines on ten layers, the same each time; unless it is there."""
    if path.exists():
        return path
    import ezdxf

    dice = random.Random(4)
    doc = ezdxf.new("R2010", units=6)
    space = doc.modelspace()
    for k in range(25_000):
        x, y, on = dice.uniform(0, 1000), dice.uniform(0, 1000), {"layer": f"Layer {k % 10}"}
        space.add_lwpolyline([(x, y), (x + 1, y), (x + 1, y + 1, 0, 0, 0.3), (x, y + 1)], close=True, dxfattribs=on)
        space.add_line((x, y), (x + 3, y + 1), dxfattribs=on)
        space.add_circle((x, y), 0.5, dxfattribs=on)
        space.add_arc((x, y), 0.7, 0, 90, dxfattribs=on)
    path.parent.mkdir(parents=True, exist_ok=True)
    doc.saveas(path)
    return path


def _read(who: str, path: Path) -> None:
    if who == "library":
        import ezdxf

        ezdxf.readfile(path)
        return
    from hemp_ladder.core.memory import without_collector
    from hemp_ladder.core.receive.dxf.read import read_dxf
    from hemp_ladder.core.receive.report import Kept

    # As in the child that reads, which looks for cycles when it has given its answer.
    with without_collector():
        print(len(read_dxf(path, Kept()).parts))


if __name__ == "__main__":
    import sys

    if len(sys.argv) > 2:
        _read(sys.argv[1], Path(sys.argv[2]))
    else:
        main()
