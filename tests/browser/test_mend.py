"""A shell soup welded, split, turned outward, smoothed and repaired in a real browser; rounded edges that ship."""

import contextlib
import io
import re
import zipfile
from pathlib import Path

import numpy as np
import trimesh
from playwright.sync_api import Locator, expect

from demo import soup
from tests.browser.test_path import WAIT, BrowserCase
from tests.support import AS1, ROOT

SOUP, SEAT = ROOT / "demo" / "shed-soup.stl", ROOT / "demo" / "quay-seat.zip"


class MendCase(BrowserCase):
    @property
    def panel(self) -> Locator:
        return self.page.get_by_role("navigation", name="Rungs")

    @property
    def damage(self) -> Locator:
        return self.page.get_by_role("region", name="Damage")

    def row(self, name: str) -> Locator:
        return self.page.get_by_role("row").filter(has_text=name).first

    def settled(self) -> None:
        """All meshes are there."""
        self.page.wait_for_function("() => !document.querySelector('[role=progressbar][aria-label=Meshing]')")
        self.meshed()

    def shipped(self) -> trimesh.Scene:
        page = self.page
        self.open_rung("Ship")
        page.get_by_role("button", name="Ship as GLB").click()
        expect(page.get_by_text("receipt in order", exact=True)).to_be_visible()
        with page.expect_download() as download:
            page.get_by_role("link", name="ZIP").first.click()
        with zipfile.ZipFile(Path(download.value.path())) as bundle:
            name = next(name for name in bundle.namelist() if name.endswith(".glb"))
            return trimesh.load_scene(io.BytesIO(bundle.read(name)), file_type="glb")


def bare(mesh: trimesh.Trimesh) -> trimesh.Trimesh:
    made = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    made.merge_vertices(merge_norm=True, merge_tex=True)
    return made


class Soup(MendCase):
    def test_from_one_soup_to_sound_parts(self) -> None:
        page = self.page
        self.drop(SOUP)
        self.meshed()
        self.open_rung("Mend")
        expect(self.damage).to_contain_text(f"{soup.DOUBLED} double triangles")
        expect(self.damage).to_contain_text(f"{soup.JOINTS} T-joints")
        expect(self.damage).to_contain_text(f"{soup.TURNED} shells facing inward")
        self.accessible("Mend")
        # Welding all parts at once is one click.
        self.panel.get_by_role("switch", name="Weld").first.click()
        expect(self.panel).to_contain_text("vertices fewer")
        # Put all right says what it took, and only that is right then.
        page.get_by_role("button", name="Put all right").click()
        expect(self.damage.get_by_role("status")).to_contain_text("Take one of each")
        expect(self.damage.get_by_role("status")).to_contain_text("Turn outward")
        expect(self.damage).not_to_contain_text("double triangles")
        expect(self.damage).not_to_contain_text("facing inward")
        expect(self.damage).to_contain_text("over-shared edges")
        page.get_by_role("button", name="Close them").click()
        self.settled()
        # What is still wrong with the part is shown on the stage, and stands in its columns.
        self.row("Mesh 1").click()
        flaws = page.get_by_role("list", name="Flaws of what is chosen")
        expect(flaws).to_contain_text("over-shared edges")
        flaws.get_by_label("over-shared edges").uncheck()
        expect(self.row("Mesh 1").get_by_role("gridcell").last).to_have_text("no")
        expect(self.panel.get_by_role("img", name="Places left by tolerance")).to_be_visible()
        expect(self.panel).to_contain_text("by exception 1")
        self.accessible("Mend of one part")
        self.own_letters("Mend of one part")
        # Every shell a part of its own.
        page.get_by_role("button", name="Split into 37 parts").click()
        self.settled()
        expect(page.get_by_role("row").filter(has_text="Mesh 1 shell").first).to_be_visible()
        self.choose("Which parts", "not watertight")
        expect(page.get_by_text("1 part", exact=True).or_(page.get_by_text("1 part chosen"))).to_be_visible()
        self.choose("Which parts", "every part")
        # Smooth for all, without a triangle more.
        stage = page.get_by_role("application")
        expect(stage).to_have_attribute("aria-label", re.compile("536 triangles"))
        triangles = stage.get_attribute("aria-label") or ""
        self.panel.get_by_role("switch", name="Normals anew").first.click()
        expect(self.panel).to_contain_text("no triangle more")
        self.settled()
        # The stage fetches the meshes anew.
        expect(page.get_by_role("application")).to_have_attribute("aria-label", triangles)
        scene = self.shipped()
        found = [bare(mesh) for mesh in scene.geometry.values()]
        self.assertEqual(len(found), 37)
        whole = [mesh for mesh in found if mesh.is_watertight]
        self.assertGreater(len(whole), 30)
        self.assertTrue(all(mesh.volume > 0 and mesh.body_count == 1 for mesh in whole))
        # What was decided survives a reload, and undo takes it back step by step.
        page.reload()
        self.open_rung("Mend")
        expect(self.row("Mesh 1 shell").first).to_be_visible()
        for _ in range(2):
            page.get_by_role("button", name="Undo").click()
        expect(page.get_by_role("row").filter(has_text="Mesh 1 shell")).to_have_count(0)

    def test_shells_and_faces_are_turned_and_taken_out_by_pointing(self) -> None:
        page = self.page
        self.drop(SOUP)
        self.meshed()
        self.open_rung("Mend")
        canvas = page.get_by_role("application")
        for tool, told in (("Turn a shell", "1 shells and faces turned"), ("Turn a face", "2 shells and faces turned")):
            page.get_by_role("button", name=tool).click()
            canvas.focus()
            # The middle of the stage, as Enter points at it.
            page.keyboard.press("Enter")
            expect(page.get_by_role("region", name="By hand")).to_contain_text(told)
            self.settled()
        page.get_by_role("button", name="Take a shell out").click()
        taken = page.get_by_role("row").filter(has_text="Mesh 1 shell 1")
        # Pointing at it again does nothing more: it is a part of its own then.
        for _ in range(3):
            canvas.focus()
            page.keyboard.press("Enter")
            with contextlib.suppress(AssertionError):
                expect(taken).to_have_count(1, timeout=WAIT / 4)
                break
        expect(taken).to_have_count(1)
        page.get_by_role("button", name="Turn back").click()
        expect(page.get_by_role("region", name="By hand")).not_to_contain_text("turned")


class Seat(MendCase):
    def test_the_downloaded_seat_is_turned_smoothed_and_joined(self) -> None:
        page = self.page
        self.drop(SEAT)
        self.meshed()
        self.open_rung("Mend")
        page.get_by_role("button", name="Put all right").click()
        expect(self.damage.get_by_role("status")).to_contain_text("Turn it")
        self.panel.get_by_role("switch", name="Weld").first.click()
        self.panel.get_by_role("switch", name="Normals anew").first.click()
        self.settled()
        # An exception for one material, and another before it for one part.
        exceptions = page.get_by_role("region", name="Exceptions")
        self.choose("Except whom", "a material")
        self.choose("Which material", "Cast iron")
        expect(exceptions).to_contain_text("1. material Cast iron")
        exceptions.get_by_role("switch", name="Normals anew").click()
        expect(exceptions).to_contain_text("no normals")
        self.settled()
        expect(self.row("Leg 1")).to_contain_text("exception 1")
        expect(self.row("Seat slat 1")).to_contain_text("the job")
        # The two legs become one part.
        self.row("Leg 1").click()
        self.row("Leg 2").click(modifiers=["Control"])
        page.get_by_role("button", name="Join 2 parts into one").click()
        self.settled()
        scene = self.shipped()
        found = {mesh.metadata.get("name", name): mesh for name, mesh in scene.geometry.items()}
        self.assertEqual(len(found), 11)
        self.assertTrue(all(bare(mesh).is_watertight and bare(mesh).volume > 0 for mesh in found.values()))
        joined = [mesh for mesh in found.values() if bare(mesh).body_count == 2]
        self.assertEqual(len(joined), 1)


class Rounded(MendCase):
    def test_exact_parts_get_small_roundings_that_ship_with_flats_that_stay_flat(self) -> None:
        page = self.page
        self.drop(AS1)
        self.meshed()
        self.open_rung("Mend")
        self.panel.get_by_role("switch", name="Round edges").first.click()
        expect(self.panel).to_contain_text("edges rounded")
        self.panel.get_by_role("switch", name="Normals anew").first.click()
        page.get_by_role("radio", name="led by flats").first.click()
        self.settled()
        expect(page.get_by_role("button", name="Before and after")).to_be_enabled()
        scene = self.shipped()
        leans: list[float] = []
        for mesh in scene.geometry.values():
            corners = mesh.vertices[mesh.faces]
            across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
            area = np.linalg.norm(across, axis=1)
            normal = across / np.maximum(area, 1e-30)[:, None]
            offset = np.einsum("ij,ij->i", normal, corners[:, 0]) / np.ptp(mesh.vertices, axis=0).max()
            _, flat = np.unique(np.round(np.column_stack([normal, offset]), 3), axis=0, return_inverse=True)
            # A facet of a cylinder is a small share of its surface; a flat is a large one.
            large = np.bincount(flat, area)[flat] > 0.15 * area.sum()
            lean = np.einsum("ij,ikj->ik", across[large] / area[large, None], mesh.vertex_normals[mesh.faces[large]])
            leans += lean.reshape(-1).tolist()
            self.assertTrue(bare(mesh).is_watertight)
        self.assertGreater(len(leans), 30)
        self.assertGreater(min(leans), np.cos(np.radians(3)), "large flats shade flat to their edges")
