"""`python -m bench.page`: how the bench's page fares with large jobs, in a real browser.

A site of 100,000 placements of 5,000 parts and one of 10,000 parts placed once
each; their meshes come in a hundred at a time while the page is open. Told are
the longest task on the page's own thread (Long Tasks, W3C) while they arrive,
the draw calls, and how long what a person does takes until the page has drawn
again: typing in the ledger's search, choosing, hiding, another look. The
browser draws without a graphics card, so frames themselves are slow here;
that is another process's work.
"""

import math
import os
import shutil
import subprocess
import sys
import time
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np
from playwright.sync_api import sync_playwright

from bench.views import site
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.mesh.mesh import Mesh
from house.packages import BROWSER
from tests.support import House, throwaway_cluster

#: Milliseconds that nothing may take on the page.
ALLOWED = 100
CALLS = 500
BATCH = 100
FLAGS = ["--no-sandbox", "--use-gl=angle", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--disable-quic"]
_WATCH = """
window.tasks = [];
new PerformanceObserver((list) => { for (const entry of list.getEntries()) window.tasks.push(entry.duration); })
  .observe({ type: "longtask" });
"""
#: Milliseconds from an act until the page's own thread has done what it set going at once.
_ANSWER = """
async (act) => {
  const began = performance.now();
  eval(act);
  for (let turn = 0; turn < 3; turn++) await new Promise((tell) => setTimeout(tell));
  return performance.now() - began;
}
"""


def ball(rings: int) -> Mesh:
    """A ball of about `2 * rings * rings` triangles, half a metre across."""
    around, up = np.meshgrid(np.linspace(0, 2 * math.pi, rings + 1), np.linspace(0, math.pi, rings // 2 + 1))
    spots = np.stack([np.cos(around) * np.sin(up), np.sin(around) * np.sin(up), np.cos(up)], axis=-1).reshape(-1, 3)
    wide = rings + 1
    corner = (np.arange(rings // 2)[:, None] * wide + np.arange(rings)).reshape(-1)
    first = np.stack([corner, corner + wide, corner + 1], axis=1)
    second = np.stack([corner + 1, corner + wide, corner + wide + 1], axis=1)
    triangles = np.concatenate([first, second]).astype(np.int32)
    faces = np.array([0, len(triangles)])
    figures = Figures(len(triangles), len(spots), ((-0.25,) * 3, (0.25,) * 3), open_edges=0)
    return Mesh.of(spots * 0.25, spots.astype(np.float32), triangles, faces, figures).settled()


def main() -> None:
    """Each site in a process of its own, for each has a house of its own."""
    if len(sys.argv) > 1:
        parts, places, rings = map(int, sys.argv[1:])
        with throwaway_cluster() as server:
            os.environ["HEMP_LADDER_TEST_SERVER"] = server
            house = House(workers=0)
            try:
                os.environ.update({key: value for key, value in house.environment.items() if "HEMP" in key})
                _measure(house, f"{places:,} placements of {parts:,} parts", parts, places, rings)
            finally:
                house.close()
    else:
        for parts, places, rings in ((5_000, 100_000, 12), (10_000, 10_000, 16)):
            subprocess.run([sys.executable, "-m", "bench.page", str(parts), str(places), str(rings)], check=True)


def _measure(house: House, name: str, parts: int, places: int, rings: int) -> None:
    job, batches = _prepare(parts, places, rings)
    with sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path=shutil.which(BROWSER), args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.set_default_timeout(180_000)
        page.add_init_script(_WATCH)
        page.goto(f"{house.url}/jobs/{job}?light")
        page.get_by_role("grid", name="Parts").get_by_role("row").nth(3).wait_for()
        page.wait_for_timeout(2000)
        opened = page.evaluate("window.tasks.splice(0)")
        print(f"{name}: opening, longest task {max(opened, default=0):.0f} ms", flush=True)
        for _ in batches:
            page.wait_for_timeout(250)
        page.wait_for_function("!document.querySelector('[role=progressbar][aria-label=Meshing]')", timeout=300_000)
        page.wait_for_timeout(4000)
        arriving = page.evaluate("window.tasks.splice(0)")
        _told("  while meshes arrive, longest task", max(arriving, default=0), ALLOWED)
        if parts == places:
            _told("  draw calls", int(page.locator("canvas").get_attribute("data-calls") or 0), CALLS, "")
        for what, act in _acts():
            page.evaluate("window.tasks.splice(0)")
            took = page.evaluate(_ANSWER, act)
            page.wait_for_timeout(1500)
            # What it sets going afterwards may not hold the page up either.
            _told(f"  {what}", max(took, *page.evaluate("window.tasks.splice(0)"), 0), ALLOWED)
        browser.close()


def _acts() -> Iterator[tuple[str, str]]:
    """What a person does, as a script that does it."""
    field = "document.querySelector('input[aria-label^=\"Find a part\"]')"
    setter = "Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set"
    type_ = (
        f"{setter}.call({field}, {field}.value + '%s'); {field}.dispatchEvent(new Event('input', {{bubbles: true}}))"
    )
    click = "[...document.querySelectorAll('button')].find((one) => one.textContent === '%s').click()"
    yield "a key in the ledger's search", type_ % "1"
    yield (
        "the search emptied",
        f"{setter}.call({field}, ''); {field}.dispatchEvent(new Event('input', {{bubbles: true}}))",
    )
    yield "the ledger as a tree", click % "Tree"
    yield "a key in the search of the tree", type_ % "1"
    yield "a row chosen", "document.querySelectorAll('[role=row]')[3].click()"
    yield "what is chosen hidden", click % "Hide"
    yield "everything shown", click % "Show all"
    yield "another look", click % "Colours"
    yield "another rung", "document.querySelectorAll('nav li button[aria-expanded]')[3].click()"


def _told(what: str, value: float, allowed: float, unit: str = " ms") -> None:
    print(f"{'ok  ' if value <= allowed else 'OVER'} {what}: {value:.0f}{unit} (at most {allowed}{unit})", flush=True)


def _prepare(parts: int, places: int, rings: int) -> tuple[int, Iterator[int]]:
    """A job whose source is read; its meshes are put into the store as the second is gone through."""
    from hemp_ladder.core.decisions import Decisions
    from hemp_ladder.store import blobs, meshes, model_blob
    from hemp_ladder.store.database import session, tell
    from hemp_ladder.work import actions, plans, sources

    model = site(parts, places, max(1, places // 50))
    blobs.put("models/site", model_blob.encode(model))
    with session() as s:
        number = actions.create_job(s, "Site", [{"name": "site.step", "sha256": "0" * 64, "bytes": 1}]).id
        s.flush()
        (item,) = sources.sources_of(s, number)
        item.newest.state, item.newest.model_key = "ready", "site"
        item.newest.facts = _facts(parts, places)
    with session() as s:
        models = sources.models_of(sources.sources_of(s, number))
        keys = list(plans.planned(models, Decisions()).wanted())
    made = ball(rings)

    def arrive() -> Iterator[int]:
        for start in range(0, len(keys), BATCH):
            with session() as s:
                meshes.put(s, {key: replace(made) for key in keys[start : start + BATCH]})
                tell(s, number)
            yield start
            time.sleep(0.01)

    return number, arrive()


def _facts(parts: int, places: int) -> dict[str, Any]:
    return {
        "format": "STEP", "schema": "", "writer": "", "bytes": 1, "unit": "m", "up": "z", "parts": parts,
        "placements": places, "layers": 60, "hidden": [], "storeys": 0, "colours": 40, "size": [100, 100, 100],
        "middle": [0, 0, 0], "place": None,
    }  # fmt: skip


if __name__ == "__main__":
    main()
