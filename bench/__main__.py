"""`./ladder bench`: ratios against the kernel's floor and the general-purpose route, in one run."""

import json
import statistics
import sys
import time
from pathlib import Path

from bench import drawings, facets, mending, meshes, page, siege, trimming, views
from bench.assembly import write_assembly
from bench.castings import write_castings
from bench.measure import Run, run
from bench.tower import write_tower
from house.places import PYTHON, ROOT

OUT = ROOT / "bench" / "out"
CHORD, ANGLE = 0.1, 0.5
#: Chord error in millimetres at which castings are raced; the setting most people use. Common practice.
USUAL_CHORD = 0.5


def main() -> None:
    """Print one line a figure: what, how much, and what is allowed."""
    rounds = int(sys.argv[1]) if len(sys.argv) > 1 else 2
    plant = write_assembly(OUT / "plant.step")
    print(f"assembly: {plant.stat().st_size / 1e6:.1f} MB")
    ours, theirs, floor = [], [], []
    for _ in range(rounds):
        ours.append(convert(plant, CHORD))
        theirs.append(general(plant, CHORD))
        floor.append(run([str(PYTHON), "-m", "bench.floor", str(plant), str(CHORD), str(ANGLE)], ROOT))
    report = json.loads(ours[0].output.partition("\nReceipt:")[0])
    print(
        f"parts {report['parts']}, placements {report['placements']}, triangles {report['triangles']:,}, receipt {report['receipt']['ok']}"
    )
    told("convert to GLB, wall, ours / general route", ratio(ours, theirs, "wall"), 1.0)
    told("peak memory of any process, ours / kernel alone", ratio(ours, floor, "peak"), 1.5)
    stages = [json.loads(item.output) for item in floor]
    alone = statistics.median(sum(stage.values()) for stage in stages)
    added(alone)
    print(
        f"  ours {statistics.median(r.wall for r in ours):.1f} s wall, {statistics.median(r.cpu for r in ours):.1f} s cpu, {max(r.peak for r in ours):.0f} MB"
    )
    print(
        f"  general route {statistics.median(r.wall for r in theirs):.1f} s wall, {max(r.peak for r in theirs):.0f} MB"
    )
    print(f"  kernel alone {alone:.1f} s cpu {stages[0]}, {max(r.peak for r in floor):.0f} MB")
    again(plant)
    castings(rounds)
    buildings()
    drawings.main()
    meshes.main()
    facets.main()
    mending.main()
    trimming.main()
    views.main()
    page.main()
    siege.run(40, 11)
    small = ROOT / "web/node_modules/occt-import-js/test/testfiles/cax-if/as1-oc-214.stp"
    times = [run([str(ROOT / "ladder"), "inspect", str(small), "--json"], ROOT).wall for _ in range(3)]
    told("inspect of a small file, seconds", statistics.median(times), 1.8)


def buildings() -> None:
    """Reading a building of 50 MB against its format library telling the same of it, by its own functions."""
    path = write_tower(OUT / "tower.ifc")
    runs = {who: run([str(PYTHON), "-m", "bench.building", str(path), who], ROOT) for who in ("ours", "told", "shapes")}
    took = {who: float(one.output.split()[-2]) for who, one in runs.items()}
    told("building of 50 MB, processor time, ours / format library telling the same", took["ours"] / took["told"], 1.2)
    print(
        f"  ours {took['ours']:.1f} s cpu, {runs['ours'].peak:.0f} MB; library {took['told']:.1f} s, "
        f"its shapes alone, nothing told of them, {took['shapes']:.1f} s, {runs['shapes'].peak:.0f} MB"
    )


def castings(rounds: int) -> None:
    """Parts of splines, at the setting most people use; with receipt."""
    path = write_castings(OUT / "castings.step")
    pairs = [(convert(path, USUAL_CHORD), general(path, USUAL_CHORD)) for _ in range(rounds)]
    ours, theirs = [pair[0] for pair in pairs], [pair[1] for pair in pairs]
    told("castings to GLB at 0.5 mm, wall, ours / general route", ratio(ours, theirs, "wall"), 1.0)
    print(
        f"  ours {statistics.median(r.wall for r in ours):.1f} s wall, {max(r.peak for r in ours):.0f} MB; "
        f"general route {statistics.median(r.wall for r in theirs):.1f} s, {max(r.peak for r in theirs):.0f} MB"
    )


def convert(path: Path, chord: float) -> Run:
    return run(
        [str(ROOT / "ladder"), "convert", str(path), "-o", str(OUT / "ours.glb"), "--chord", f"{chord}mm", "--angle", f"{ANGLE}rad", "--json"],
        ROOT,
    )  # fmt: skip


def general(path: Path, chord: float) -> Run:
    return run([str(PYTHON), "-m", "bench.general", str(path), str(OUT / "general.glb"), str(chord), str(ANGLE)], ROOT)


def ratio(first: list[Run], second: list[Run], figure: str) -> float:
    return statistics.median(getattr(a, figure) / getattr(b, figure) for a, b in zip(first, second, strict=True))


def told(name: str, value: float, allowed: float) -> None:
    print(f"{'ok  ' if value <= allowed else 'OVER'} {name}: {value:.2f} (at most {allowed})", flush=True)


def added(alone: float) -> None:
    """Receiving and facetting in one process against the kernel doing all of it by itself at the same tolerances.

    Both in seconds of processor. Ours asks the kernel for less (its control
    of surfaces is replaced) and does the rest; the second line tells them apart.
    """
    done = run([str(PYTHON), "-m", "bench.added", str(OUT / "plant.step"), str(CHORD), str(ANGLE)], ROOT)
    found = json.loads(done.output)
    whole = found["kernel"] + found["ours"]
    told("added to the kernel's parse, transfer and meshing, share of its time", whole / alone - 1, 0.15)
    print(f"  {whole:.1f} s against {alone:.1f} s; of ours {found}")


def again(plant: Path) -> None:
    """A second climb with nothing changed, a changed material rule, one part's own setting."""
    from bench.climbs import climbs

    first, second, rule, meshes = climbs(plant)
    told("second climb with nothing changed / first", second / first, 0.05)
    told("a material rule changed at 3,000 placements, seconds", rule, 0.5)
    told("meshes made when one part's chord error changes", meshes, 1)
    print(f"  first climb {first:.1f} s, second {second:.3f} s")


if __name__ == "__main__":
    started = time.monotonic()
    main()
    print(f"{time.monotonic() - started:.0f} s")
