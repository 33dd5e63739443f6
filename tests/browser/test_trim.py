"""A seat reduced to a quarter, its worst part put back, a light one beside the full one; a quay's flats merged; in a browser."""

import io
import json
import math
import zipfile
from pathlib import Path
from typing import Any

import trimesh
from playwright.sync_api import Locator, expect

from demo import paving
from tests.browser.test_path import WAIT, BrowserCase
from tests.support import AS1, ROOT

SEAT, PAVING = ROOT / "demo" / "quay-seat.zip", ROOT / "demo" / "quay-paving.glb"


class TrimCase(BrowserCase):
    def begin(self, path: Path) -> None:
        self.drop(path)
        self.meshed()
        self.open_rung("Trim")

    def region(self, name: str) -> Locator:
        return self.page.get_by_role("region", name=name)

    def choose(self, label: str, option: str) -> None:
        self.page.get_by_role("combobox", name=label).click()
        self.take(option)

    def row(self, name: str) -> Locator:
        return self.page.get_by_role("row").filter(has_text=name).first

    def settled(self) -> None:
        self.page.wait_for_function("() => !document.querySelector('[role=progressbar][aria-label=Meshing]')")
        self.meshed()

    def bundles(self, count: int) -> list[tuple[trimesh.Scene, dict[str, Any]]]:
        """The newest deliveries as another library reads them, with their receipts."""
        found = []
        for number in range(count):
            with self.page.expect_download() as download:
                self.page.get_by_role("link", name="ZIP").nth(number).click()
            with zipfile.ZipFile(Path(download.value.path())) as bundle:
                glb = next(name for name in bundle.namelist() if name.endswith(".glb"))
                proof = next(name for name in bundle.namelist() if name.endswith("-receipt.json"))
                scene = trimesh.load_scene(io.BytesIO(bundle.read(glb)), file_type="glb")
                found.append((scene, json.loads(bundle.read(proof))))
        return found


def triangles(scene: trimesh.Scene) -> int:
    return sum(len(scene.geometry[scene.graph[node][1]].faces) for node in scene.graph.nodes_geometry)


class Seat(TrimCase):
    def test_a_quarter_its_worst_part_back_and_a_light_one_beside(self) -> None:
        page = self.page
        self.begin(SEAT)
        goal, limits = self.region("Reduce to a goal"), self.region("Limits")
        # Nobody is meant before it is said.
        expect(goal).to_contain_text("No part is chosen yet")
        expect(goal.get_by_role("button", name="Reduce")).to_have_count(0)
        goal.get_by_role("checkbox", name="Everything").check()
        expect(goal).to_contain_text("Everything 1,092 of 1,092 triangles")
        goal.get_by_role("button", name="Reduce everything").click()
        expect(limits).to_contain_text("parts lost shape")
        self.settled()
        expect(self.row("Lamp post")).to_contain_text("25 %")
        self.accessible("Trim")
        # The worst part alone is put back, then all that lost their shape.
        worst = limits.get_by_role("button", name="Put back").first
        name = str(worst.text_content()).removeprefix("Put back ").removesuffix(" only")
        before = str(self.row(name).text_content())
        worst.click()
        self.settled()
        expect(self.row(name)).to_contain_text("exception 1")
        self.assertNotEqual(str(self.row(name).text_content()), before)
        limits.get_by_role("button", name="Put back to where the shape holds").click()
        expect(limits).not_to_contain_text("lost shape")
        self.settled()
        # A level and a stand-in beside it, then both as deliveries that name each other.
        self.choose("Add a level", "half the triangles")
        self.choose("Add a level", "stand-in: a box each")
        levels = self.region("Levels")
        expect(levels.get_by_role("listitem")).to_have_count(2)
        expect(levels).not_to_contain_text("being made", timeout=WAIT)
        expect(levels.get_by_role("listitem").nth(1)).to_contain_text("off by")
        self.accessible("Trim with levels")
        self.open_rung("Ship")
        self.choose("Level that ships beside it", "the box level, a delivery of its own")
        page.get_by_role("button", name="Ship as GLB").click()
        expect(page.get_by_text("receipt in order", exact=True)).to_have_count(2)
        page.reload()
        self.meshed()
        self.open_rung("Ship")
        expect(page.get_by_role("combobox", name="Level that ships beside it")).to_contain_text("the box level")
        pair = {proof["target"]["level"]: (scene, proof) for scene, proof in self.bundles(2)}
        self.assertEqual(set(pair), {"full", "box"})
        for level, other in (("full", "box"), ("box", "full")):
            scene, proof = pair[level]
            (beside,) = proof["receipt"]["told"]["beside"]
            self.assertEqual((beside["level"], beside["triangles"]), (other, triangles(pair[other][0])))
            self.assertEqual(beside["files"][0]["bytes"], pair[other][1]["files"][0]["bytes"])
            check = next(item for item in proof["receipt"]["checks"] if item["name"] == "triangles")
            self.assertEqual((check["expected"], check["ok"]), (triangles(scene), True))
        # Over one datum: everything stands where it stood.
        full, light = (pair[level][0] for level in ("full", "box"))
        self.assertEqual(set(full.graph.nodes_geometry), set(light.graph.nodes_geometry))
        for node in full.graph.nodes_geometry:
            self.assertLess(abs(full.graph[node][0] - light.graph[node][0]).max(), 1e-6)
        apart = full.bounds.mean(axis=0) - light.bounds.mean(axis=0)
        self.assertLess(abs(apart).max(), 0.1 * full.scale)
        self.assertLess(triangles(light), triangles(full) / 3)
        page.get_by_role("link", name="Receipt").first.click()
        expect(page.get_by_text("Beside it stands the")).to_be_visible()


class Quay(TrimCase):
    def test_flats_merge_without_loss(self) -> None:
        page = self.page
        self.begin(PAVING)
        page.get_by_role("switch", name="Merge flats").first.click()
        self.settled()
        deck = self.row("Deck")
        expect(deck).to_contain_text(f"{paving.least()}")
        self.open_rung("Ship")
        page.get_by_role("button", name="Ship as GLB").click()
        expect(page.get_by_text("receipt in order", exact=True)).to_be_visible()
        ((scene, proof),) = self.bundles(1)
        made = next(mesh for name, mesh in scene.geometry.items() if "Deck" in name)
        made.merge_vertices(merge_norm=True, merge_tex=True)
        self.assertEqual((len(made.faces), made.is_watertight), (paving.least(), True))
        self.assertEqual(made.euler_number, 2 - 2 * paving.DRAINS)
        area = paving.SIDES / 2 * 0.12**2 * math.sin(2 * math.pi / paving.SIDES)
        meant = (paving.LONG * paving.DEEP - paving.DRAINS * area) * paving.THICK
        self.assertAlmostEqual(made.volume / meant, 1, 5)
        self.assertLess(proof["receipt"]["told"]["trimmed"]["largest deviation, m"], 2e-6)

    def test_grades_lie_beside_each_other_and_the_limit_is_in_the_strip(self) -> None:
        page = self.page
        self.begin(PAVING)
        self.choose("Receiver", "Light planning")
        strip = page.get_by_role("banner")
        expect(strip).to_contain_text("41,264 over")
        limits = self.region("Limits")
        expect(limits.get_by_role("meter", name="triangles")).to_have_count(1)
        expect(limits).to_contain_text("buys 42,480 triangles")
        self.row("Bollard").click()
        self.region("Reduce to a goal").get_by_role("button", name="Compare grades").click()
        board = page.get_by_role("region", name="Grades")
        expect(board.locator("canvas")).to_have_attribute("data-drawn", "4", timeout=WAIT)
        expect(board.get_by_role("row").filter(has_text="50 %")).to_contain_text("28,320")
        self.accessible("Grades")
        self.choose("Another grade", "2 %")
        expect(board.locator("canvas")).to_have_attribute("data-drawn", "5", timeout=WAIT)
        page.get_by_role("button", name="Leave out 2 %").click()
        page.get_by_role("button", name="Use 25 %", exact=True).click()
        expect(board).to_have_count(0)
        self.settled()
        expect(self.row("Bollard")).to_contain_text("25 %")
        expect(strip).not_to_contain_text("over")
        self.choose("Lookout for deviations", "From the boat")
        expect(self.row("Bollard")).to_contain_text("px")
        expect(self.region("Seen from")).to_contain_text("px there")


class Exact(TrimCase):
    def test_an_exact_part_is_offered_coarser_facets_first(self) -> None:
        page = self.page
        self.begin(AS1)
        self.row("nut").click()
        self.region("Reduce to a goal").get_by_role("button", name="Compare grades").click()
        facets = page.get_by_role("region", name="Coarser facets instead")
        use = facets.get_by_role("button", name="Use facets of").first
        expect(use).to_be_visible(timeout=WAIT)
        expect(facets).to_contain_text("off by")
        count = str(use.get_attribute("aria-label")).removeprefix("Use facets of ").removesuffix(" triangles")
        use.click()
        self.settled()
        expect(self.row("nut")).to_contain_text(count)
