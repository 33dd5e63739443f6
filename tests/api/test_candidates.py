"""Several files for the same thing: laid side by side, one put in the place of another, dropped."""

import io
from typing import Any

import numpy as np
from PIL import Image

from tests.support import ROOT, HouseCase

SEAT, DENSE, PLAIN = (ROOT / "demo" / name for name in ("quay-seat.zip", "seat-dense.glb", "seat-plain.glb"))


class Candidates(HouseCase):
    def rows(self, job: int, ref: str) -> dict[str, dict[str, Any]]:
        told = self.http.get(f"/api/jobs/{job}/sources/{ref}/candidates").json()
        return {row["name"]: row for row in told}

    def settled(self, job: int, ref: str) -> dict[str, dict[str, Any]]:
        def ready(_: Any) -> bool:
            return all(row["state"] in ("ready", "refused") for row in self.rows(job, ref).values())

        self.wait_for(job, ready)
        return self.rows(job, ref)

    def test_side_by_side_and_one_in_the_place_of_the_other(self) -> None:
        job = self.make_job(SEAT)["id"]
        ref = self.ready(job)["sources"][0]["ref"]
        self.decide(job, "Centimetres, Y up", fit={"unit": "cm", "up": "y"})
        broken = self.house.folder / "broken.glb"
        broken.write_bytes(DENSE.read_bytes()[:2000])
        files = [self.upload(path) for path in (DENSE, PLAIN, broken)]
        added = self.http.post(f"/api/jobs/{job}/sources/{ref}/candidates", json={"files": files})
        self.assertEqual(added.status_code, 201, added.text)
        rows = self.settled(job, ref)
        self.assertEqual([len(self.http.get(f"/api/jobs/{job}").json()["sources"]), len(rows)], [1, 4])
        dense, plain = rows["seat-dense.glb"], rows["seat-plain.glb"]
        self.assertLess(dense["bytes"], plain["bytes"])
        self.assertEqual((dense["triangles"], plain["triangles"]), (254_976, 132))
        self.assertEqual(dense["remark"], "A smaller file than seat-plain.glb, but the heavier mesh")
        self.assertEqual((rows["broken.glb"]["state"], rows["quay-seat.obj"]["number"]), ("refused", 0))
        # Each in the unit and the axis that it would come in with.
        np.testing.assert_allclose(rows["quay-seat.obj"]["size"], [1.95, 0.65, 1.43], atol=1e-6)
        np.testing.assert_allclose(dense["size"], [1.6, 0.635, 0.953], atol=1e-3)
        glance = self.http.get(f"/api/glances/{dense['model_key']}?up=y")
        with Image.open(io.BytesIO(glance.content)) as picture:
            pixels = np.asarray(picture)
        share = (pixels[..., 3] > 0).mean()
        self.assertTrue(0.1 < share < 0.9, share)
        self.assertGreater(np.ptp(pixels[pixels[..., 3] > 0][:, 0].astype(int)), 60, "wood and iron, light and shade")
        self.assertEqual(self.http.get(f"/api/glances/{'0' * 64}?up=z").status_code, 404)

        used = self.http.post(f"/api/jobs/{job}/sources/{ref}/candidates/{plain['number']}/use")
        self.assertEqual(used.status_code, 200, used.text)
        self.wait_for(job, lambda view: view["sources"][0]["name"] == "seat-plain.glb" and view["state"] == "ready")
        view = self.ready(job)
        result = self.http.get(f"/api/jobs/{job}/result").json()
        np.testing.assert_allclose(result["size"], [1.6, 0.635, 0.953], atol=1e-3)
        rows = self.settled(job, ref)
        self.assertEqual(
            (rows["seat-plain.glb"]["number"], set(rows)),
            (0, {"seat-plain.glb", "seat-dense.glb", "quay-seat.obj", "broken.glb"}),
        )
        np.testing.assert_allclose(rows["quay-seat.obj"]["size"][0], 195, atol=1e-6)
        for number in (rows["broken.glb"]["number"], rows["seat-dense.glb"]["number"]):
            self.assertEqual(self.http.delete(f"/api/jobs/{job}/candidates/{number}").status_code, 200)
        self.assertEqual(len(self.rows(job, ref)), 2)
        for path in ("sources/nobody/candidates/1/use", f"sources/{ref}/candidates/999999/use"):
            self.assertEqual(self.http.post(f"/api/jobs/{job}/{path}").status_code, 404)
        self.assertEqual(self.http.delete(f"/api/jobs/{job}/candidates/{view['id']}").status_code, 404)


class Shelf(HouseCase):
    alone = True

    def test_a_material_kept_by_one_job_is_taken_by_another_with_its_picture(self) -> None:
        first = self.make_job(SEAT)["id"]
        self.ready(first)
        kept = self.http.post(f"/api/jobs/{first}/shelf", json={"material": "look:Larch"}).json()
        again = self.http.post(f"/api/jobs/{first}/shelf", json={"material": "look:Larch"}).json()
        self.assertEqual([len(kept), len(again)], [1, 1])
        second = self.make_job(PLAIN)["id"]
        self.ready(second)
        view = self.http.post(f"/api/jobs/{second}/shelf/{kept[0]['number']}").json()
        (own,), (picture,) = view["decisions"]["sort"]["materials"], view["decisions"]["sort"]["pictures"]
        self.assertEqual((own["id"], own["maps"]["base colour"]["picture"]), ("own:larch", picture["sha256"]))
        offer = {"source": "", "parts": [], "label": "x"}
        replaced = {**offer, "does": "replace-material", "values": {"materials": ["look:Boards"], "to": "own:larch"}}
        self.http.post(f"/api/jobs/{second}/offers", json=replaced)
        result = self.http.get(f"/api/jobs/{second}/result").json()
        self.assertEqual({item["name"] for item in result["materials"]}, {"Larch", "Iron"})
        for does, values in (
            ("copy-material", {"material": "own:larch", "name": "Larch, wet"}),
            ("edit-material", {"material": "own:larch-wet", "changes": {"roughness": 0.1, "coat": 1}}),
        ):
            answer = self.http.post(f"/api/jobs/{second}/offers", json={**offer, "does": does, "values": values})
            self.assertEqual(answer.status_code, 200, answer.text)
        wet = self.http.get(f"/api/jobs/{second}").json()["decisions"]["sort"]["materials"][1]
        self.assertEqual((wet["name"], wet["coat"]), ("Larch, wet", 1))
        bad = {**offer, "does": "edit-material", "values": {"material": "own:larch", "changes": {"roughness": 7}}}
        self.assertEqual(self.http.post(f"/api/jobs/{second}/offers", json=bad).status_code, 422)
        for does, values in (
            ("tile", {"times": 0}),
            ("tame", {"least": "much"}),
            ("edit-material", {"changes": 7}),
            ("wear", {}),
        ):
            nonsense = {**offer, "does": does, "values": {"material": "own:larch", **values}}
            self.assertEqual(self.http.post(f"/api/jobs/{second}/offers", json=nonsense).status_code, 422, does)
        self.assertEqual(self.http.delete(f"/api/shelf/{kept[0]['number']}").status_code, 204)
        self.assertEqual(self.http.get("/api/shelf").json(), [])
        reset = {**offer, "does": "reset-material", "values": {"materials": ["own:larch", "own:larch-wet"]}}
        view = self.http.post(f"/api/jobs/{second}/offers", json=reset).json()
        self.assertEqual((view["decisions"]["sort"]["materials"], view["decisions"]["sort"]["replaced"]), ([], {}))
