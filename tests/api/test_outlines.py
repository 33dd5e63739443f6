"""Drawings and vector art over HTTP: what becomes of outlines, thin walls, the cleaned file, the shipped prism."""

import io
import zipfile
from typing import Any

import numpy as np
import trimesh

from tests.support import ROOT, HouseCase

SIGN = ROOT / "demo" / "harbour-sign.svg"
STENCIL = ROOT / "demo" / "light-stencil.svg"
DRAWING = ROOT / "demo" / "site-drawing.dxf"


class Outlines(HouseCase):
    def decide(self, job: int, label: str, **drawn: Any) -> dict[str, Any]:
        view = self.http.get(f"/api/jobs/{job}").json()
        decisions = view["decisions"]
        decisions["receive"]["drawn"] |= drawn
        answer = self.http.put(
            f"/api/jobs/{job}/decisions", json={"decisions": decisions, "label": label, "base": view["decisions_id"]}
        )
        self.assertEqual(answer.status_code, 200, answer.text)
        return self.ready(job)

    def outlines(self, job: int) -> dict[str, Any]:
        answer = self.http.get(f"/api/jobs/{job}/outlines")
        self.assertEqual(answer.status_code, 200, answer.text)
        found: dict[str, Any] = answer.json()
        return found

    def codes(self, job: int) -> dict[str, Any]:
        view, result = self.http.get(f"/api/jobs/{job}").json(), self.http.get(f"/api/jobs/{job}/result").json()
        found = [f for source in view["sources"] for f in source["findings"]] + result["findings"]
        return {item["code"]: item for item in found}

    def test_a_stencil_with_its_bars(self) -> None:
        job = self.make_job(STENCIL)["id"]
        self.ready(job)
        self.decide(job, "high", rows=[{"by": "all", "height": 0.002, "areas": "alternating"}], nozzle=0.0008)
        view = self.http.get(f"/api/jobs/{job}").json()
        view["decisions"]["fit"]["sources"]["light-stencil"] = {"unit": "mm"}
        self.http.put(
            f"/api/jobs/{job}/decisions",
            json={"decisions": view["decisions"], "label": "mm", "base": view["decisions_id"]},
        )
        self.ready(job)
        found = self.outlines(job)
        roles = {shape["label"]: shape["role"] for shape in found["shapes"]}
        self.assertEqual(roles.pop("sheet"), "solid")
        self.assertEqual(set(roles.values()), {"hole"})
        self.assertEqual([round(place["width"] * 1000, 1) for place in found["thin"]], [0.3, 0.6])
        self.assertTrue(all(0 < place["x"] < 0.112 and 0 < place["y"] < 0.082 for place in found["thin"]))
        thin = self.codes(job)["thin-wall"]
        self.assertIn("2 places", thin["message"])
        offer = {**thin["offers"][0], "source": "", "parts": thin["parts"]}
        self.http.post(f"/api/jobs/{job}/offers", json=offer)
        self.ready(job)
        if self.outlines(job)["thin"]:
            self.decide(job, "thicken", thicken=True)
        self.assertEqual(self.outlines(job)["thin"], [])
        self.assertNotIn("thin-wall", self.codes(job))

    def test_points_are_where_the_file_has_them(self) -> None:
        job = self.make_job(SIGN)["id"]
        self.ready(job)
        found = self.outlines(job)
        import base64

        points = np.frombuffer(base64.b64decode(found["points"]), "<f4").reshape(-1, 2) + np.mean(found["box"], axis=0)
        self.assertEqual(len(points), sum(sum(shape["counts"]) for shape in found["shapes"]))
        np.testing.assert_allclose([points.min(axis=0), points.max(axis=0)], found["box"], atol=1e-6)
        plate = next(shape for shape in found["shapes"] if shape["label"] == "plate")
        first = points[: plate["counts"][0]]  # the largest comes first
        np.testing.assert_allclose(np.ptp(first, axis=0), [0.404, 0.244], atol=1e-4)

    def test_the_cleaned_file_can_be_saved(self) -> None:
        job = self.make_job(SIGN)["id"]
        view = self.ready(job)
        self.assertTrue(view["sources"][0]["facts"]["clean"])
        answer = self.http.get(f"/api/jobs/{job}/sources/harbour-sign/clean")
        self.assertEqual(answer.status_code, 200, answer.text)
        self.assertIn("harbour-sign-clean.svg", answer.headers["content-disposition"])
        self.assertNotIn("gull-rock.invalid", answer.text)
        self.assertIn("letter G 1", answer.text)
        other = self.make_job(STENCIL)["id"]
        self.ready(other)
        self.assertEqual(self.http.get(f"/api/jobs/{other}/sources/light-stencil/clean").status_code, 404)

    def test_a_drawing_from_no_unit_to_a_proven_mesh(self) -> None:
        job = self.make_job(DRAWING)["id"]
        self.ready(job)
        before = self.codes(job)
        self.assertIn("unit-missing", before)
        self.assertFalse(before["outlines-wait"]["settled"])
        self.decide(
            job,
            "heights",
            rows=[{"by": "all", "height": 2.5}, {"by": "layer", "match": "Quay", "height": 1.2}],
            close=0.03,
        )
        self.assertTrue(self.codes(job)["outlines-wait"]["settled"])
        self.assertTrue(self.codes(job)["nearly-closed"]["settled"])
        shipped = self.http.post(f"/api/jobs/{job}/deliveries").json()
        view = self.wait_for(job, lambda v: v["deliveries"] and v["deliveries"][0]["state"] in ("done", "failed"))
        self.assertTrue(view["deliveries"][0]["receipt"]["ok"], view["deliveries"][0])
        answer = self.http.get(f"/api/deliveries/{shipped['id']}/bundle")
        with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
            name = next(n for n in archive.namelist() if n.endswith(".glb"))
            scene = trimesh.load(io.BytesIO(archive.read(name)), file_type="glb")
        result = self.http.get(f"/api/jobs/{job}/result").json()
        # glTF has Y up: its Z is our -Y.
        np.testing.assert_allclose(np.ptp(scene.bounds, axis=0)[[0, 2, 1]], result["size"], atol=1e-4)
        self.assertEqual(result["drawn"]["waiting"], 0)

    def test_nonsense_is_refused_in_words(self) -> None:
        job = self.make_job(SIGN)["id"]
        view = self.ready(job)
        on = {"by": "layer", "match": "Board"}
        view["decisions"]["receive"]["drawn"]["rows"] = [{"by": "layer", "match": "Board", "on": on}]
        answer = self.http.put(
            f"/api/jobs/{job}/decisions",
            json={"decisions": view["decisions"], "label": "x", "base": view["decisions_id"]},
        )
        self.assertIn(answer.status_code, (400, 422), answer.text)
        self.assertIn("stands on itself", answer.json()["detail"])
        self.assertEqual(self.http.get(f"/api/jobs/{job}/result").status_code, 200)
