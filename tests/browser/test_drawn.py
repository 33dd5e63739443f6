"""A drawing and a sign in a real browser: from no unit to solids in true size, from strokes to a printable plate."""

import io
import re
import unittest
import zipfile

import numpy as np
import trimesh
from playwright.sync_api import Locator, expect

from tests.browser.test_path import BrowserCase
from tests.support import ROOT

DRAWING = ROOT / "demo" / "site-drawing.dxf"
SIGN = ROOT / "demo" / "harbour-sign.svg"


class Drawn(BrowserCase):
    def drop(self, path) -> None:  # type: ignore[no-untyped-def]
        self.page.goto(f"{self.house.url}/?light")
        self.page.get_by_label("Files for a new job").set_input_files(str(path))
        self.page.wait_for_url(re.compile(r"/jobs/\d+"))
        self.meshed()
        self.open_rung("Receive")

    def board(self) -> Locator:
        self.page.get_by_role("button", name="Outlines and heights").click()
        board = self.page.get_by_role("region", name="Outlines and heights").filter(has_text="Done")
        expect(board.get_by_label(re.compile("^Plan of"))).to_be_visible()
        return board

    def finding(self, text: str) -> Locator:
        return self.page.get_by_role("region", name="Findings").get_by_role("listitem").filter(has_text=text)

    def type(self, board: Locator, label: str, text: str) -> None:
        field = board.get_by_label(label, exact=True)
        field.fill(text)
        field.press("Enter")

    def shipped(self, kind: str) -> trimesh.Scene:
        self.page.get_by_role("button", name=f"Ship as {kind}").click()
        self.page.get_by_role("link", name="Receipt").click()
        expect(self.page.get_by_text("receipt in order")).to_be_visible()
        with self.page.expect_download() as waiting:
            self.page.get_by_role("link", name=re.compile("Download ZIP")).click()
        with zipfile.ZipFile(waiting.value.path()) as archive:
            name = next(item for item in archive.namelist() if item.endswith(f".{kind.lower()}"))
            return trimesh.load_scene(io.BytesIO(archive.read(name)), file_type=kind.lower())

    def test_a_site_drawing_from_no_unit_to_solids_in_true_size(self) -> None:
        page = self.page
        self.drop(DRAWING)
        self.finding("declares no unit").get_by_role("button", name=re.compile("It is mm")).click()
        expect(self.finding("declares no unit")).to_contain_text("settled")
        expect(page.get_by_text("7 await a height")).to_be_visible()
        board = self.board()
        self.accessible("Outlines")
        self.type(board, "Height of Quay", "1.2 m")
        self.type(board, "Height of House walls", "2.6 m")
        board.get_by_role("row", name="House walls").get_by_role("button").first.click()
        board.get_by_label("Solid areas of House walls").get_by_role("radio", name="Alternating").click()
        expect(board.get_by_text(re.compile("1 hole|2 holes"))).to_be_visible()
        self.type(board, "Largest gap that is closed", "30 mm")
        self.type(board, "Height of Garden wall", "900 mm")
        self.type(board, "Wall around Garden wall", "300 mm")
        self.accessible("Outlines with heights")
        # A shape is chosen by a click, turned into a hole by another, and back by undo.
        plan = board.get_by_label(re.compile("^Plan of"))
        box = plan.bounding_box()
        assert box
        # The quay's left part, where nothing else lies.
        spot = box["x"] + box["width"] * 0.16, box["y"] + box["height"] * 0.62
        page.mouse.click(*spot)
        expect(board.get_by_text("solid, 1.20 m high")).to_be_visible()
        # It may stand on another layer, whatever its own layer stands on.
        board.get_by_label(re.compile("^What Quay: .* stands on")).click()
        page.get_by_role("option", name="the top of House walls").click()
        expect(board.get_by_text("from 2.60 m up")).to_be_visible()
        page.keyboard.press("Control+z")
        expect(board.get_by_text("from 2.60 m up")).to_have_count(0)
        page.mouse.click(*spot)
        expect(board.get_by_text("a hole in others")).to_be_visible()
        board.get_by_role("button", name="Done").click()
        page.get_by_role("button", name="Undo", exact=True).click()
        expect(page.locator("header").first).to_contain_text("58.0 × 33.0 × 5.20 m")
        page.reload()
        self.meshed()
        self.open_rung("Ship")
        scene = self.shipped("GLB")
        # Metres, Y up: 58.04 by 33 metres of the drawing, from the water to the top of the walls.
        np.testing.assert_allclose(scene.extents[[0, 2]], [58.041, 33.0], atol=2e-3)
        walls = [g for name, g in scene.geometry.items() if "House walls" in name]
        self.assertTrue(walls)
        for wall in walls:
            wall.merge_vertices(merge_norm=True)
            self.assertTrue(wall.is_watertight)
        # Walls of 500 mm, 2.6 m high: the outline with the tower's half round, less the rooms; the stair's bore is a
        # part of the outline less its own.
        self.assertAlmostEqual(max(float(w.extents[2]) for w in walls), 2.6, places=3)

    def test_a_sign_from_strokes_to_a_printable_plate(self) -> None:
        page = self.page
        self.drop(SIGN)
        expect(self.finding("Harbour office")).to_be_visible()
        with page.expect_download() as waiting:
            page.get_by_role("link", name="Save cleaned SVG").click()
        self.assertEqual(waiting.value.suggested_filename, "harbour-sign-clean.svg")
        board = self.board()
        self.type(board, "Height of All outlines", "2 mm")
        self.type(board, "Height of Board", "4 mm")
        for layer in ("Rope", "Light", "Waves", "Name"):
            board.get_by_role("row", name=layer).get_by_role("button").first.click()
            self.choose(f"What {layer} stands on", "the top of Board")
        self.type(board, "Width of the nozzle", "0.4 mm")
        expect(board.get_by_text("1 place found")).to_be_visible()
        board.get_by_role("button", name="Done").click()
        thin = self.finding("thinner than 0.40 mm")
        thin.get_by_role("button", name="Make them 0.40 mm wide").click()
        expect(thin).to_have_count(0)
        board = self.board()
        expect(board.get_by_text("none found")).to_be_visible()
        board.get_by_role("button", name="Done").click()
        self.open_rung("Ship")
        page.get_by_role("radio", name="STL").click()
        scene = self.shipped("STL")
        # Millimetres, Z up: the plate of 404 by 244, four high, and what stands on it.
        np.testing.assert_allclose(scene.extents, [404, 244, 6], atol=0.02)


if __name__ == "__main__":
    unittest.main()
