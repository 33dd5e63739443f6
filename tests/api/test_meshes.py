"""Mesh files in the house: received as a bundle, dressed as they say, put upright, and shipped."""

import io
import zipfile

import numpy as np
import trimesh
from PIL import Image

from tests.support import ROOT, HouseCase

DEMO_SEAT = ROOT / "demo" / "quay-seat.zip"

MTL = "newmtl Teak oil\nKd 0.4 0.2 0.1\nPr 0.3\nnewmtl Iron\nKd 0.1 0.1 0.1\nPm 1\nPr 0.6\n"


def seat() -> str:
    """A bench of two boxes, 1.8 m long, Y up, in metres."""
    lines = ["mtllib finish.mtl"]
    start = 1
    for name, material, size, middle in (
        ("Seat board", "Teak oil", (1.8, 0.05, 0.4), (0, 0.45, 0)), ("Frame", "Iron", (1.6, 0.4, 0.3), (0, 0.22, 0)),
    ):  # fmt: skip
        box = trimesh.creation.box(size)
        lines += [f"o {name}", f"usemtl {material}"]
        lines += [f"v {x} {y} {z}" for x, y, z in box.vertices + middle]
        lines += ["f " + " ".join(str(corner + start) for corner in face) for face in box.faces]
        start += len(box.vertices)
    return "\n".join(lines)


class Meshes(HouseCase):
    def test_a_bundle_of_obj_and_mtl_to_a_proven_glb(self) -> None:
        path = self.house.folder / "quay seat.zip"
        with zipfile.ZipFile(path, "w") as archive:
            archive.writestr("model/seat.obj", seat())
            archive.writestr("materials/FINISH.MTL", MTL)
        job = self.make_job(path)["id"]
        view = self.ready(job)
        (source,) = view["sources"]
        self.assertEqual((source["facts"]["format"], source["facts"]["parts"]), ("OBJ", 2))
        codes = {item["code"]: item for item in source["findings"]}
        self.assertEqual(set(codes), {"unit-missing", "up-missing"})
        for code in codes:
            (offer, *_) = codes[code]["offers"]
            taken = self.http.post(
                f"/api/jobs/{job}/offers", json={**offer, "source": source["ref"], "parts": codes[code]["parts"]}
            )
            self.assertEqual(taken.status_code, 200, taken.text)
        self.ready(job)
        result = self.http.get(f"/api/jobs/{job}/result").json()
        np.testing.assert_allclose(result["size"], [1.8, 0.4, 0.455], atol=1e-6)
        self.assertEqual([item["name"] for item in result["materials"]], ["Teak oil", "Iron"])
        self.assertEqual([item["own"]["metalness"] for item in result["materials"]], [0.0, 1.0])
        self.assertEqual((result["loose_parts"], result["inside_out"], result["open_parts"]), ([], [], []))
        delivery = self.http.post(f"/api/jobs/{job}/deliveries").json()["id"]
        view = self.wait_for(job, lambda v: v["deliveries"][0]["state"] in ("done", "failed"))
        self.assertTrue(view["deliveries"][0]["receipt"]["ok"], view["deliveries"][0])
        bundle = self.http.get(f"/api/deliveries/{delivery}/bundle").content
        with zipfile.ZipFile(io.BytesIO(bundle)) as archive:
            glb = next(name for name in archive.namelist() if name.endswith(".glb"))
            scene = trimesh.load_scene(io.BytesIO(archive.read(glb)), file_type="glb")
        np.testing.assert_allclose(scene.extents, [1.8, 0.455, 0.4], atol=1e-5)
        iron = next(g.visual.material for g in scene.geometry.values() if g.visual.material.name == "Iron")
        self.assertEqual((iron.metallicFactor, round(iron.roughnessFactor, 3)), (1.0, 0.6))

    def test_the_seat_with_its_picture_from_bundle_to_glb_and_obj(self) -> None:
        job = self.make_job(DEMO_SEAT)["id"]
        view = self.ready(job)
        found = {item["code"] for item in view["sources"][0]["findings"]}
        wrong = {"unit-missing", "up-missing", "missing-beside", "maps-guessed", "opaque-glass", "too-shiny"}
        self.assertEqual(found, wrong)
        self.decide(job, "Centimetres, Y up", fit={"unit": "cm", "up": "y"})
        self.ready(job)
        materials = {item["name"]: item for item in self.http.get(f"/api/jobs/{job}/result").json()["materials"]}
        sha256 = materials["Larch"]["own"]["maps"]["base colour"]["picture"]
        self.assertEqual(materials["Cast iron"]["own"]["maps"], {})
        answer = self.http.get(f"/api/textures/{sha256}")
        self.assertEqual(answer.headers["content-type"], "image/png")
        with zipfile.ZipFile(DEMO_SEAT) as archive:
            original = archive.read("maps/larch boards.PNG")
        self.assertEqual(answer.content, original)
        for name in ("0" * 64, "x"):
            self.assertEqual(self.http.get(f"/api/textures/{name}").status_code, 404)
        with Image.open(io.BytesIO(original)) as picture:
            wanted = np.asarray(picture.convert("RGB"))
        for form in ("glb", "obj"):
            with self.subTest(form):
                delivery = self.http.post(f"/api/jobs/{job}/deliveries", json={"target": {"format": form}}).json()["id"]
                view = self.wait_for(job, lambda v: v["deliveries"][0]["state"] in ("done", "failed"))
                receipt = view["deliveries"][0]["receipt"]
                self.assertTrue(receipt["ok"], receipt)
                self.assertIn("pictures by material", [check["name"] for check in receipt["checks"]])
                with zipfile.ZipFile(
                    io.BytesIO(self.http.get(f"/api/deliveries/{delivery}/bundle").content)
                ) as archive:
                    folder = self.house.folder / form
                    archive.extractall(folder)
                file = next(path for path in folder.iterdir() if path.suffix == f".{form}")
                scene = trimesh.load_scene(file, process=False)
                worn = [g.visual for g in scene.geometry.values() if g.visual.material.name == "Larch"]
                # The other library makes one of all that an OBJ dresses alike.
                self.assertEqual(len(worn), 7 if form == "glb" else 1)
                shown = getattr(worn[0].material, "baseColorTexture", None) or worn[0].material.image
                np.testing.assert_array_equal(np.asarray(shown.convert("RGB")), wanted)
                if form == "glb":
                    # 160 cm of 200 for a picture's width, by the file's own numbers.
                    self.assertAlmostEqual(float(np.ptp(worn[0].uv[:, 0])), 0.8, places=5)

    def test_the_maps_board_from_missing_and_guessed_to_a_proven_delivery(self) -> None:
        job = self.make_job(DEMO_SEAT)["id"]
        self.ready(job)
        board = self.http.get(f"/api/jobs/{job}/maps").json()
        slots = {row["name"]: {item["slot"]: item for item in row["slots"]} for row in board["rows"]}
        ids = {row["name"]: row["material"] for row in board["rows"]}
        states = {name: own["base colour"]["state"] for name, own in slots.items()}
        larch = next(row for row in board["rows"] if row["name"] == "Larch")
        # The seat lays its picture 200 by 60 of its units; metres are taken for them until somebody says otherwise.
        self.assertAlmostEqual(larch["tile"], (200 * 60) ** 0.5, delta=2)
        self.assertAlmostEqual(larch["pixels_per_metre"], (512 * 256) ** 0.5 / larch["tile"], places=6)
        self.assertEqual(states, {"Larch": "worn", "Cast iron": "missing", "Lamp glass": "empty", "Brass": "empty"})
        self.assertEqual(slots["Cast iron"]["base colour"]["missing"], "textures/cast_iron_paint.png")
        self.assertEqual(
            {s for s, item in slots["Larch"].items() if item["state"] == "guessed"}, {"normal", "roughness"}
        )
        (orphan,) = board["orphans"]
        self.assertEqual((orphan["picture"]["name"], orphan["fits"][0]["name"]), ("iron paint.jpg", "Cast iron"))
        small = self.http.get(f"/api/textures/{orphan['picture']['sha256']}/small")
        with Image.open(io.BytesIO(small.content)) as picture:
            self.assertEqual(picture.size, (192, 192))
        grey = self.http.get(f"/api/textures/{orphan['picture']['sha256']}/grey?channel=r&inverted=true")
        with Image.open(io.BytesIO(grey.content)) as picture:
            self.assertEqual((picture.mode, picture.size), ("L", (256, 256)))
        # A file of one's own goes where it is dropped; what nobody gave cannot be worn.
        paint = self.house.folder / "own paint.png"
        Image.new("RGB", (64, 64), (20, 24, 28)).save(paint)
        told = self.upload(paint)
        answer = self.http.post(
            f"/api/jobs/{job}/maps/pictures",
            json={"sha256": told["sha256"], "name": told["name"], "material": ids["Cast iron"], "slot": "base colour"},
        )
        self.assertEqual(answer.status_code, 200, answer.text)
        offer = {"label": "x", "does": "wear", "source": "", "parts": []}
        for values in (
            {"material": ids["Larch"], "slot": "normal", "picture": "0" * 64},
            {"material": "look:gone", "slot": "normal"},
            {"material": ids["Larch"], "slot": "smell"},
        ):
            answer = self.http.post(f"/api/jobs/{job}/offers", json={**offer, "values": values})
            self.assertEqual(answer.status_code, 422, values)
        self.http.post(
            f"/api/jobs/{job}/offers", json={**offer, "does": "take-maps", "values": {"materials": [ids["Larch"]]}}
        )
        board = self.http.get(f"/api/jobs/{job}/maps").json()
        worn = {(row["name"], s["slot"]) for row in board["rows"] for s in row["slots"] if s["state"] == "worn"}
        wanted = {("Larch", "base colour"), ("Larch", "normal"), ("Larch", "roughness"), ("Cast iron", "base colour")}
        self.assertEqual(worn, wanted)
        broken = self.house.folder / "broken.png"
        broken.write_bytes(b"\x89PNG\r\n nothing")
        told = self.upload(broken)
        refusal = self.http.post(
            f"/api/jobs/{job}/maps/pictures", json={"sha256": told["sha256"], "name": "broken.png"}
        )
        self.assertEqual((refusal.status_code, refusal.json()["remedy"]), (422, "Save it as PNG or JPEG."))
        self.ready(job)
        self.http.post(f"/api/jobs/{job}/deliveries", json={"target": {"format": "glb", "texture_limit": 128}})
        view = self.wait_for(job, lambda v: v["deliveries"] and v["deliveries"][0]["state"] in ("done", "failed"))
        receipt = view["deliveries"][0]["receipt"]
        self.assertTrue(receipt["ok"], receipt)
        shown = next(check for check in receipt["checks"] if check["name"] == "pictures by material")["found"]
        self.assertEqual(
            {name: told.partition(",")[0] for name, told in shown.items()},
            {
                "Larch, base colour": "128 × 64", "Larch, normal": "128 × 64", "Larch, shine": "128 × 64",
                "Cast iron, base colour": "64 × 64",
            },
        )  # fmt: skip

    def test_two_sources_may_call_different_looks_alike(self) -> None:
        paths = []
        for number, colour in enumerate(("1 0 0", "0 0 1")):
            folder = self.house.folder / f"s{number}"
            folder.mkdir()
            path = self.house.folder / f"s{number}.zip"
            with zipfile.ZipFile(path, "w") as archive:
                archive.writestr(f"s{number}.obj", "mtllib a.mtl\nusemtl Paint\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n")
                archive.writestr("a.mtl", f"newmtl Paint\nKd {colour}\n")
            paths.append(path)
        job = self.make_job(paths[0])["id"]
        self.ready(job)
        self.http.post(f"/api/jobs/{job}/sources", json={"files": [self.upload(paths[1])]})
        self.wait_for(job, lambda v: len(v["sources"]) == 2 and all(s["state"] == "ready" for s in v["sources"]))
        self.ready(job)
        told = self.http.get(f"/api/jobs/{job}/result").json()["materials"]
        self.assertEqual([item["colour"] for item in told], ["#ff0000", "#0000ff"])
        self.assertEqual(len({item["name"] for item in told}), 2)
