"""Jobs of several sources over HTTP: dropped together, added, replaced, chosen from, mended by findings."""

import base64
import zipfile

import numpy as np

from tests.support import AS1, DAVIT, DEMO, HOUSE, SHED, FolderCase, HouseCase


class Sources(HouseCase, FolderCase):
    workers = 2

    def names(self, view: dict[str, object]) -> set[str]:
        return {source["name"] for source in view["sources"]}  # type: ignore[attr-defined]

    def test_files_dropped_together_are_sources_beside_each_other_every_time(self) -> None:
        """The second time everything is known already, and the job is the same."""
        for _ in range(2):
            job = self.make_job(HOUSE, SHED, DAVIT)["id"]
            view = self.wait_for(
                job, lambda v: len(v["sources"]) == 3 and all(s["state"] == "ready" for s in v["sources"])
            )
            self.assertEqual(self.names(view), {HOUSE.name, SHED.name, DAVIT.name})
            self.assertEqual({s["ref"] for s in view["sources"]}, {HOUSE.stem, SHED.stem, DAVIT.stem})
            for source in view["sources"]:
                self.assertEqual(source["facts"]["format"], "IGES" if source["name"] == DAVIT.name else "IFC")
        listed = self.http.get("/api/jobs").json()[0]
        self.assertEqual((set(listed["files"]), listed["parts"]), (self.names(view), 51 + 13 + 6))

    def test_a_zip_of_two_buildings(self) -> None:
        path = self.folder / "both.zip"
        with zipfile.ZipFile(path, "w") as archive:
            archive.write(HOUSE, "x/keepers-house.ifc")
            archive.write(SHED, "y/boat-shed.ifc")
        job = self.make_job(path)["id"]
        view = self.wait_for(job, lambda v: len(v["sources"]) == 2 and all(s["state"] == "ready" for s in v["sources"]))
        self.assertEqual(self.names(view), {HOUSE.name, SHED.name})

    def test_a_bad_source_leaves_the_good_one_alone(self) -> None:
        job = self.make_job(AS1)["id"]
        self.ready(job)
        bad = self.folder / "bad.ifc"
        bad.write_bytes(HOUSE.read_bytes()[:300])
        self.http.post(f"/api/jobs/{job}/sources", json={"files": [self.upload(bad)]})
        view = self.wait_for(job, lambda v: v["sources"][-1]["state"] == "refused" or v["sources"][-1]["findings"])
        self.assertEqual((view["state"], len(view["sources"])), ("ready", 2))
        self.assertEqual(len(self.http.get(f"/api/jobs/{job}/result").json()["placements"]), 18)

    def test_adding_replacing_and_shipping(self) -> None:
        job = self.make_job(SHED)["id"]
        self.ready(job)
        self.http.post(f"/api/jobs/{job}/sources", json={"files": [self.upload(DAVIT)]})
        view = self.ready(job)
        structure = self.http.get(f"/api/jobs/{job}/structure").json()
        result = self.http.get(f"/api/jobs/{job}/result").json()
        self.assertEqual(structure["model_key"], result["model_key"])
        self.assertEqual([piece["name"] for piece in structure["members"]], [SHED.name, DAVIT.name])
        self.assertEqual([source["unit"] for source in result["sources"]], ["ft", "in"])
        before = [part["ref"] for part in structure["parts"][:13]]
        answer = self.http.put(f"/api/jobs/{job}/sources/{DAVIT.stem}", json={"files": [self.upload(AS1)]})
        self.assertEqual(answer.status_code, 200)
        view = self.ready(job)
        after = self.http.get(f"/api/jobs/{job}/structure").json()
        self.assertEqual([part["ref"] for part in after["parts"][:13]], before)
        self.assertEqual(len(after["parts"]), 13 + 5)
        self.http.post(f"/api/jobs/{job}/deliveries")
        view = self.wait_for(job, lambda v: v["deliveries"] and v["deliveries"][0]["state"] in ("done", "failed"))
        self.assertTrue(view["deliveries"][0]["receipt"]["ok"])
        self.assertFalse(view["deliveries"][0]["stale"])
        self.assertEqual(
            self.http.put(f"/api/jobs/{job}/sources/none", json={"files": [self.upload(AS1)]}).status_code, 404
        )

    def test_an_offer_is_a_decision_that_undo_takes_back(self) -> None:
        job = self.make_job(SHED)["id"]
        view = self.ready(job)
        found = next(item for item in view["sources"][0]["findings"] if item["code"] == "far-from-origin")
        self.assertFalse(found["settled"])
        told = {**found["offers"][0], "source": found["source"], "parts": found["parts"]}
        view = self.http.post(f"/api/jobs/{job}/offers", json=told).json()
        settled = {item["code"]: item["settled"] for item in view["sources"][0]["findings"]}
        self.assertTrue(settled["far-from-origin"])
        box = np.array(self.http.get(f"/api/jobs/{job}/result").json()["box"])
        self.assertLess(np.abs(box).max(), 100)
        view = self.http.post(f"/api/jobs/{job}/undo").json()
        settled = {item["code"]: item["settled"] for item in view["sources"][0]["findings"]}
        self.assertFalse(settled["far-from-origin"])
        refused = self.http.post(f"/api/jobs/{job}/offers", json={"label": "x", "does": "nothing-known"})
        self.assertEqual(refused.status_code, 422)

    def test_tallies_plan_and_a_polygon(self) -> None:
        job = self.make_job(HOUSE)["id"]
        self.ready(job)
        tallies = self.http.get(f"/api/jobs/{job}/tallies").json()
        storeys = {t["match"]: t for t in tallies if t["by"] == "storey"}
        self.assertEqual(list(storeys), ["Ground floor", "Upper floor", "Loft"])
        self.assertFalse(storeys["Loft"]["estimated"])
        plan = self.http.get(f"/api/jobs/{job}/plan").json()
        corners = np.frombuffer(base64.b64decode(plan["corners"]), "<f4").reshape(-1, 4, 2)
        self.assertEqual(len(corners), len(plan["taken"]))
        np.testing.assert_allclose(np.ptp(corners.reshape(-1, 2), axis=0), np.ptp(plan["box"], axis=0), rtol=1e-5)
        # What is joined or taken apart at Mend is counted as it came.
        parts = self.http.get(f"/api/jobs/{job}/structure").json()["parts"]
        self.decide(job, "Joined", mend={"joined": [{"parts": [part["ref"] for part in parts[:2]], "name": "Both"}]})
        counted = [{**t, "triangles": 0, "estimated": False} for t in tallies]
        again = self.http.get(f"/api/jobs/{job}/tallies").json()
        self.assertEqual([{**t, "triangles": 0, "estimated": False} for t in again], counted)
        self.decide(job, "As they came", mend={"joined": []})
        only = [{"by": "storey", "match": "Upper floor", "take": True}]
        region = {"polygon": [[0, -1], [4, -1], [4, 8], [0, 8]], "cut": True}
        self.decide(job, "A piece", receive={"choices": only, "region": region})
        self.ready(job)
        result = self.http.get(f"/api/jobs/{job}/result").json()
        # The box of triangles: single precision about the part's own origin, far below a micrometre here.
        np.testing.assert_allclose(result["box"][0][0], 0, atol=1e-7)
        self.assertEqual(len(result["cut_parts"]), len(result["cut_nodes"]))
        self.assertGreater(result["left_out"], 50)
        structure = self.http.get(f"/api/jobs/{job}/structure").json()
        node = structure["node_names"].index("South wall, upper floor")
        sets = self.http.get(f"/api/jobs/{job}/details", params={"node": node}).json()["sets"]
        self.assertIn("Pset_WallCommon", [item["name"] for item in sets])
        crossed = {"polygon": [[0, 0], [1, 1], [1, 0], [0, 1]], "cut": False}
        patch = {"receive": {"region": crossed}}
        answer = self.http.patch(f"/api/jobs/{job}/decisions", json={"patch": patch})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("crosses itself", answer.text)

    def test_structure_comes_before_triangles(self) -> None:
        """An outline is there while shapes are still being read, and node numbers do not change when they are."""
        job = self.make_job(HOUSE)["id"]
        first = self.wait_for(job, lambda v: v["model_key"] is not None)
        early = self.http.get(f"/api/jobs/{job}/structure").json()
        self.ready(job)
        late = self.http.get(f"/api/jobs/{job}/structure").json()
        self.assertEqual(early["node_names"], late["node_names"])
        self.assertTrue(first["model_key"])

    def test_the_lantern_alone_is_as_it_was(self) -> None:
        job = self.make_job(DEMO)["id"]
        view = self.ready(job)
        self.assertEqual((view["sources"][0]["ref"], view["sources"][0]["name"]), (DEMO.stem, DEMO.name))
