"""Facets decided by eye and proven by measure, in a browser: from a coarse default to a swatch, an allowance and a receipt."""

import io
import json
import re
import zipfile
from pathlib import Path

import trimesh
from playwright.sync_api import expect

from tests.browser.test_path import WAIT, BrowserCase
from tests.support import ROOT

DAVIT = ROOT / "demo" / "quay-davit.igs"


class Facets(BrowserCase):
    def begin(self, path: Path) -> None:
        self.drop(path)
        self.meshed()
        self.open_rung("Facet")

    def triangles(self) -> int:
        """Over all placements, as the strip says once it is not at work on them; both are seen in one look."""
        self.meshed()
        strip = self.page.wait_for_function("() => document.querySelector('header [aria-busy=false] b')?.textContent")
        return int(str(strip.json_value()).replace(",", ""))

    def changed(self, before: int) -> int:
        """Once they are others than before."""
        for _ in range(WAIT // 100):
            if self.triangles() != before:
                break
            self.page.wait_for_timeout(100)
        return self.triangles()

    def test_from_a_coarse_default_to_a_swatch_an_allowance_and_a_receipt(self) -> None:
        page = self.page
        self.begin(DAVIT)
        default = self.triangles()
        page.get_by_role("radio", name="Background").click()
        coarse = self.changed(default)
        self.assertLess(coarse, default)
        # A part at several settings: nothing is decided until one is used.
        page.get_by_role("row").filter(has_text="Arm").first.click()
        page.get_by_role("button", name=re.compile("^Swatches of ")).click()
        board = page.get_by_role("region", name="Swatches", exact=True)
        expect(board.get_by_role("row").filter(has_text="as it is")).to_contain_text("mm")
        uses = board.get_by_role("button", name=re.compile(r"^Use .*°$"))
        expect(uses).to_have_count(3)
        expect(uses.last).to_be_enabled()
        expect(board.locator("canvas")).to_have_attribute("data-drawn", "4")
        expect(board.get_by_text(re.compile(r"px here")).first).to_be_visible()
        board.get_by_role("radio", name="Outline").click()
        curve = board.get_by_role("region", name="Triangles against error")
        expect(curve.get_by_text("knee", exact=True)).to_be_visible()
        self.accessible("Swatches")
        self.own_letters("Swatches")
        self.assertEqual(self.triangles(), coarse)
        uses.last.click()
        # What is used is as it is now, and the board goes on from there.
        expect(board.get_by_role("row").filter(has_text="as it is")).to_be_visible()
        page.keyboard.press("Escape")
        expect(board).to_have_count(0)
        expect(page.get_by_role("region", name="Exceptions")).to_contain_text("Arm")
        fine = self.changed(coarse)
        self.assertGreater(fine, coarse)
        allowance = round(fine * 0.8)
        page.get_by_role("button", name="Within an allowance").click()
        field = page.get_by_label("Allowance", exact=True)
        field.fill(str(allowance))
        field.press("Enter")
        page.get_by_role("button", name="Spread it over the parts").click()
        page.get_by_role("button", name="Use these").click()
        met = page.get_by_role("button", name="Within an allowance")
        expect(met).to_contain_text(f"met: {allowance:,} triangles")
        spent = self.changed(fine)
        self.assertLessEqual(spent, allowance)
        self.assertGreaterEqual(spent, 0.98 * allowance)
        self.accessible("Allowance")
        page.get_by_label("Colour parts by").click()
        page.get_by_role("option", name="deviation").click()
        expect(page.get_by_role("region", name="Key to the colours")).to_contain_text("from ")
        # It survives a reload; what ships is proven.
        page.reload()
        self.meshed()
        self.assertEqual(self.triangles(), spent)
        scene = self.shipped()
        self.assertEqual(sum(len(scene.geometry[scene.graph[n][1]].faces) for n in scene.graph.nodes_geometry), spent)

    def test_short_sides_and_slivers_and_the_limit_in_force(self) -> None:
        page = self.page
        self.begin(DAVIT)
        before = self.triangles()
        rung = page.get_by_role("navigation", name="Rungs")
        expect(rung.get_by_text(re.compile("Parts by what decides most of their curves: "))).to_be_visible()
        field = page.get_by_label("Shortest edge", exact=True)
        field.fill("8 mm")
        field.press("Enter")
        fewer = self.changed(before)
        self.assertLess(fewer, before)
        expect(rung.get_by_text(re.compile("[0-9] the shortest edge"))).to_be_visible()
        field = page.get_by_label("Slivers", exact=True)
        field.fill("50")
        field.press("Enter")
        # While meshes come in, only those that are there are counted.
        for _ in range(WAIT // 100):
            if self.triangles() > fewer:
                break
            page.wait_for_timeout(100)
        self.assertGreater(self.triangles(), fewer)
        expect(field).to_have_value("50 % more")
        expect(rung.get_by_text(re.compile("Cutting them across took"))).to_be_visible()
        page.get_by_role("row").filter(has_text="Arm").first.click()
        expect(rung.get_by_text(re.compile("The (angle|chord error) decides"))).to_be_visible()
        page.get_by_role("button", name=re.compile("Triangles by material")).click()
        expect(rung.get_by_role("columnheader", name="before")).to_be_visible()
        # Both limits at once are explained where they are set.
        field = page.get_by_label("Longest edge", exact=True)
        field.fill("10 mm")
        field.press("Enter")
        expect(rung.get_by_text(re.compile("are halved last"))).to_be_visible()
        page.get_by_role("button", name="Facets", exact=True).click()
        self.accessible("Facet's edges")

    def shipped(self) -> trimesh.Scene:
        page = self.page
        self.open_rung("Ship")
        page.get_by_role("button", name="Ship as GLB").click()
        expect(page.get_by_text("receipt in order", exact=True).first).to_be_visible()
        with page.expect_download() as download:
            page.get_by_role("link", name="ZIP").first.click()
        with zipfile.ZipFile(Path(download.value.path())) as bundle:
            proof = json.loads(bundle.read(next(n for n in bundle.namelist() if n.endswith("receipt.json"))))
            self.assertTrue(all(check["ok"] for check in proof["receipt"]["checks"]))
            model = bundle.read(next(n for n in bundle.namelist() if n.endswith(".glb")))
        return trimesh.load_scene(io.BytesIO(model), file_type="glb")

    def test_on_weak_graphics_lines_over_edges_wait_until_nothing_moves(self) -> None:
        """What the card was called for at each picture: less while the stage turns than once it stands."""
        self.begin(DAVIT)
        self.page.get_by_role("button", name="Edges", exact=True).click()
        canvas = self.page.locator("canvas").first
        canvas.evaluate("""canvas => {
            const calls = canvas.calls = [];
            new MutationObserver(() => calls.push(Number(canvas.dataset.calls)))
                .observe(canvas, { attributeFilter: ["data-calls"] });
        }""")
        canvas.press("ArrowLeft")
        fewer_then_more = "() => (calls => Math.min(...calls) < calls.at(-1))(document.querySelector('canvas').calls)"
        self.page.wait_for_function(fewer_then_more)

    def test_as_fine_as_a_lookout_shows(self) -> None:
        page = self.page
        self.begin(DAVIT)
        expect(page.get_by_role("button", name="By what is seen")).to_contain_text("no lookout")
        page.get_by_role("button", name="Lookouts").click()
        page.get_by_label("Name of the new lookout").fill("From the quay")
        page.get_by_role("button", name="Keep this view").click()
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Triangles by material").click()
        expect(page.get_by_role("columnheader", name="each part once")).to_be_visible()
        page.get_by_role("button", name="By what is seen").click()
        field = page.get_by_label("How far an outline may be off")
        field.fill("2")
        field.press("Enter")
        before = self.triangles()
        page.get_by_role("button", name="Work out from the lookouts").click()
        expect(page.get_by_text("Chord errors from")).to_be_visible()
        self.accessible("By what is seen")
        page.get_by_role("button", name="Use these").click()
        expect(page.get_by_role("button", name="By what is seen")).to_contain_text("in force")
        self.assertLess(self.changed(before), before)
        page.get_by_label("Colour parts by").click()
        page.get_by_role("option", name="near and far").click()
        expect(page.get_by_role("region", name="Key to the colours")).to_contain_text("near: chord error to")
        # Pinned, it stays when it is worked out anew.
        page.get_by_role("region", name="Exceptions").get_by_role("button", name=re.compile("^1")).click()
        page.get_by_role("checkbox", name=re.compile("^pinned")).click()
        expect(page.get_by_role("region", name="Exceptions")).to_contain_text("for lookouts, pinned")
