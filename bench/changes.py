"""`python -m bench.changes`: from a decision to the meshes it asks for, through a whole house with one worker.

What the artist waits for: the decision put in force over HTTP, queued, made
by the worker's children, stored and told. The making alone stands in
`bench.climbs` and `bench.drawings`; the difference is what the house adds.
"""

import os
import time
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import ezdxf
import httpx

from house.places import ROOT
from tests.support import House, throwaway_cluster

Rows = list[dict[str, Any]]
_ALL: Rows = [{"by": "all", "height": 0.003}]


def main() -> None:
    """Print a line for each figure: the median of three."""
    with throwaway_cluster() as server:
        os.environ["HEMP_LADDER_TEST_SERVER"] = server
        house = House(1)
        try:
            with httpx.Client(base_url=house.url, timeout=60) as http:
                for name, took in (*_lantern(http), *_outlines(http)):
                    print(f"{name}: {sorted(took)[1]:.2f} s", flush=True)
        finally:
            house.close()


def _lantern(http: httpx.Client) -> Iterator[tuple[str, list[float]]]:
    job = _job(http, ROOT / "demo" / "gull-rock-lantern.step")
    yield (
        "the lantern, 58 parts, at another angle",
        [_took(http, job, facet={"degrees": degrees}) for degrees in (17, 18, 19)],
    )


def _outlines(http: httpx.Client) -> Iterator[tuple[str, list[float]]]:
    job = _job(http, write_posts(ROOT / "bench" / "out" / "posts.dxf"))
    heights: list[Rows] = [[{"by": "all", "height": h}] for h in (0.001, 0.002, 0.003)]
    yield "1,000 outlines of another height", [_took(http, job, rows) for rows in heights]
    layer: list[Rows] = [[*_ALL, {"by": "layer", "match": "Posts", "height": h}] for h in (0.004, 0.005, 0.006)]
    yield "of one of their two layers", [_took(http, job, rows) for rows in layer]
    walls: list[Rows] = [[{"by": "all", "height": 0.003, "wall": w}] for w in (0.0005, 0.001, 0.002)]
    yield "with another wall", [_took(http, job, rows) for rows in walls]


def write_posts(path: Path) -> Path:
    """A thousand circles of their own size on two layers, in millimetres."""
    path.parent.mkdir(parents=True, exist_ok=True)
    doc = ezdxf.new("R2010", units=4)
    for k in range(1000):
        layer = {"layer": "Posts" if k % 2 else "Bollards"}
        doc.modelspace().add_circle((k % 40 * 15, k // 40 * 15), 5 + k / 1000, dxfattribs=layer)
    doc.saveas(path)
    return path


def _job(http: httpx.Client, path: Path) -> int:
    sent = http.put("/api/uploads", params={"name": path.name}, content=path.read_bytes()).json()
    job = http.post("/api/jobs", json={"name": path.stem, "files": [sent]}).json()
    while job["state"] != "ready" or job["climb"]["state"] != "done":
        time.sleep(0.2)
        job = http.get(f"/api/jobs/{job['id']}").json()
    return int(job["id"])


def decided(http: httpx.Client, job: int, first: Sequence[int] = (), **sections: Any) -> dict[str, Any]:
    """The job with sections laid over its decisions; what is to be made first."""
    now = http.get(f"/api/jobs/{job}").json()
    for section, values in sections.items():
        now["decisions"][section] = {**now["decisions"][section], **values}
    body = {"decisions": now["decisions"], "label": "bench", "base": now["decisions_id"], "first": list(first)}
    answer = http.put(f"/api/jobs/{job}/decisions", json=body)
    if answer.is_error:
        raise RuntimeError(answer.text)
    view: dict[str, Any] = answer.json()
    return view


def _took(http: httpx.Client, job: int, rows: Rows | None = None, **sections: Any) -> float:
    """Seconds until all meshes of a decision are there."""
    if rows is not None:
        drawn = http.get(f"/api/jobs/{job}").json()["decisions"]["receive"]["drawn"]
        sections["receive"] = {"drawn": {**drawn, "rows": rows}}
    began = time.monotonic()
    view = decided(http, job, **sections)
    while view["climb"]["state"] != "done":
        time.sleep(0.05)
        view = http.get(f"/api/jobs/{job}").json()
    return time.monotonic() - began


if __name__ == "__main__":
    main()
