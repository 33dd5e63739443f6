"""Sort in a real browser: a site from its three makers' orders to one by material and by what moves; and by keys alone."""

import io
import json
import re
import unittest

import numpy as np
import trimesh
from playwright.sync_api import expect

from tests.browser.test_keys import KeyCase
from tests.browser.test_site import SiteCase
from tests.support import AS1, DEMO, HOUSE, SHED


class Sort(SiteCase):
    def board(self, name: str) -> None:
        self.page.get_by_role("button", name=f"{name}…", exact=True).click()
        expect(self.page.get_by_role("heading", name=name, exact=True)).to_be_visible()

    def done(self) -> None:
        self.page.get_by_role("button", name="Done", exact=True).click()

    def group(self, name: str, kind: str, what: str) -> None:
        self.page.get_by_label("Name of the group").fill(name)
        self.choose("Of whom", kind)
        if kind == "names like":
            self.page.get_by_label("Names like").fill(what)
        else:
            self.choose("Which", what)
        self.page.get_by_role("button", name="Group", exact=True).click()
        expect(self.page.get_by_role("treeitem").filter(has_text=name)).to_be_visible()

    def test_from_three_makers_orders_to_one_by_material_and_by_what_moves(self) -> None:
        page = self.page
        job = self.begin_coarse(HOUSE, SHED, DEMO)
        self.open_rung("Sort")

        # The lantern is not meant to stand in the house, where walls would hide some of it.
        self.decide(job, "Beside each other", fit={"sources": {"gull-rock-lantern": {"move": [0, -30, 0]}}})
        self.meshed()

        # What is glass is seen through: by the colours and the style that the makers gave it.
        self.board("Rules")
        for kind, value, typed in (
            ("colour", "#cfe3e2", "clear g"),
            ("colour", "#9fd0cb", "lens"),
            ("style", "Window glass", "clear g"),
        ):
            page.get_by_role("radio", name=kind, exact=True).click()
            page.get_by_label(f"Material of {value}", exact=True).click()
            page.keyboard.type(typed)
            page.keyboard.press("Enter")
            expect(page.get_by_label(f"Material of {value}", exact=True)).to_contain_text("glass")
        page.get_by_role("radio", name="layer", exact=True).click()
        self.done()

        self.board("Order")
        # What came along and nobody wants is seen, and left out in one move.
        left = page.get_by_role("region", name="Leftovers")
        expect(left).to_contain_text("hidden layers: 4 placements")
        expect(left).to_contain_text("copies in place: 1 placement")
        left.get_by_role("button", name="Leave them out").click()
        expect(left).to_contain_text("Nothing of that kind enters the job.")

        # What moves together, about its pivot; the rest by material.
        self.group("Doors", "names like", "*door")
        self.group("Turning lens", "a layer", "Optics")
        page.get_by_role("treeitem").filter(has_text="Turning lens").click()
        pivot = page.get_by_label("Pivot, metres: x, y, z")
        pivot.fill("1, 2, 3")
        pivot.press("Enter")
        expect(page.get_by_role("treeitem").filter(has_text="Turning lens")).to_contain_text("pivot")
        page.get_by_role("region", name="Grouped by").get_by_role("button", name="material").click()
        expect(page.get_by_role("treeitem").filter(has_text="Undecided")).to_be_visible()
        self.accessible("Order")
        self.done()

        # Rules: a value is given a material; what never decides says so; what is loose is settled by one rule.
        self.board("Rules")
        page.get_by_label("Material of Fasteners", exact=True).click()
        page.keyboard.type("galva")
        page.keyboard.press("Enter")
        table = page.get_by_role("region", name="Rules in their order")
        expect(table).to_contain_text("decides 288 placements")
        page.get_by_role("button", name="Add a rule").click()
        self.choose("Rule 5 matches", "Fasteners")
        expect(table).to_contain_text("never decides: rule 4 speaks first")
        page.get_by_role("button", name="What if it were gone?").nth(3).click()
        expect(table.get_by_role("status")).to_contain_text("288 placements from Galvanised steel to Painted iron")
        page.get_by_role("button", name="Remove rule 5").click()
        expect(table).not_to_contain_text("never decides")
        page.get_by_role("button", name="Keep as a set…").click()
        page.get_by_label("Name of the set").fill("Quay")
        page.keyboard.press("Enter")
        expect(page.get_by_label("Use a kept set of rules")).to_be_visible()
        self.accessible("Rules")
        self.done()
        self.choose("Material for all loose ends", "Plain clay")
        expect(page.get_by_text("No loose ends")).to_be_visible()
        expect(page.get_by_role("list", name="Rules").get_by_role("listitem")).to_have_count(5)

        # Names by a template, with what becomes of them before anything is decided.
        self.board("Names")
        self.choose("What to do", "name after")
        self.choose("Named after its", "material")
        page.get_by_label("Text", exact=True).fill(" {n}")
        expect(page.get_by_role("cell", name=re.compile(r"^Galvanised steel \d{3}$")).first).to_be_visible()
        self.accessible("Names")
        page.get_by_role("button", name="Rename", exact=True).click()
        expect(page.get_by_role("list", name="Steps that rename").get_by_role("listitem")).to_have_count(1)
        self.done()

        # The ledger shows either tree; a filter leaves what is asked for.
        page.get_by_role("radio", name="Own", exact=True).click()
        page.get_by_label("Find a part, layer, class or material").fill("turning lens")
        expect(page.get_by_role("row").filter(has_text="Turning lens")).to_be_visible()
        page.get_by_label("Find a part, layer, class or material").fill("")
        page.get_by_role("radio", name="Table").click()
        page.get_by_role("button", name="Filter…").click()
        page.get_by_role("radio", name="layer").click()
        page.get_by_role("checkbox", name=re.compile("^Optics")).check()
        page.keyboard.press("Escape")
        expect(page.get_by_role("row").filter(has_text="Optics").first).to_be_visible()
        expect(page.get_by_role("row").filter(has_text="Fasteners")).to_have_count(0)

        # One mesh for each group, as another library finds it.
        self.board("Order")
        page.get_by_role("radio", name="each group").click()
        expect(page.get_by_role("region", name="One mesh for")).to_contain_text("pivots of groups stay")
        wanted = (
            page.get_by_role("row").filter(has=page.get_by_role("radio", name="each group")).get_by_role("cell").nth(1)
        )
        groups = int(wanted.inner_text())
        self.done()
        data = self.shipped()
        # The file's own list of meshes, by the length that its head says (glTF 2.0, 4.4); that library cuts them by material.
        told = json.loads(data[20 : 20 + int.from_bytes(data[12:16], "little")])
        meshes = {mesh["name"] for mesh in told["meshes"]}
        self.assertEqual(len(meshes), groups)
        self.assertTrue({"Doors", "Turning lens", "Galvanised steel", "Plain clay"} <= meshes)
        scene = trimesh.load_scene(io.BytesIO(data), file_type="glb")
        # Metres, Y up: the lens turns about its pivot, which was said Z up.
        np.testing.assert_allclose(scene.graph.get("Turning lens")[0][:3, 3], [1, 3, -2], atol=1e-5)


class SortByKeys(KeyCase):
    def test_rules_names_and_groups_by_keys_alone(self) -> None:
        page = self.page
        page.goto(f"{self.house.url}/?light")
        page.get_by_label("Files for a new job").set_input_files(str(AS1))
        page.wait_for_url(re.compile(r"/jobs/\d+"))
        self.meshed()
        self.tab_to(self.rung("Sort"))
        self.press("Enter")
        self.tab_to(page.get_by_role("button", name="Rules…"))
        self.press("Enter")
        for _ in range(2):
            self.tab_to(page.get_by_role("button", name="Add a rule"))
            self.press("Enter")
        rules = page.get_by_role("region", name="Rules in their order").get_by_role("listitem")
        expect(rules).to_have_count(2)
        self.tab_to(page.get_by_label("Material of rule 2", exact=True))
        self.press("Enter")
        page.keyboard.type("brass")
        self.press("Enter")
        expect(page.get_by_label("Material of rule 2", exact=True)).to_contain_text("Polished brass")
        self.tab_to(page.get_by_role("button", name=re.compile("^2, rule 2")))
        self.press("Alt+ArrowUp")
        expect(page.get_by_label("Material of rule 1", exact=True)).to_contain_text("Polished brass")
        self.press("Escape")
        self.tab_to(page.get_by_role("button", name="Names…"))
        self.press("Enter")
        self.tab_to(page.get_by_label("Text", exact=True))
        page.keyboard.type("HL_")
        expect(page.get_by_role("cell", name=re.compile("^HL_")).first).to_be_visible()
        self.press("Enter")
        expect(page.get_by_role("list", name="Steps that rename").get_by_role("listitem")).to_have_count(1)
        self.press("Escape")
        self.tab_to(page.get_by_role("button", name="Order…"))
        self.press("Enter")
        self.tab_to(page.get_by_role("button", name="material", exact=True))
        self.press("Enter")
        self.tab_to(page.get_by_role("tree", name="Groups"))
        self.press("ArrowDown", "F2")
        self.press("Control+a")
        page.keyboard.type("Bright")
        self.press("Enter")
        expect(page.get_by_role("treeitem").filter(has_text="Bright")).to_be_visible()
        self.press("Escape")
        # The ledger is pulled up by keys.
        grip = page.get_by_role("separator", name="Height of the ledger")
        self.tab_to(grip)
        before = int(grip.get_attribute("aria-valuenow") or 0)
        self.press("ArrowUp")
        self.assertGreater(int(grip.get_attribute("aria-valuenow") or 0), before)


if __name__ == "__main__":
    unittest.main()
