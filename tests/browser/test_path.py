"""The real interface in a real browser: from a dropped file to a proven GLB; and every view held against an
accessibility engine."""

import atexit
import functools
import io
import os
import re
import shutil
import unittest
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
import trimesh
from playwright.sync_api import Browser, Locator, Page, Route, expect, sync_playwright

from hemp_ladder.core.facet.settings import PURPOSES
from house.packages import BROWSER
from house.places import WEB
from tests.support import AS1, DEMO, HouseCase, broken_files

#: Pages are put together without a card: to do that on a simulated one took half of the processors' time.
FLAGS = [
    "--no-sandbox", "--use-gl=angle", "--use-angle=swiftshader", "--enable-unsafe-swiftshader",
    "--disable-gpu-compositing", "--disable-background-networking", "--disable-component-update", "--disable-sync",
    "--no-first-run", "--disable-quic",
]  # fmt: skip
#: Where decisions are sent to.
DECISIONS = re.compile(r"/api/jobs/\d+/decisions$")
#: Milliseconds that anything may take, on a busy machine too.
WAIT = int(os.environ.get("HEMP_LADDER_TEST_WAIT", "120000"))
AXE = (WEB / "node_modules" / "axe-core" / "axe.min.js").read_text()


@functools.cache
def browser() -> Browser:
    """The browser of this process; each test has a profile of its own in it."""
    driver = sync_playwright().start()
    started = driver.chromium.launch(executable_path=shutil.which(BROWSER), args=FLAGS)
    # The last first: the browser before who drives it.
    atexit.register(driver.stop)
    atexit.register(started.close)
    return started


class BrowserCase(HouseCase):
    def setUp(self) -> None:
        context = browser().new_context(
            viewport={"width": 1280, "height": 800}, device_scale_factor=0.5, accept_downloads=True,
            reduced_motion="reduce",
        )  # fmt: skip
        context.set_default_timeout(WAIT)
        expect.set_options(timeout=WAIT)
        self.page: Page = context.new_page()
        self.faults: list[str] = []
        self.page.on("pageerror", lambda error: self.faults.append(str(error)))
        self.page.on("console", lambda told: self.faults.append(told.text) if told.type == "error" else None)
        self.addCleanup(context.close)
        self.addCleanup(self.page.unroute_all, behavior="ignoreErrors")

    def tearDown(self) -> None:
        # What nobody waits for any more shall not slow down the tests to come: a model in a wrong unit meshes for a minute.
        for job in self.http.get("/api/jobs").json():
            if job["meshing"]:
                self.http.post(f"/api/jobs/{job['id']}/cancel")
        self.assertEqual([fault for fault in self.faults if "status of 4" not in fault], [])

    def drop(self, path: Path) -> None:
        self.page.goto(f"{self.house.url}/?light")
        self.page.get_by_label("Files for a new job").set_input_files(str(path))
        self.page.wait_for_url(re.compile(r"/jobs/\d+"))

    def begin_coarse(self, *paths: Path) -> int:
        """A job of the files in few triangles, for tests that are not about these: its number."""
        job = int(self.make_job(*paths)["id"])
        self.decide(job, "From afar", facet=PURPOSES["background"].model_dump(mode="json"))
        self.page.goto(f"{self.house.url}/jobs/{job}?light")
        self.meshed()
        return job

    @contextmanager
    def held(self) -> Iterator[None]:
        """The first decision made here reaches the server only when the others have been made."""
        first: list[Route] = []

        def hold(route: Route) -> None:
            if first:
                route.continue_()
            else:
                first.append(route)

        self.page.route(DECISIONS, hold)
        yield
        while not first:
            self.page.wait_for_timeout(50)
        first[0].continue_()

    def rung(self, name: str) -> Locator:
        return self.page.locator("nav li button[aria-expanded]", has_text=name)

    def open_rung(self, name: str) -> None:
        if self.rung(name).get_attribute("aria-expanded") != "true":
            self.rung(name).click()

    def section(self, name: str) -> None:
        """Of an open rung."""
        button = (
            self.page.get_by_role("group", name=name, exact=True).get_by_role("button", name=name, exact=False).first
        )
        if button.get_attribute("aria-expanded") != "true":
            button.click()

    def choose(self, label: str, option: str) -> None:
        self.page.get_by_label(label, exact=True).click()
        self.take(option)

    def take(self, option: str) -> None:
        """Of an open list."""
        self.page.get_by_role("option", name=option, exact=True).click()
        expect(self.page.get_by_role("listbox")).to_have_count(0)

    def meshed(self) -> None:
        expect(self.rung("Facet")).to_contain_text("triangles")
        expect(self.page.get_by_role("progressbar", name="Meshing")).to_have_count(0)
        # Decided, answered, and counted anew.
        expect(self.page.locator("header [aria-busy=true]")).to_have_count(0)

    def accessible(self, view: str) -> None:
        """Nothing that axe-core remarks, of whatever severity, at a small and at a large size."""
        if not self.page.evaluate("'axe' in window"):
            self.page.evaluate(AXE)
        for width, height in ((1920, 1080), (1280, 800)):
            self.page.set_viewport_size({"width": width, "height": height})
            found: dict[str, Any] = self.page.evaluate("axe.run(document, {resultTypes: ['violations']})")
            told = [
                f"{item['id']} ({item['impact']}): {node['html'][:160]}"
                for item in found["violations"]
                for node in item["nodes"][:3]
            ]
            self.assertEqual(told, [], f"{view}, {width} wide")

    def own_letters(self, view: str) -> None:
        """Every letter comes from a font of ours."""
        self.assertEqual(self.strange_fonts(), {}, view)

    def strange_fonts(self) -> dict[str, str]:
        """Texts with letters that none of our fonts has, by the font that the machine lent."""
        talk = self.page.context.new_cdp_session(self.page)
        talk.send("DOM.enable")
        talk.send("CSS.enable")
        found: dict[str, str] = {}

        def look(node: dict[str, Any]) -> None:
            children = node.get("children", [])
            texts = [child["nodeValue"] for child in children if child["nodeType"] == 3]
            if any(text.strip() for text in texts) and node["nodeName"] not in ("STYLE", "SCRIPT", "TITLE"):
                for font in talk.send("CSS.getPlatformFontsForNode", {"nodeId": node["nodeId"]})["fonts"]:
                    if not font["familyName"].startswith(("Atkinson Hyperlegible", "Bricolage Grotesque")):
                        found[font["familyName"]] = " ".join(texts)[:80]
            for child in children:
                look(child)

        look(talk.send("DOM.getDocument", {"depth": -1})["root"])
        talk.detach()
        return found


class WholePath(BrowserCase):
    def test_from_a_dropped_file_to_a_proven_glb(self) -> None:
        page = self.page
        self.drop(DEMO)
        expect(self.rung("Receive")).to_contain_text("58 parts, 533 placements")
        self.open_rung("Receive")
        expect(page.get_by_text("6 parts have neither colour, layer nor material")).to_be_visible()
        self.accessible("Receive")
        self.meshed()

        # Facet: coarser by the purpose, one part finer of its own.
        self.open_rung("Facet")
        before = page.locator("header b", has_text=re.compile(r"^[\d,]+$")).first.inner_text()
        page.get_by_role("radio", name="Background").click()
        expect(page.locator("header")).to_contain_text("before")
        self.meshed()
        expect(page.locator("header")).to_contain_text(f"{before} before")
        self.accessible("Facet")
        self.own_letters("Facet")

        # Fit: what was drawn in millimetres is stated to be inches, then taken back.
        self.open_rung("Fit")
        self.choose("Unit of the source", "inch (in)")
        expect(self.rung("Fit")).to_contain_text("184 m")
        page.get_by_role("button", name="Undo", exact=True).click()
        expect(self.rung("Fit")).to_contain_text("7.26 m")
        self.choose("Up axis of the source", "Y is up")
        expect(page.locator("header")).to_contain_text("4.20 × 7.26 × 4.36 m")
        self.choose("Up axis of the source", "default: Z")
        self.accessible("Fit")

        # Sort: a rule, then loose ends to none.
        self.open_rung("Sort")
        page.get_by_role("button", name="Rules…").click()
        page.get_by_role("button", name="Add a rule").click()
        self.choose("Rule 1 matches", "Fasteners")
        self.choose("Material of rule 1", "Galvanised steel")
        page.get_by_role("button", name="Done", exact=True).click()
        page.get_by_role("button", name="Show them").click()
        expect(page.get_by_text("6 parts chosen")).to_be_visible()
        self.choose("Material for all loose ends", "Plain clay")
        expect(page.get_by_text("No loose ends")).to_be_visible()
        self.accessible("Sort")

        # Mend: flip a part, see it counted, undo.
        self.open_rung("Mend")
        page.get_by_label("Find a part, layer, class or material").fill("Cupola")
        page.get_by_role("gridcell", name="Cupola", exact=True).click()
        page.get_by_role("button", name="Flip the chosen part").click()
        expect(self.rung("Mend")).to_contain_text("1 inside out")
        page.get_by_role("button", name="Undo", exact=True).click()
        expect(self.rung("Mend")).to_contain_text("0 inside out")
        self.accessible("Mend")

        # The ledger as a tree; hide and show; the history.
        page.get_by_label("Find a part, layer, class or material").fill("")
        # Nothing is chosen any more that the tree would open up to.
        self.rung("Mend").press("Escape")
        page.get_by_role("radio", name="Tree").click()
        page.get_by_role("button", name="Open Gull Rock lantern").or_(
            page.get_by_text("Optic", exact=True)
        ).first.click()
        page.get_by_text("Roof", exact=True).first.click()
        page.get_by_role("button", name=re.compile("^With ")).click()
        page.get_by_role("menuitem", name="Hide").click()
        expect(page.get_by_text(re.compile(r"\d+ hidden")).first).to_be_visible()
        page.keyboard.press("a")
        page.get_by_role("button", name="History").click()
        expect(page.get_by_role("dialog")).to_contain_text("6 loose ends settled")
        self.accessible("History")
        page.get_by_role("button", name="Close").click()

        # What was decided survives a reload.
        page.reload()
        expect(self.rung("Sort")).to_contain_text("no loose end")

        # Ship, read the receipt, download, and open the GLB with a reference library.
        self.open_rung("Trim")
        self.accessible("Trim")
        self.open_rung("Ship")
        self.accessible("Ship")
        page.get_by_role("button", name="Ship as GLB").click()
        page.get_by_role("link", name="Receipt").click()
        expect(page.get_by_text("receipt in order")).to_be_visible()
        self.accessible("Delivery")
        self.own_letters("Delivery")
        with page.expect_download() as waiting:
            page.get_by_role("link", name=re.compile("Download ZIP")).click()
        self.check_delivery(Path(waiting.value.path()))
        page.goto(self.house.url)
        # The newest is on top, whoever else works in this house.
        expect(page.get_by_role("list", name="Jobs").get_by_role("listitem").first).to_contain_text("receipt in order")
        self.accessible("Jobs")
        self.own_letters("Jobs")

    def check_delivery(self, bundle: Path) -> None:
        with zipfile.ZipFile(bundle) as archive:
            name = next(item for item in archive.namelist() if item.endswith(".glb"))
            scene = trimesh.load_scene(io.BytesIO(archive.read(name)), file_type="glb")
        np.testing.assert_allclose(scene.extents, [4.2, 7.26, 4.36], atol=0.01)
        worn = {geometry.visual.material.name for geometry in scene.geometry.values()}
        self.assertLessEqual({"Galvanised steel", "Plain clay"}, worn)
        self.assertNotIn("Undecided", worn)
        for name, mesh in scene.geometry.items():
            if not mesh.metadata.get("from_gltf_primitive"):
                whole = trimesh.Trimesh(mesh.vertices, mesh.faces)
                self.assertGreater(whole.volume, 0, f"{name} is inside out")

    def test_a_broken_file_says_why(self) -> None:
        folder = self.house.folder / "broken"
        folder.mkdir()
        self.drop(broken_files(folder)["truncated"])
        expect(self.rung("Receive")).to_contain_text("refused")
        expect(self.page.get_by_text("The file stops before its end")).to_be_visible()
        self.accessible("Refused")

    def test_the_stage_draws_picks_and_compares(self) -> None:
        page = self.page
        self.drop(AS1)
        self.meshed()
        canvas = page.locator("canvas")
        expect(canvas).to_have_attribute("data-calls", re.compile(r"\d+"))
        page.wait_for_timeout(1500)
        picture = np.frombuffer(canvas.screenshot(type="png"), np.uint8)
        self.assertGreater(len(picture), 8000, "the stage shows nothing")
        box = canvas.bounding_box()
        assert box
        page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] * 0.55)
        expect(page.get_by_text("1 part chosen")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.get_by_text("1 part chosen")).to_have_count(0)
        self.open_rung("Facet")
        chord = page.get_by_label("Chord error, typed").first
        chord.fill("5 mm")
        chord.press("Enter")
        self.meshed()
        page.get_by_role("button", name="Before and after").click()
        rope = page.get_by_role("slider", name="Rope between before and now")
        rope.press("ArrowRight")
        expect(rope).to_have_attribute("aria-valuenow", "48")
        self.accessible("Comparing")
        page.keyboard.press("?")
        expect(page.get_by_role("dialog")).to_contain_text("open a rung")
        page.keyboard.press("Escape")
        slider = page.get_by_role("slider", name="Chord error")
        slider.focus()
        for _ in range(5):
            slider.press("ArrowLeft")
        expect(page.get_by_role("button", name="Undo", exact=True)).to_be_enabled()
        self.meshed()

    def test_the_interface_is_documented(self) -> None:
        self.page.goto(f"{self.house.url}/api/docs")
        expect(self.page.get_by_text("/api/jobs/{job_id}/decisions").first).to_be_visible()


if __name__ == "__main__":
    unittest.main()
