"""Choosing in a real browser: menus of rows and of the stage, single placements, a box, locks, kept selections, columns, and a
run of decisions done again."""

import re
import unittest
from typing import Any

from playwright.sync_api import Locator, expect

from tests.browser.test_keys import KeyCase
from tests.support import DEMO


class Choosing(KeyCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.begin_coarse(DEMO)

    def find(self, text: str) -> None:
        self.page.get_by_label("Find a part, layer, class or material").fill(text)

    def row(self, name: str) -> Locator:
        return self.page.get_by_role("grid").get_by_role("row").filter(has_text=name)

    def menu(self, *items: str) -> None:
        for item in items:
            self.page.get_by_role("menuitem", name=item).click()

    def name(self, text: str) -> None:
        self.page.get_by_role("dialog").get_by_role("textbox").fill(text)
        self.page.keyboard.press("Enter")

    @property
    def told(self) -> Locator:
        return self.page.get_by_role("region", name="Ledger").get_by_role("status")

    def get(self, path: str) -> Any:
        return self.http.get(f"/api/jobs/{self.job}{path}").json()

    def stage(self) -> dict[str, float]:
        box = self.page.locator("canvas").first.bounding_box()
        assert box
        return {k: float(v) for k, v in box.items()}

    def test_single_placements_are_chosen_dressed_named_hidden_and_kept(self) -> None:
        page = self.page
        page.get_by_role("button", name="Single", exact=True).click()
        page.get_by_role("radio", name="Tree").click()
        # A pattern finds whole names.
        self.find("baluster*")
        lines = page.get_by_role("treegrid").locator("[data-line]").filter(has_text="aluster")
        lines.nth(1).click()
        lines.nth(2).click(modifiers=["Control"])
        expect(self.told).to_contain_text("2 placements chosen, of 1 part")
        lines.nth(1).click(button="right")
        self.menu("Give a material", "Glazing, red")
        expect(page.get_by_role("button", name="Undo", exact=True)).to_be_enabled()

        def red() -> int:
            result = self.get("/result")
            worn = [dress["materials"] for dress in result["dresses"]]
            names = {item["id"]: item["name"] for item in result["materials"]}
            return sum("Glazing, red" in [names[id_] for id_ in worn[number]] for number in result["dress_of"])

        before = red()
        self.wait_for(self.job, lambda job: job["decisions"]["sort"]["rules"])
        self.assertEqual(self.get("")["decisions"]["sort"]["rules"][0]["by"], "placement")
        self.wait_for(self.job, lambda _: red() >= max(before, 3))
        # The same from the bar, by keys: a name, and a selection that is kept.
        page.get_by_role("button", name="With 2 placements").click()
        self.menu("Rename…")
        self.name("Spare baluster {n}")
        self.wait_for(self.job, lambda job: job["decisions"]["sort"]["names"])
        page.get_by_role("button", name="With 2 placements").click()
        self.menu("Keep as a selection…")
        self.name("Spares")
        expect(page.get_by_role("button", name="Selections: 1")).to_be_visible()
        page.get_by_role("button", name="With 2 placements").click()
        self.menu("Hide")
        expect(page.get_by_text("2 hidden").first).to_be_visible()
        # Both survive a reload.
        page.reload()
        self.meshed()
        expect(page.get_by_text("2 hidden").first).to_be_visible()
        page.get_by_role("button", name="2 hidden").click()
        self.menu("Show all")
        page.get_by_role("button", name="Selections: 1").click()
        self.accessible("Selections")
        page.get_by_role("button", name="Spares", exact=True).click()
        expect(self.told).to_contain_text("2 placements chosen, of 1 part")
        page.get_by_role("button", name="With 2 placements").click()
        self.menu("Do not ship")
        placements = self.get("/structure")["parts"]
        self.wait_for(self.job, lambda job: len(job["decisions"]["receive"]["choices"]) == 2)
        self.assertEqual(self.get("/result")["left_out"], 2, placements[0])

    def test_a_box_on_the_stage_and_what_is_locked(self) -> None:
        page = self.page
        self.row("Tower drum").click(button="right")
        self.accessible("Menu")
        self.menu("Lock")
        expect(self.row("Tower drum")).to_contain_text("locked")
        self.row("Tower drum").click()
        expect(self.told).to_contain_text("58 parts")
        page.get_by_role("button", name="Box", exact=True).click()
        box = self.stage()
        page.mouse.move(box["x"] + 5, box["y"] + 60)
        page.mouse.down()
        page.mouse.move(box["x"] + box["width"] - 5, box["y"] + box["height"] - 60, steps=4)
        page.mouse.up()
        expect(self.told).to_contain_text("57 parts chosen")
        # With a smaller one what it touches only, and nothing where nothing is.
        page.mouse.move(box["x"] + 8, box["y"] + 70)
        page.mouse.down()
        page.mouse.move(box["x"] + 12, box["y"] + 74)
        page.mouse.up()
        expect(self.told).to_contain_text("58 parts")
        middle = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(*middle)
        page.mouse.down()
        page.mouse.move(middle[0] + 4, middle[1] + 4)
        page.mouse.up()
        expect(self.told).to_contain_text("chosen")
        self.assertLess(int(re.search(r"(\d+) parts? chosen", self.told.inner_text())[1]), 20)  # type: ignore[index]
        page.keyboard.press("Escape")
        # Pointed at it is not picked either; unlocked it is.
        page.keyboard.press("Escape")
        page.get_by_role("button", name="1 locked").click()
        self.menu("Unlock 1 part")
        self.find("tower drum")
        expect(self.row("Tower drum")).not_to_contain_text("locked")
        self.row("Tower drum").click()
        expect(self.told).to_contain_text("1 part chosen")
        # The other button on the stage: what can be done with what is chosen.
        page.mouse.click(*middle, button="right")
        self.menu("Show only")
        expect(page.get_by_text(re.compile(r"^\d+ hidden")).first).to_be_visible()

    def test_columns_sizes_and_a_run_done_again(self) -> None:
        page = self.page
        page.get_by_role("button", name="Columns", exact=True).click()
        page.get_by_role("checkbox", name="Longest side").check()
        page.get_by_role("checkbox", name="Why").uncheck()
        self.accessible("Columns")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Longest side").click()
        expect(page.get_by_role("columnheader", name="Longest side")).to_have_attribute("aria-sort", "descending")
        expect(page.get_by_role("columnheader", name="Why")).to_have_count(0)
        page.reload()
        expect(page.get_by_role("columnheader", name="Longest side")).to_be_visible()
        page.get_by_role("button", name="Filter…").click()
        page.get_by_role("radio", name="size", exact=True).click()
        page.get_by_role("checkbox", name="20 to 100 mm").check()
        page.keyboard.press("Escape")
        # The focus goes back to what opened it, sooner or later: keys wait for that.
        expect(page.get_by_role("button", name=re.compile("^Filter"))).to_be_focused()
        self.meshed()
        few = int(self.told.inner_text().split()[0])
        self.assertTrue(0 < few < 58)

        # By keys: the first row is chosen, its menu opened, and all of its size chosen too.
        grid = page.get_by_role("grid")
        grid.focus()
        self.press("ArrowDown", "Enter", "Shift+F10")
        expect(page.get_by_role("menu")).to_be_visible()
        self.press("Escape")
        expect(self.told).to_contain_text("1 part chosen")
        page.get_by_role("button", name="With 1 part").click()
        self.menu("Give a material", "Glazing, red")
        self.wait_for(self.job, lambda job: job["decisions"]["sort"]["rules"])
        # What was done to one is done to others.
        page.get_by_role("button", name="History").click()
        page.get_by_role("button", name="Keep a run of decisions…").click()
        page.get_by_role("checkbox", name="wears Glazing, red").check()
        page.get_by_label("Name of the run").fill("Red glass")
        page.get_by_role("button", name="Keep", exact=True).click()
        expect(page.get_by_role("region", name="Kept runs")).to_contain_text("Red glass")
        self.accessible("History with runs")
        page.get_by_role("button", name="Close").click()
        grid.focus()
        self.press("ArrowDown", "Enter")
        page.get_by_role("button", name="History").click()
        page.get_by_role("button", name="Red glass: On 1 chosen part").click()
        told = self.wait_for(self.job, lambda job: len(job["decisions"]["sort"]["rules"]) == 2)
        self.assertNotEqual(*[rule["match"] for rule in told["decisions"]["sort"]["rules"]])


if __name__ == "__main__":
    unittest.main()
