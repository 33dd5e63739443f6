"""`python -m bench.facets`: facets before they are decided.

Deviation against the meshing it belongs to, in the same run; a board of four swatches through a house; an allowance over 300
parts whose curves are known; what lookouts show of 3,000 placements; two children against one; and a change of the large assembly,
what is in view first.
"""

import math
import os
import random
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import psycopg

from bench import assembly
from bench.changes import decided
from house.places import ROOT

CHORD, ANGLE = 0.5, math.radians(20)
#: After so many seconds the database has counted what idle connections wrote.
_FLUSHED = 12
#: What each may come to.
DEVIATION, BOARD, ALLOWANCE, CORES, IN_VIEW = 1.0, 2.0, 2.0, 1.8, 1.0


def main() -> None:
    """Print one line a figure."""
    deviation()
    known()
    seen()
    cores()
    board()
    in_view()


def told(ok: bool, words: str) -> None:
    print(f"{'ok  ' if ok else 'OVER'} {words}", flush=True)


def bodies(count: int = assembly.PARTS) -> list[bytes]:
    """The parts of the large assembly."""
    from hemp_ladder.core.kernel.shapes import write_shape

    dice = random.Random(11)
    return [write_shape(assembly._part(number, dice)[1]) for number in range(count)]


def deviation() -> None:
    """Measuring, 100 points of each face by area and 100 middles of triangles, against all else that meshing does."""
    from hemp_ladder.core.facet import tessellate

    data, spent, plain = bodies(), 0.0, tessellate.measured

    def timed(*given: Any) -> dict[str, float]:
        nonlocal spent
        start = time.process_time()
        found = plain(*given)
        spent += time.process_time() - start
        return found

    tessellate.tessellate_all([(item, CHORD, ANGLE) for item in data[:8]])
    tessellate.measured = timed  # type: ignore[assignment]
    try:
        start, triangles = time.process_time(), 0
        for at in range(0, len(data), 8):
            made = tessellate.tessellate_all([(item, CHORD, ANGLE) for item in data[at : at + 8]])
            triangles += sum(len(mesh.triangles) for mesh in made)
        whole = time.process_time() - start
    finally:
        tessellate.measured = plain
    share = spent / (whole - spent)
    told(share <= DEVIATION, f"deviation of 300 parts, {triangles:,} triangles: {spent:.1f} s, {share:.2f} times the meshing "
                             f"of {whole - spent:.1f} s (at most {DEVIATION})")  # fmt: skip


def known() -> None:
    """An allowance of 300 parts at 17 settings each, all measured: by brute curves of their own."""
    from hemp_ladder.core.facet.allowance import Curve, spread

    dice = np.random.default_rng(3)
    steps = 2.0 ** (np.arange(17) / 2)
    curves = [
        Curve(
            np.round(dice.uniform(50, 4000) / np.sqrt(steps)) * dice.integers(1, 20), dice.uniform(1e-5, 1e-3) * steps
        )
        for _ in range(300)
    ]
    most = sum(float(curve.costs.max()) for curve in curves)
    start = time.process_time()
    rounds = 20
    for share in np.linspace(0.3, 0.9, rounds):
        spread(curves, share * most)
    took = (time.process_time() - start) / rounds
    told(took <= ALLOWANCE, f"an allowance over 300 parts, curves known: {took:.3f} s (at most {ALLOWANCE})")


def seen() -> None:
    """Three lookouts at 300 parts in 3,000 places."""
    from hemp_ladder.core.facet.looking import sight
    from hemp_ladder.core.facet.tessellate import tessellate_all
    from hemp_ladder.core.fit.lookouts import View

    meshes = dict(enumerate(tessellate_all([(item, 2.0, 0.7) for item in bodies()])))
    dice = np.random.default_rng(4)
    parts = np.repeat(np.arange(300), 10)
    places = np.tile(np.eye(4) * 0.001, (3000, 1, 1))
    places[:, 3, 3] = 1
    places[:, :3, 3] = dice.uniform((-9, -9, 0), (9, 9, 4), (3000, 3))
    views = [
        View("view", (x, -14.0, 2.0), (-x / 16, 0.99, 0.0), (0.0, 0.0, 1.0), 0.7, 16 / 9, 0.0) for x in (-6.0, 0.0, 6.0)
    ]
    triangles = sum(len(mesh.triangles) for mesh in meshes.values()) * 10
    start = time.process_time()
    found = sight(meshes, parts, places, np.ones(3000, bool), 300, views, 1920)
    print(f"     three lookouts at 3,000 placements of {triangles:,} triangles: {time.process_time() - start:.1f} s, "
          f"{np.count_nonzero(found.pixels)} of 300 parts seen")  # fmt: skip


def cores() -> None:
    """Sixty parts at six settings measured by two children against one."""
    from hemp_ladder.core.chain.steps import Chain
    from hemp_ladder.core.facet.step import Facet
    from hemp_ladder.work.children import Crew
    from hemp_ladder.work.facets.measuring import measured

    data = {str(number): item for number, item in enumerate(bodies(60))}
    chains = [
        Chain(key, 10, Facet(chord=CHORD * times, angle=ANGLE)) for key in data for times in (8, 4, 2, 1, 0.5, 0.25)
    ]
    took = []
    for size in (1, 2):
        with Crew(size) as crew:
            crew.warm()
            list(measured(chains[: 4 * size], crew, data.__getitem__))
            start = time.perf_counter()
            list(measured(chains, crew, data.__getitem__))
            took.append(time.perf_counter() - start)
    ratio = took[0] / took[1]
    told(ratio >= CORES, f"360 meshes measured by one child {took[0]:.1f} s, by two {took[1]:.1f} s: {ratio:.2f} times "
                         f"(at least {CORES})")  # fmt: skip


def board() -> None:
    """A swatch board of four, from the first question to the last mesh."""
    from tests.support import House, throwaway_cluster

    with throwaway_cluster() as server:
        os.environ["HEMP_LADDER_TEST_SERVER"] = server
        house = House(1)
        try:
            with httpx.Client(base_url=house.url, timeout=60) as http:
                took = sorted(_board(http, ROOT / "demo" / "quay-davit.igs", number) for number in range(3))
                told(took[1] <= BOARD, f"a swatch board of four on one part: {took[1]:.2f} s (at most {BOARD})")
        finally:
            house.close()


def in_view() -> None:
    """Another chord error for the large assembly: twenty parts that are looked at, against what meshing them takes a
    worker; and that no mesh is
    made twice, by how many rows the database counts."""
    from bench.assembly import write_assembly
    from bench.changes import _job
    from tests.support import House, throwaway_cluster

    with throwaway_cluster() as server, tempfile.TemporaryDirectory() as folder:
        os.environ["HEMP_LADDER_TEST_SERVER"] = server
        house = House(1)
        try:
            with (
                httpx.Client(base_url=house.url, timeout=60) as http,
                psycopg.connect(house.environment["HEMP_LADDER_DATABASE"], autocommit=True) as base,
            ):
                job = _job(http, write_assembly(Path(folder) / "large.step"))
                looked_at = list(range(100, 120))
                for metres in (0.0008, 0.0004):
                    waited, took, whole, made = _changed(http, base, job, metres, looked_at)
                    told(waited <= took + IN_VIEW, f"chord error {metres * 1000:.1f} mm for 300 parts in 3,000 places: 20 in "
                         f"view after {waited:.2f} s, their meshes took a worker {took:.2f} s (at most {IN_VIEW} s more); "
                         f"all after {whole:.1f} s")  # fmt: skip
                    told(made == 300, f"{made} meshes were made of 300 parts (each once)")
        finally:
            house.close()


def _changed(
    http: httpx.Client, base: "psycopg.Connection[Any]", job: int, metres: float, looked_at: list[int]
) -> tuple[float, float, float, int]:
    """Seconds until parts are there, seconds of a worker that those took, seconds until all are; rows that were written."""
    rows = "select n_tup_ins + n_tup_upd from pg_stat_user_tables where relname = 'meshes'"
    time.sleep(_FLUSHED)
    (before,) = _one(base, rows)
    begun = time.perf_counter()
    decided(http, job, looked_at, facet={"chord": {"kind": "absolute", "metres": metres}})
    parts = http.get(f"/api/jobs/{job}/result").json()["parts"]
    keys = [parts[part]["mesh"] for part in looked_at]
    there = "select count(*), coalesce(sum((figures->>'seconds')::float), 0) from meshes where key = any(%s)"
    while _one(base, there, keys)[0] < len(set(keys)):
        time.sleep(0.02)
    waited = time.perf_counter() - begun
    took = float(_one(base, there, keys)[1])
    while http.get(f"/api/jobs/{job}").json()["climb"]["state"] != "done":
        time.sleep(0.1)
    whole = time.perf_counter() - begun
    time.sleep(_FLUSHED)
    return waited, took, whole, int(_one(base, rows)[0] - before)


def _one(base: "psycopg.Connection[Any]", query: str, *given: Any) -> tuple[Any, ...]:
    found = base.execute(query, given or None).fetchone()
    assert found is not None
    return tuple(found)


def _board(http: httpx.Client, path: Any, turn: int) -> float:
    from bench.changes import _job

    job = _job(http, path)
    parts = http.get(f"/api/jobs/{job}/result").json()["parts"]
    heavy = max(range(len(parts)), key=lambda part: parts[part]["triangles"] or 0)
    settings = [
        {"chord": {"kind": "absolute", "metres": metres}, "degrees": 15 + turn} for metres in (0.004, 0.002, 0.0002)
    ]

    def ask() -> bool:
        answer = http.post(f"/api/jobs/{job}/facet/swatches", json={"parts": [heavy], "settings": settings}).json()
        return all(swatch["ready"] for swatch in answer["swatches"])

    return _until(ask)


def _until(done: Callable[[], bool]) -> float:
    start = time.perf_counter()
    while not done():
        time.sleep(0.05)
    return time.perf_counter() - start


if __name__ == "__main__":
    main()
