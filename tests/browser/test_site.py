"""A site of several sources in a real browser: joined, chosen from, cut, mended by findings, and shipped."""

import io
import re
import unittest
import zipfile
from pathlib import Path

import numpy as np
import trimesh
from playwright.sync_api import Locator, expect

from tests.browser.test_path import DECISIONS, BrowserCase
from tests.support import DAVIT, DEMO, HOUSE, PUBLIC, SHED


class SiteCase(BrowserCase):
    def drop_all(self, *paths: Path) -> None:
        self.page.goto(f"{self.house.url}/?light")
        self.page.get_by_label("Files for a new job").set_input_files([str(path) for path in paths])
        self.page.wait_for_url(re.compile(r"/jobs/\d+"))

    def shipped(self) -> bytes:
        """The GLB that is shipped, whose receipt is in order."""
        page = self.page
        self.open_rung("Ship")
        page.get_by_role("button", name="Ship as GLB").click()
        page.get_by_role("link", name="Receipt").click()
        expect(page.get_by_text("receipt in order")).to_be_visible()
        with page.expect_download() as waiting:
            page.get_by_role("link", name=re.compile("Download ZIP")).click()
        with zipfile.ZipFile(waiting.value.path()) as archive:
            return archive.read(next(item for item in archive.namelist() if item.endswith(".glb")))


class Site(SiteCase):
    def finding(self, text: str) -> Locator:
        return self.page.get_by_role("region", name="Findings").get_by_role("listitem").filter(has_text=text)

    def test_house_shed_and_lantern_become_one_delivery(self) -> None:
        page = self.page
        self.drop_all(HOUSE, SHED, DEMO)
        expect(self.rung("Receive")).to_contain_text("122 parts, 673 placements")
        self.open_rung("Receive")
        sources = page.get_by_role("list", name="Sources")
        for path in (HOUSE, SHED, DEMO):
            expect(sources).to_contain_text(path.name)
        self.accessible("Several sources")

        # Three findings acted on, one taken back.
        self.finding("476 km").get_by_role("button", name="Move it near the origin").click()
        expect(self.finding("476 km")).to_contain_text("settled")
        expect(self.rung("Fit")).not_to_contain_text("km")
        self.finding("lies exactly on another").get_by_role("button", name="Take one of each").click()
        expect(self.finding("lies exactly on another")).to_contain_text("settled")
        self.finding("switched off").get_by_role("button", name="Leave them out").click()
        expect(self.finding("switched off")).to_contain_text("settled")
        page.get_by_role("button", name="Undo", exact=True).click()
        expect(self.finding("switched off").get_by_role("button", name="Leave them out")).to_be_visible()
        self.finding("lies exactly on another").get_by_role("button", name="Show it").click()
        expect(page.get_by_text("1 part chosen")).to_be_visible()

        # Properties of what was chosen on the way.
        page.get_by_label("Find a part, layer, class or material").fill("South wall, ground")
        page.get_by_role("gridcell", name="South wall, ground floor", exact=True).click()
        page.get_by_role("button", name="Properties").click()
        expect(page.get_by_text("ThermalTransmittance")).to_be_visible()
        expect(page.get_by_text("Granite rubble")).to_be_visible()
        page.keyboard.press("Escape")

        # Two storeys of the house, and of those what a polygon holds.
        page.get_by_role("button", name="Choose what enters").click()
        board = page.get_by_role("region", name="What enters").filter(has_text="Done")
        board.get_by_role("radio", name="Storeys").click()
        board.get_by_role("button", name="Only Ground floor").click()
        upper = board.get_by_role("checkbox", name="Upper floor")
        expect(upper).not_to_be_checked()
        upper.click()
        expect(upper).to_be_checked()
        expect(board.get_by_role("checkbox", name="Loft", exact=True)).not_to_be_checked()
        self.accessible("What enters")
        self.draw(board)
        expect(board.get_by_text("4 corners")).to_be_visible()
        # The corners come before the answer to the cut: both are kept.
        with self.held():
            with page.expect_request(DECISIONS):
                board.get_by_role("radio", name="Cut at its edge").click()
            board.get_by_text("Corners in metres").click()
            board.get_by_label("Corners in metres, X and Y").fill("3, -1\n5, -1\n5, 7.5\n3, 7.5")
            board.get_by_role("button", name="Take these corners").click()
        expect(board.get_by_text("17.0 m²")).to_be_visible()
        self.accessible("A polygon")
        board.get_by_role("button", name="Done").click()
        expect(page.locator("header").get_by_text("2.00 × 7.00 × 5.85 m")).to_be_visible()

        # What was decided survives a reload; then it ships.
        page.reload()
        self.meshed()
        scene = trimesh.load_scene(io.BytesIO(self.shipped()), file_type="glb")
        # Metres, Y up: two metres of the house, from under its floor to the top of the upper storey's walls.
        np.testing.assert_allclose(scene.extents, [2, 5.85, 7], atol=1e-4)

    def draw(self, board: Locator) -> None:
        """A polygon by four clicks on the plan."""
        board.get_by_role("button", name="Draw a polygon").click()
        box = board.get_by_label(re.compile("^Plan of what")).bounding_box()
        assert box
        for across, down in ((0.2, 0.3), (0.7, 0.3), (0.7, 0.7), (0.2, 0.7)):
            self.page.mouse.click(box["x"] + box["width"] * across, box["y"] + box["height"] * down)
        board.get_by_role("button", name="Close the polygon").click()

    def test_a_source_is_added_replaced_left_out_and_fitted(self) -> None:
        page = self.page
        self.drop_all(DAVIT)
        expect(self.rung("Receive")).to_contain_text("6 parts")
        self.open_rung("Receive")
        page.get_by_label("Files for one more source").set_input_files(str(SHED))
        expect(self.rung("Receive")).to_contain_text("19 parts, 47 placements")
        self.open_rung("Fit")
        page.get_by_role("button", name=DAVIT.name).click()
        self.choose(f"Unit of {DAVIT.name}", "foot (ft)")
        expect(page.get_by_role("button", name=DAVIT.name)).to_contain_text("29.8 m")
        turn = page.get_by_label(f"Turn of {DAVIT.name} about the up axis")
        turn.fill("90")
        turn.press("Enter")
        expect(
            page.get_by_label("History").or_(page.get_by_role("button", name="Undo", exact=True)).first
        ).to_be_enabled()
        self.accessible("Fit of several")
        self.open_rung("Receive")
        page.get_by_role("button", name=SHED.name).click()
        page.get_by_role("button", name="Leave it out").click()
        expect(page.get_by_text("of 47 placements enter")).to_contain_text("6")
        page.get_by_role("button", name=DAVIT.name).click()
        page.get_by_label(f"Files in place of {DAVIT.name}").set_input_files(
            str(PUBLIC / "cube-10x10mm" / "Cube 10x10.igs")
        )
        expect(self.rung("Receive")).to_contain_text("14 parts")
        page.get_by_role("button", name="Undo", exact=True).click()
        expect(page.get_by_text("of 42 placements enter")).to_contain_text("42")


if __name__ == "__main__":
    unittest.main()
