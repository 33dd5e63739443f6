"""Everything by the keyboard: from upload to download, the ledger, the stage, and letters that can be switched off."""

import re
import unittest
import zipfile

from playwright.sync_api import Locator, expect

from tests.browser.test_path import BrowserCase
from tests.support import AS1


class KeyCase(BrowserCase):
    def tab_to(self, wanted: Locator, most: int = 90) -> None:
        """Press Tab until it has the focus."""
        expect(wanted).to_be_enabled()
        for _ in range(most):
            if wanted.evaluate("node => node === document.activeElement"):
                return
            self.page.keyboard.press("Tab")
        self.fail(f"{wanted} is not reached by Tab")

    def press(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)


class Keys(KeyCase):
    def test_from_upload_to_download(self) -> None:
        page = self.page
        # Heard from the start: a chooser that is awaited only when it opens is sometimes missed.
        page.on("filechooser", lambda asked: asked.set_files(str(AS1)))
        page.goto(f"{self.house.url}/?light")
        self.tab_to(page.get_by_role("button", name="Choose files…"))
        self.press("Enter")
        page.wait_for_url(re.compile(r"/jobs/\d+"))
        # A new page takes the focus to its heading.
        expect(page.get_by_role("heading", level=1, name=AS1.stem.replace("-", " "))).to_be_focused()
        self.meshed()
        self.tab_to(self.rung("Sort"))
        self.press("Enter")
        self.tab_to(page.get_by_role("button", name="Rules…"))
        self.press("Enter")
        self.tab_to(page.get_by_role("button", name="Add a rule"))
        self.press("Enter")
        # A long list is searched in.
        self.tab_to(page.get_by_label("Material of rule 1", exact=True))
        self.press("Enter")
        page.keyboard.type("galva")
        self.press("Enter")
        expect(page.get_by_label("Material of rule 1", exact=True)).to_contain_text("Galvanised steel")
        self.press("Escape")
        self.meshed()
        self.tab_to(page.get_by_role("button", name="Ship…", exact=True))
        self.press("Enter")
        self.tab_to(page.get_by_role("button", name=re.compile("^Ship as")))
        self.press("Enter")
        self.tab_to(page.get_by_role("link", name="Receipt"))
        self.press("Enter")
        expect(page.get_by_text("receipt in order")).to_be_visible()
        self.tab_to(page.get_by_role("link", name=re.compile("Download ZIP")))
        with page.expect_download() as waiting:
            self.press("Enter")
        with zipfile.ZipFile(waiting.value.path()) as archive:
            self.assertTrue(any(name.endswith(".glb") for name in archive.namelist()))

    def test_the_ledger_is_one_stop_and_its_tree_is_gone_through_by_arrows(self) -> None:
        page = self.page
        self.drop(AS1)
        self.meshed()
        page.get_by_role("radio", name="Tree").click()
        tree = page.get_by_role("treegrid", name="Parts")
        self.tab_to(tree)
        rows = tree.get_by_role("row")
        self.press("Home")
        top = tree.locator(f"[id='{tree.get_attribute('aria-activedescendant')}']")
        expect(top).to_have_attribute("aria-expanded", "true")
        expect(top).to_have_attribute("aria-level", "1")
        # All below a group is chosen with it, and the group shows as chosen.
        self.press("Enter")
        expect(top).to_have_attribute("aria-selected", "true")
        expect(page.get_by_text("5 parts chosen, 18 placements")).to_be_visible()
        self.press("ArrowLeft")
        expect(top).to_have_attribute("aria-expanded", "false")
        expect(rows).to_have_count(2)
        self.press("ArrowRight", "ArrowRight", "Space")
        second = tree.locator(f"[id='{tree.get_attribute('aria-activedescendant')}']")
        expect(second).to_have_attribute("aria-level", "2")
        expect(top).to_have_attribute("aria-selected", "false")
        expect(top).to_contain_text("some chosen")
        self.press("ArrowLeft")
        expect(tree).to_have_attribute("aria-activedescendant", top.get_attribute("id") or "")
        # Letters belong to the list while it has the focus: nothing is hidden.
        self.press("n")
        expect(page.get_by_text(re.compile(r"\d+ hidden"))).to_have_count(0)
        page.get_by_role("radio", name="Table").click()
        self.tab_to(page.get_by_role("grid", name="Parts"))
        self.press("Home", "Space", "Shift+ArrowDown", "Shift+ArrowDown")
        expect(page.get_by_text("3 parts chosen")).to_be_visible()
        self.press("Control+a")
        expect(page.get_by_text("5 parts chosen")).to_be_visible()
        self.press("Escape")
        expect(page.get_by_text("5 parts", exact=True)).to_be_visible()

    def test_the_stage_turns_by_keys_and_letters_can_be_switched_off(self) -> None:
        page = self.page
        self.drop(AS1)
        self.meshed()
        canvas = page.locator("canvas").first
        expect(canvas).to_have_attribute("data-from", re.compile("[1-9]"))
        before = canvas.get_attribute("data-from") or ""
        self.tab_to(canvas)
        self.press("ArrowLeft", "ArrowUp")
        expect(canvas).not_to_have_attribute("data-from", before)
        self.press("Home")
        expect(canvas).to_have_attribute("data-from", before)
        self.press("m")
        expect(page.get_by_role("button", name="Facing")).to_have_attribute("aria-pressed", "true")
        self.press("?")
        page.get_by_role("switch", name="Single keys").click()
        self.accessible("Keys")
        self.press("Escape", "j")
        expect(page.get_by_role("button", name="Facing")).to_have_attribute("aria-pressed", "true")
        page.reload()
        expect(canvas).to_have_attribute("data-from", re.compile("[1-9]"))
        self.press("m")
        expect(page.get_by_role("button", name="Facing")).to_have_attribute("aria-pressed", "false")

    def test_any_entry_of_the_history_is_gone_back_to(self) -> None:
        page = self.page
        self.drop(AS1)
        self.meshed()
        self.open_rung("Facet")
        page.get_by_role("radio", name="Background").click()
        page.get_by_role("radio", name="Close-up").click()
        page.get_by_role("button", name="Undo", exact=True).click()
        page.get_by_role("radio", name="Print").click()
        self.meshed()
        page.get_by_role("button", name="History").click()
        dialog = page.get_by_role("dialog")
        undone = dialog.get_by_role("listitem").filter(has_text="Close-up")
        expect(undone).to_contain_text("undone")
        expect(undone).to_contain_text("angle from 30° to 10°")
        expect(dialog).to_contain_text(f"{AS1.name} added")
        self.accessible("History")
        undone.get_by_role("button").click()
        expect(undone).to_contain_text("in force")
        self.press("Escape")
        expect(page.get_by_role("radio", name="Close-up")).to_be_checked()


class Jobs(BrowserCase):
    alone = True

    def test_jobs_are_found_renamed_pictured_and_removed(self) -> None:
        page = self.page
        for name in ("Alpha", "Beta"):
            self.make_job(AS1, name=name)
        job = self.make_job(AS1, name="Gamma")["id"]
        self.ready(job)
        page.goto(f"{self.house.url}/jobs/{job}?light")
        self.meshed()
        with page.expect_response(re.compile(r"/picture$")) as sent:
            pass
        self.assertEqual(sent.value.status, 204)
        page.goto(self.house.url)
        row = page.get_by_role("listitem").filter(has_text="Gamma")
        expect(row.locator("img")).to_have_js_property("naturalWidth", 240)
        page.get_by_role("button", name="Rename Gamma").click()
        page.get_by_label("New name of Gamma").fill("Delta quay")
        page.keyboard.press("Enter")
        expect(page.get_by_role("link", name="Delta quay")).to_be_visible()
        page.get_by_label("Find a job by name or file").fill("delta")
        expect(page.get_by_role("list", name="Jobs").get_by_role("listitem")).to_have_count(1)
        page.get_by_label("Find a job by name or file").fill("")
        self.choose_late("Order of the jobs", "By name")
        expect(page.get_by_role("list", name="Jobs").get_by_role("listitem").first).to_contain_text("Alpha")
        self.accessible("Jobs")
        page.get_by_role("button", name="Remove Alpha").click()
        self.accessible("Remove a job")
        page.get_by_role("button", name="Keep it").click()
        page.get_by_role("button", name="Remove Alpha").click()
        page.get_by_role("button", name="Remove it").click()
        expect(page.get_by_role("link", name="Alpha")).to_have_count(0)

    def choose_late(self, label: str, option: str) -> None:
        """The page hears the release of the press that opens a list only together with that of the choice."""
        page = self.page
        page.evaluate("""() => {
            const late = (event) => event.stopImmediatePropagation();
            for (const kind of ["pointermove", "pointerup"]) window.addEventListener(kind, late, true);
            window.hear = (...kinds) => kinds.forEach((kind) => window.removeEventListener(kind, late, true));
        }""")
        page.get_by_role("combobox", name=label).click()
        page.get_by_role("option", name=option).hover()
        page.evaluate("hear('pointerup')")
        page.mouse.down()
        page.mouse.up()
        page.evaluate("hear('pointermove')")
        expect(page.get_by_role("listbox")).to_have_count(0)


if __name__ == "__main__":
    unittest.main()
