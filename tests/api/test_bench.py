"""The whole path over HTTP: receive, decide, undo, ship, download."""

import io
import json
import os
import signal
import socket
import time
import zipfile
from pathlib import Path

import numpy as np
import psycopg
import trimesh

from hemp_ladder.store import packs
from tests.support import AS1, DEMO, SEVERAL_FILES, FolderCase, HouseCase, broken_files


class WholePath(HouseCase):
    def test_from_drop_to_download(self) -> None:
        job = self.make_job(AS1)["id"]
        view = self.ready(job)
        self.assertEqual(view["sources"][0]["facts"]["parts"], 5)
        structure = self.http.get(f"/api/jobs/{job}/structure").json()
        result = self.http.get(f"/api/jobs/{job}/result").json()
        self.assertEqual(len(structure["parts"]), 5)
        self.assertEqual(len(result["placements"]), 18)
        np.testing.assert_allclose(result["size"], [0.2, 0.15, 0.084], atol=1e-6)
        pack = self.http.get(f"/api/packs/{result['parts'][0]['pack']}")
        self.assertIn("immutable", pack.headers["cache-control"])
        self.assertIn(result["parts"][0]["mesh"], packs.decode(pack.content))
        rules = [{"by": "name", "match": "*", "material": "brass"}]
        self.decide(job, "All brass", sort={"rules": rules}, ship={"target": {"format": "glb", "unit": "cm"}})
        delivery = self.http.post(f"/api/jobs/{job}/deliveries").json()["id"]
        view = self.wait_for(job, lambda v: v["deliveries"][0]["state"] in ("done", "failed"))
        self.assertTrue(view["deliveries"][0]["receipt"]["ok"], view["deliveries"][0])
        answer = self.http.get(f"/api/deliveries/{delivery}/bundle")
        with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
            self.assertEqual(sorted(archive.namelist()), ["A-job-receipt.json", "A-job.glb"])
            scene = trimesh.load_scene(io.BytesIO(archive.read("A-job.glb")), file_type="glb")
            proof = json.loads(archive.read("A-job-receipt.json"))
        np.testing.assert_allclose(scene.extents, [20, 8.4, 15], atol=1e-3)
        self.assertEqual({g.visual.material.name for g in scene.geometry.values()}, {"Polished brass"})
        self.assertTrue(proof["receipt"]["ok"])
        # A word alone is a rule of one word.
        self.assertEqual(proof["decisions"]["sort"]["rules"], [{**rules[0], "match": ["*"], "within": None}])

    def test_undo_redo_and_history(self) -> None:
        job = self.make_job(AS1)["id"]
        self.ready(job)
        self.decide(job, "Inches", fit={"unit": "in", "up": None})
        self.decide(job, "Up", fit={"unit": "in", "up": "y"})
        undone = self.http.post(f"/api/jobs/{job}/undo").json()
        fit = undone["decisions"]["fit"]
        self.assertEqual((fit["unit"], fit["up"]), ("in", None))
        self.assertTrue(undone["can_redo"])
        redone = self.http.post(f"/api/jobs/{job}/redo").json()
        self.assertEqual(redone["decisions"]["fit"]["up"], "y")
        for _ in range(2):
            self.http.post(f"/api/jobs/{job}/undo")
        refused = self.http.post(f"/api/jobs/{job}/undo")
        self.assertEqual((refused.status_code, refused.headers["content-type"]), (422, "application/problem+json"))

    def test_a_movement_is_one_step_of_undo(self) -> None:
        job = self.make_job(AS1)["id"]
        self.ready(job)
        last = None
        for metres in (1e-3, 2e-3, 3e-3):
            last = self.decide(job, "Chord error", last, facet={"chord": {"kind": "absolute", "metres": metres}})[
                "decisions_id"
            ]
        undone = self.http.post(f"/api/jobs/{job}/undo").json()
        self.assertEqual(undone["decisions"]["facet"]["chord"]["metres"], 5e-4)
        self.assertFalse(undone["can_undo"])

    def test_one_parts_setting_makes_one_mesh(self) -> None:
        job = self.make_job(AS1)["id"]
        self.ready(job)
        before = {p["mesh"] for p in self.http.get(f"/api/jobs/{job}/result").json()["parts"]}
        own = {"rod": {"chord": {"kind": "absolute", "metres": 1e-5}, "degrees": None}}
        self.decide(job, "Finer rod", facet={"parts": own})
        self.ready(job)
        parts = self.http.get(f"/api/jobs/{job}/result").json()["parts"]
        self.assertEqual(len({p["mesh"] for p in parts} - before), 1)
        self.assertLessEqual(next(p for p in parts if p["facet_by"])["off_by"], 1e-5)

    def test_a_part_turned_over_is_a_finding(self) -> None:
        job = self.make_job(AS1)["id"]
        self.ready(job)
        self.assertEqual(self.http.get(f"/api/jobs/{job}/result").json()["findings"], [])
        self.decide(job, "Flip", mend={"flipped": ["rod"]})
        found = self.http.get(f"/api/jobs/{job}/result").json()["findings"]
        self.assertEqual([(f["code"], f["where"]) for f in found], [("inside-out", "rod")])

    def test_the_light_level_is_made_beside_the_full_one_and_shipped(self) -> None:
        job = self.make_job(DEMO)["id"]
        self.ready(job)
        self.decide(job, "Light level", trim={"levels": [{"name": "light", "coarser": 20}]})
        self.ready(job)
        levels = self.http.get(f"/api/jobs/{job}/result").json()["levels"]
        self.assertLess(levels["light"], levels["full"] / 2)
        self.decide(job, "Ship it", ship={"target": {"level": "light"}})
        self.http.post(f"/api/jobs/{job}/deliveries")
        view = self.wait_for(job, lambda view: view["deliveries"][:1] and view["deliveries"][0]["state"] == "done")
        receipt = view["deliveries"][0]["receipt"]
        self.assertTrue(receipt["ok"])
        (triangles,) = [check["found"] for check in receipt["checks"] if check["name"] == "triangles"]
        self.assertEqual(triangles, levels["light"])

    def test_the_same_file_twice_is_one_blob_and_no_new_work(self) -> None:
        first = self.ready(self.make_job(DEMO)["id"])
        count = lambda folder: len(list((self.house.folder / "blobs" / folder).iterdir()))  # noqa: E731
        before = {folder: count(folder) for folder in ("sources", "models", "shapes", "packs")}
        second = self.ready(self.make_job(DEMO)["id"])
        self.assertEqual(first["sources"][0]["facts"], second["sources"][0]["facts"])
        self.assertEqual({folder: count(folder) for folder in before}, before)
        blobs = list((self.house.folder / "blobs" / "sources").iterdir())
        self.assertEqual(len(blobs), len({path.name for path in blobs}))
        self.assertEqual(sum(1 for p in blobs if p.stat().st_size == DEMO.stat().st_size), 1)

    def test_several_files_are_one_source(self) -> None:
        view = self.ready(self.make_job(*sorted(SEVERAL_FILES.glob("*.stp")))["id"])
        self.assertEqual((view["sources"][0]["facts"]["placements"], view["sources"][0]["findings"]), (11, []))

    def test_events_tell_of_changes(self) -> None:
        job = self.make_job(AS1)["id"]
        self.ready(job)
        seen = []
        with self.http.stream("GET", f"/api/jobs/{job}/events") as stream:
            for line in stream.iter_lines():
                if line.startswith("data:"):
                    seen.append(json.loads(line[5:])["decisions"]["fit"]["unit"])
                    if len(seen) == 1:
                        self.decide(job, "Inches", fit={"unit": "in"})
                    elif seen[-1] == "in":
                        break
        self.assertEqual((seen[0], seen[-1]), (None, "in"))


class Refusals(HouseCase, FolderCase):
    environment = {"HEMP_LADDER_UPLOAD_LIMIT": "3000000"}

    def test_broken_files_end_as_findings_and_the_house_stands(self) -> None:
        jobs = {name: self.make_job(path, name=name)["id"] for name, path in broken_files(self.folder).items()}
        for name, job in jobs.items():
            with self.subTest(name):
                view = self.wait_for(job, lambda v: v["sources"][0]["state"] in ("ready", "refused"))
                if name not in ("flipped", "repointed"):
                    self.assertEqual(view["sources"][0]["state"], "refused")
                if view["sources"][0]["state"] == "refused":
                    finding = view["sources"][0]["findings"][0]
                    self.assertEqual(finding["severity"], "error")
                    self.assertTrue(finding["message"].endswith(".") and finding["remedy"])
        self.ready(self.make_job(AS1)["id"])
        self.assertTrue(all(worker.poll() is None for worker in self.house.workers))

    def test_too_large_is_refused_at_once(self) -> None:
        answer = self.http.put("/api/uploads", params={"name": "big"}, content=b"x" * 3_000_001)
        self.assertEqual((answer.status_code, answer.json()["code"]), (413, "too-large"))

        def endless():  # type: ignore[no-untyped-def]
            for _ in range(4):
                yield b"x" * 1_000_000

        self.assertEqual(self.http.put("/api/uploads", params={"name": "big"}, content=endless()).status_code, 413)

    def test_an_upload_that_breaks_off_leaves_nothing(self) -> None:
        folder = self.house.folder / "blobs" / "sources"
        before = set(folder.iterdir()) if folder.exists() else set()
        with socket.create_connection(("127.0.0.1", self.house.port)) as line:
            head = f"PUT /api/uploads?name=a HTTP/1.1\r\nHost: 127.0.0.1:{self.house.port}\r\nContent-Length: 2000000\r\n\r\n"
            line.sendall(head.encode() + b"x" * 1000)
        time.sleep(0.5)
        self.assertEqual(set(folder.iterdir()) if folder.exists() else set(), before)

    def test_foreign_hosts_and_origins_are_refused(self) -> None:
        here = self.house.url
        for headers in (
            {"Host": "ladder.example"}, {"Host": "testserver"}, {"Host": "evil@127.0.0.1"}, {"Host": "127.0.0.1#evil"},
            {"Host": "127.0.0.1:1:2"}, {"Host": "["}, {"Origin": "http://ladder.example"}, {"Origin": "http://127.0.0.1:1"},
            {"Origin": "null"}, {"Origin": "http://["}, {"Origin": f"{here}@evil"}, {"Sec-Fetch-Site": "cross-site"},
        ):  # fmt: skip
            answer = self.http.get("/api/jobs", headers=headers)
            self.assertEqual((answer.status_code, answer.json()["code"]), (403, "foreign"), headers)
            self.assertIn("default-src 'self'", answer.headers["content-security-policy"])
        for headers in (
            {"Origin": here},
            {"Host": "localhost:80"},
            {"Host": "[::1]:80"},
            {"Sec-Fetch-Site": "same-origin"},
        ):
            self.assertEqual(self.http.get("/api/jobs", headers=headers).status_code, 200, headers)

    def test_what_is_not_there_and_what_makes_no_sense(self) -> None:
        self.assertEqual(self.http.get("/api/jobs/999999").status_code, 404)
        self.assertEqual(self.http.get("/api/packs/..%2F..%2Fsecret").status_code, 404)
        self.assertEqual(self.http.get("/api/nothing").json()["code"], "not-found")
        never = {"name": "x", "sha256": "0" * 64}
        answer = self.http.post("/api/jobs", json={"name": "x", "files": [never]})
        self.assertIn("not uploaded", answer.json()["detail"])
        job = self.make_job(AS1)["id"]
        self.ready(job)
        view = self.http.get(f"/api/jobs/{job}").json()
        view["decisions"]["facet"]["degrees"] = 500
        answer = self.http.put(
            f"/api/jobs/{job}/decisions",
            json={"decisions": view["decisions"], "label": "x", "base": view["decisions_id"]},
        )
        self.assertEqual((answer.status_code, answer.json()["field"]), (422, "decisions.facet.degrees"))

    def test_pages_carry_a_strict_policy(self) -> None:
        for path in ("/", "/jobs/1", "/api/docs"):
            answer = self.http.get(path)
            self.assertEqual(answer.status_code, 200)
            self.assertIn("default-src 'self'", answer.headers["content-security-policy"])
            self.assertNotIn("<script>", answer.text)
        self.assertEqual(self.http.get("/../pyproject.toml").headers["content-type"].split(";")[0], "text/html")

    def test_hostile_names_do_no_harm(self) -> None:
        nasty = '<b>"x"</b>\n\u202egnp.step' + "y" * 300
        sent = self.upload(AS1, nasty)
        job = self.http.post("/api/jobs", json={"name": nasty[:190], "files": [sent]}).json()["id"]
        self.ready(job)
        self.http.post(f"/api/jobs/{job}/deliveries")
        view = self.wait_for(job, lambda v: v["deliveries"][0]["state"] == "done")
        answer = self.http.get(f"/api/deliveries/{view['deliveries'][0]['id']}/bundle")
        with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
            for name in archive.namelist():
                self.assertRegex(Path(name).name, r"^[A-Za-z0-9_-]+\.(glb|json)$")


class Workers(HouseCase):
    alone = True
    workers = 2

    def busy(self) -> set[int]:
        """The workers that have a mesh task in hand."""
        with psycopg.connect(self.house.environment["HEMP_LADDER_DATABASE"]) as connection:
            rows = connection.execute(
                "SELECT worker_id FROM procrastinate_jobs WHERE task_name = 'mesh' AND status = 'doing'"
            ).fetchall()
        return {row[0] for row in rows if row[0] is not None}

    def test_two_workers_share_a_climb_and_a_killed_one_is_replaced(self) -> None:
        job = self.make_job(DEMO)["id"]
        self.wait_for(job, lambda v: v["sources"][0]["state"] == "ready")
        self.decide(job, "Fine", facet={"chord": {"kind": "absolute", "metres": 3e-4}, "degrees": 12})
        self.wait_for(job, lambda v: len(self.busy()) == 2)
        os.killpg(self.house.workers[0].pid, signal.SIGKILL)
        view = self.ready(job)
        self.assertEqual(view["climb"]["done"], view["climb"]["total"])

    def test_cancel_and_go_on(self) -> None:
        job = self.make_job(DEMO, name="Stopped")["id"]
        self.wait_for(job, lambda v: v["sources"][0]["state"] == "ready")
        self.decide(job, "Fine", facet={"chord": {"kind": "absolute", "metres": 2e-4}, "degrees": 11})
        view = self.http.post(f"/api/jobs/{job}/cancel").json()
        self.assertEqual(view["climb"]["state"], "cancelled")
        done = view["climb"]["done"]
        time.sleep(2)
        self.assertLessEqual(self.http.get(f"/api/jobs/{job}").json()["climb"]["done"], done + 30)
        self.assertEqual(self.http.post(f"/api/jobs/{job}/resume").json()["climb"]["state"], "working")
        self.ready(job)
