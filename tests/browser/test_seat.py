"""A bundle from a model site, with all that such bundles have wrong, put right in a real browser."""

import io
import re
import zipfile
from base64 import b64decode
from pathlib import Path

import numpy as np
import trimesh
from PIL import Image
from playwright.sync_api import expect

from tests.browser.test_path import BrowserCase
from tests.support import ROOT

SEAT, DENSE = ROOT / "demo" / "quay-seat.zip", ROOT / "demo" / "seat-dense.glb"
#: Pixels of a texture as the browser decodes it, in base 64: as a list of numbers they take ten times as long to come over.
_DECODED = """async (sha256) => {
  const image = await createImageBitmap(await (await fetch(`/api/textures/${sha256}`)).blob(), { colorSpaceConversion: "none" });
  const canvas = new OffscreenCanvas(image.width, image.height);
  const pen = canvas.getContext("2d", { willReadFrequently: true });
  pen.drawImage(image, 0, 0);
  const pixels = new Blob([pen.getImageData(0, 0, image.width, image.height).data]);
  const reader = new FileReader();
  await new Promise((done) => { reader.onload = done; reader.readAsDataURL(pixels); });
  return { width: image.width, height: image.height, data: reader.result.split(",")[1] };
}"""


class Seat(BrowserCase):
    def finding(self, text: str, button: str) -> None:
        """Take the remedy of a finding; it is settled then."""
        item = self.page.get_by_role("region", name="Findings").get_by_role("listitem").filter(has_text=text)
        item.get_by_role("button", name=button).click()
        expect(item).to_contain_text("settled")

    def test_from_the_bundle_to_a_proven_glb_with_its_textures(self) -> None:
        page = self.page
        self.drop(SEAT)
        expect(self.rung("Receive")).to_contain_text("12 parts")
        self.meshed()
        self.open_rung("Receive")
        expect(page.get_by_text("The picture “textures/cast_iron_paint.png” is not there")).to_be_visible()
        self.finding("declares no unit", "It is cm: 1.95 m")
        self.finding("which axis points up", "Y points up")
        self.finding("Lamp glass came in opaque", "Let light through")
        self.finding("mirrors its surroundings", "At most this shiny")
        page.get_by_role("button", name="Turn it").click()
        expect(page.get_by_text("its surface faces inward")).to_have_count(0)
        self.open_rung("Sort")
        page.get_by_role("button", name="Maps…").click()
        board = page.get_by_role("region", name="Maps")
        expect(board).to_contain_text("1 map missing.")
        self.same_pixels()
        self.accessible("Maps")
        self.own_letters("Maps")
        board.get_by_role("button", name="Take all guesses").click()
        expect(board.get_by_role("button", name="normal of Larch, 512 × 256 pixels")).to_be_visible()
        board.get_by_role("button", name="base colour of Cast iron, missing").click()
        paint = self.house.folder / "paint.png"
        Image.new("RGB", (32, 32), (30, 34, 38)).save(paint)
        page.get_by_label("Picture file for base colour of Cast iron").set_input_files(str(paint))
        expect(page.get_by_text("paint.png")).to_be_visible()
        page.keyboard.press("Escape")
        expect(board).not_to_contain_text("missing.")
        board.get_by_role("button", name="Done", exact=True).click()
        page.get_by_role("button", name="Materials…").click()
        # The scene of the sample stays from one material to the next; the fields are those of the other.
        page.locator("canvas[role=img]").evaluate("canvas => { canvas.dataset.first = 'yes' }")
        page.get_by_role("button", name="Cast iron", exact=True).click()
        expect(page.get_by_role("img", name=re.compile("^Cast iron on a ball"))).to_have_attribute("data-first", "yes")
        expect(page.get_by_role("textbox", name="Name of the material")).to_have_value("Cast iron")
        metal = page.get_by_role("slider", name="Metalness")
        metal.focus()
        page.keyboard.press("Home")
        expect(metal).to_have_attribute("aria-valuetext", "0 %")
        self.accessible("Materials")
        self.own_letters("Materials")
        page.get_by_role("button", name="Done", exact=True).click()
        self.open_rung("Ship")
        self.choose("Largest side of a picture", "than 512 px")
        page.get_by_role("button", name="Ship as GLB").click()
        expect(page.get_by_text("receipt in order", exact=True)).to_be_visible()
        with page.expect_download() as download:
            page.get_by_role("link", name="ZIP").first.click()
        self.check(Path(download.value.path()))

    def same_pixels(self) -> None:
        """The pictures that the house gives out, decoded by the browser, which shares no decoder with it."""
        job = self.page.url.rpartition("/jobs/")[2].partition("?")[0]
        board = self.http.get(f"/api/jobs/{job}/maps").json()
        named = {
            s["picture"]["name"]: s["picture"]["sha256"] for row in board["rows"] for s in row["slots"] if s["picture"]
        }
        named |= {item["picture"]["name"]: item["picture"]["sha256"] for item in board["orphans"]}
        with zipfile.ZipFile(SEAT) as archive:
            for path in (name for name in archive.namelist() if name.startswith(("maps/", "preview/"))):
                with Image.open(io.BytesIO(archive.read(path))) as picture:
                    ours = np.asarray(picture.convert("RGB")).astype(int)
                told = self.page.evaluate(_DECODED, named[path.rpartition("/")[2]])
                pixels = np.frombuffer(b64decode(told["data"]), np.uint8).astype(int)
                theirs = pixels.reshape(told["height"], told["width"], 4)[..., :3]
                # Lossless is equal; how the other kind is rounded its standard leaves open by a step or two.
                self.assertLessEqual(int(np.abs(ours - theirs).max()), 0 if path.lower().endswith("png") else 8, path)

    def check(self, bundle: Path) -> None:
        """Pixels, UV and size by a library that shares no code with ours."""
        with zipfile.ZipFile(bundle) as archive:
            glb = next(name for name in archive.namelist() if name.endswith(".glb"))
            scene = trimesh.load_scene(io.BytesIO(archive.read(glb)), file_type="glb", process=False)
        with zipfile.ZipFile(SEAT) as archive:
            wood = np.asarray(Image.open(io.BytesIO(archive.read("maps/larch boards.PNG"))).convert("RGB"))
        np.testing.assert_allclose(scene.extents, [1.95, 1.43, 0.65], atol=1e-4)
        looks = {mesh.visual.material.name: mesh.visual for mesh in scene.geometry.values()}
        larch, iron, glass = looks["Larch"], looks["Cast iron"], looks["Lamp glass"]
        np.testing.assert_array_equal(np.asarray(larch.material.baseColorTexture.convert("RGB")), wood)
        self.assertEqual(larch.material.normalTexture.size, (512, 256))
        rough = np.asarray(larch.material.metallicRoughnessTexture)[..., 1]
        self.assertGreaterEqual(int(rough.min()), 102, "no place is shinier than roughness 0.4")
        self.assertAlmostEqual(float(np.ptp(larch.uv[:, 0])), 0.8, places=5)
        self.assertEqual(iron.material.baseColorTexture.getpixel((3, 3)), (30, 34, 38))
        self.assertEqual(iron.material.metallicFactor, 0)
        self.assertLessEqual(glass.material.roughnessFactor, 0.1)
        self.assertTrue(all(mesh.volume > 0 for mesh in scene.geometry.values() if mesh.is_watertight))

    def test_candidates_are_laid_side_by_side_and_one_is_used(self) -> None:
        page = self.page
        self.drop(SEAT)
        expect(self.rung("Receive")).to_contain_text("12 parts")
        self.open_rung("Receive")
        page.get_by_role("button", name="Candidates…").click()
        expect(page.get_by_text("Nothing to compare yet")).to_be_visible()
        page.get_by_label("Files to compare").set_input_files([str(DENSE), str(DENSE.with_name("seat-plain.glb"))])
        expect(page.get_by_text("A smaller file than seat-plain.glb, but the heavier mesh").first).to_be_visible()
        expect(page.get_by_alt_text("seat-dense.glb, from the front right")).to_be_visible()
        self.accessible("Candidates")
        page.get_by_role("button", name="Triangles", exact=True).click()
        rows = page.get_by_role("region", name="Candidates").locator("tbody tr")
        expect(rows.nth(0)).to_contain_text("seat-plain.glb")
        page.get_by_role("button", name="Use this one: seat-dense.glb").click()
        expect(rows.filter(has_text="the source")).to_contain_text("seat-dense.glb")
        page.get_by_role("button", name="Drop it: seat-plain.glb").click()
        expect(rows).to_have_count(2)
        page.get_by_role("button", name="Done", exact=True).click()
        expect(self.rung("Receive")).to_contain_text("2 parts, 11 placements")
        page.get_by_role("button", name="Lookouts (1)").click()
        page.get_by_role("button", name="Look from Catalogue view").click()
        page.keyboard.press("Escape")
        expect(page.get_by_role("application")).to_have_attribute("data-from", "0.00 -1.00 0.00")
