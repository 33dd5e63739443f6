"""What the benches of operations on meshes share: seconds of processor against a floor and against what is allowed, memory,
and how two cores do against one."""

import os
import time
from collections.abc import Callable, Mapping

import numpy as np

from bench.measure import run
from hemp_ladder.core.chain.steps import Chain
from house.places import PYTHON, ROOT

#: By how much figures differ from run to run on such a machine.
NOISE = 1.5
#: Megabytes that a child may take, and how many of two cores are to be busy.
MEMORY, CORES = 1500, 1.8
#: Three hundred parts are worked on in so many turns.
TURNS = 3


def told(module: str, allowed: Mapping[str, float], known: Mapping[str, float] | None = None) -> None:
    """Print one line a figure: what, how much, and what is allowed.

    `known` are figures of libraries alone in the same run, with what they took beforehand on a quiet machine: how much
    longer they take now is the pace, and as much more is allowed, by the least of them.
    """
    done = run([str(PYTHON), "-m", module, "million"], ROOT)
    floor, *lines = done.output.strip().split("\n")
    figures = {name: float(seconds) for name, seconds in (line.rsplit(" ", 1) for line in lines)}
    pace = min((figures[name] / seconds for name, seconds in (known or {}).items()), default=1.0)
    print(f"sorting the sides of a million triangles: {float(floor):.2f} s; pace of the machine {pace:.2f}")
    for name, took in figures.items():
        most = allowed.get(name, 0.0) * max(pace, 1.0)
        mark = "    " if not most else "ok  " if took <= most else "near" if took <= most * NOISE else "OVER"
        limit = f" (at most {allowed[name]} at a pace of 1)" if most else ""
        print(f"{mark} {name}: {took:.2f} s{limit}, {took / float(floor):.1f} sorts")
    print(f"{'ok  ' if done.peak <= MEMORY else 'OVER'} memory: {done.peak:.0f} MB (at most {MEMORY})")
    # In turns, as the machine is now quicker, now slower.
    turns = [run([str(PYTHON), "-m", module, "parts", n], ROOT).output.split() for n in ("1", "2") * TURNS]
    alone, both = ([float(clock) for clock, _ in turns[start::2]] for start in (0, 1))
    busy = sum(float(used) for _, used in turns[1::2]) / sum(both)
    print(
        f"{'ok  ' if busy >= CORES else 'OVER'} 300 parts keep {busy:.2f} cores of two busy (at least {CORES}); "
        f"one core / two: {sum(alone) / sum(both):.2f}, which is also how cores share their memory"
    )


def sides(count: int) -> float:
    """Seconds to sort so many numbers of 60 bits: the floor."""
    codes = np.random.default_rng(1).integers(0, 1 << 60, count)
    return took(lambda: np.argsort(codes))


def took(work: Callable[[], object]) -> float:
    """Seconds of processor."""
    before = time.process_time()
    work()
    return round(time.process_time() - before, 3)


def best(work: Callable[[], object]) -> float:
    """Seconds of processor, the least of three goes: what else runs on the machine only adds to it."""
    return min(took(work) for _ in range(3))


def on_cores(children: int, bodies: dict[str, bytes], chains: list[Chain]) -> None:
    """Print the seconds on the clock for chains on so many cores with a child for each, and those of processor that the
    children and this took; a few chains go first."""
    os.sched_setaffinity(0, set(sorted(os.sched_getaffinity(0))[:children]))
    from hemp_ladder.work.children import Crew
    from hemp_ladder.work.meshing.shelf import MemoryShelf

    with Crew(children) as crew:
        MemoryShelf(bodies, crew).meshes(chains[:4])
        before, used = time.monotonic(), crew.processor_time(True) + time.process_time()
        MemoryShelf(bodies, crew).meshes(chains[4:])
        print(time.monotonic() - before, crew.processor_time(True) + time.process_time() - used)
