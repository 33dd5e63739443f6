"""A job of a hundred thousand placements in a house of its own: the web process, and the ledger in a browser.

`python -m bench.large`: drops the tower, watches the web process's memory,
and times actions in the ledger from the event to the frame after it.
"""

import re
import shutil
import time
from pathlib import Path
from typing import Any

import httpx
from playwright.sync_api import Page, sync_playwright

from bench.tower import write_tower
from house.packages import BROWSER
from house.places import ROOT
from tests.support import House, throwaway_cluster

FLAGS = ["--no-sandbox", "--use-gl=angle", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--disable-quic"]
#: Runs an action in the page; gives the milliseconds until React has put it on the page, and those spent drawing
#: the stage within them. Drawing in software takes seconds at this size and says nothing of a graphics card, so it
#: is taken off; what the page itself does, laying the frame out included, is not.
_TIMED = """
async (act) => {
  const run = new Function(act), ask = window.requestAnimationFrame;
  let drawing = 0;
  window.requestAnimationFrame = (draw) => ask((at) => {
    const from = performance.now();
    draw(at);
    drawing += performance.now() - from;
  });
  const began = performance.now();
  run();
  await new Promise((done) => setTimeout(done, 0));
  const took = performance.now() - began;
  window.requestAnimationFrame = ask;
  return [took - drawing, drawing];
}
"""
_TYPE = (
    "const box = document.querySelector('input[aria-label^=\"Find a part\"]');"
    "Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(box, %r);"
    "box.dispatchEvent(new Event('input', {bubbles: true}));"
)
_CLICK = "document.querySelector(%r).click();"
ACTIONS = {
    "tree": _CLICK
    % '[aria-label="Form of the ledger"] button[value="tree"], [aria-label="Form of the ledger"] [role=radio]:first-child',
    "open a storey": "const rows = [...document.querySelectorAll('[role=row] button[aria-label^=Open]')]; rows.at(-1).click();",
    "scroll": "document.querySelector('[role=grid] .overflow-y-scroll').scrollTop = 20000;",
    "choose a row": "document.querySelectorAll('[role=row][aria-selected]')[3].click();",
    "search": _TYPE % "level 7",
    "search no more": _TYPE % "",
    "table": _CLICK % '[aria-label="Form of the ledger"] [role=radio]:last-child',
}


def main() -> None:
    """Print a line for each figure."""
    path = write_tower(ROOT / "bench" / "out" / "tower.ifc")
    import os

    with throwaway_cluster() as server:
        os.environ["HEMP_LADDER_TEST_SERVER"] = server
        house = House(1)
        try:
            _measure(house, path)
        finally:
            house.close()


def _memory(pid: int) -> float:
    text = Path(f"/proc/{pid}/status").read_text()
    return int(re.search(r"VmHWM:\s+(\d+)", text)[1]) / 1024  # type: ignore[index]


def _measure(house: House, path: Path) -> None:
    http = httpx.Client(base_url=house.url, timeout=300)
    http.get("/api/jobs")
    before = _memory(house.web.pid)
    began = time.monotonic()
    with path.open("rb") as file:
        sent = http.put("/api/uploads", params={"name": path.name}, content=file).json()
    job = http.post("/api/jobs", json={"name": "Tower", "files": [sent]}).json()["id"]
    structure = ready = 0.0
    while not ready:
        view: dict[str, Any] = http.get(f"/api/jobs/{job}").json()
        if view["model_key"] and not structure:
            http.get(f"/api/jobs/{job}/structure")
            structure = time.monotonic() - began
        if view["state"] == "ready" and view["climb"]["state"] == "done":
            http.get(f"/api/jobs/{job}/result")
            ready = time.monotonic() - began
        if view["state"] == "refused":
            raise SystemExit(str(view["sources"]))
        time.sleep(0.25)
    print(f"{path.stat().st_size / 1e6:.1f} MB: structure after {structure:.1f} s, all triangles after {ready:.1f} s")
    grown = _memory(house.web.pid) - before
    print(
        f"{'ok  ' if grown <= 200 else 'OVER'} web process grown by {grown:.0f} MB at its peak (at most 200)",
        flush=True,
    )
    with sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path=shutil.which(BROWSER), args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{house.url}/jobs/{job}?light")
        page.get_by_role("grid", name="Parts").get_by_role("row").nth(3).wait_for(timeout=120_000)
        page.wait_for_timeout(20_000)
        for name, act in ACTIONS.items():
            took, drawing = _timed(page, act)
            also = f", and {drawing:.0f} ms drawing in software" if drawing >= 1 else ""
            print(f"{'ok  ' if took <= 100 else 'OVER'} {name}: {took:.0f} ms (at most 100){also}", flush=True)
        browser.close()


def _timed(page: Page, act: str) -> tuple[float, float]:
    took, drawing = page.evaluate(_TIMED, act)
    page.wait_for_timeout(8_000)
    return took, drawing


if __name__ == "__main__":
    main()
