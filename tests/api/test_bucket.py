"""A house whose blobs lie in a bucket, with a worker that shares nothing else with the web process but the database."""

import io
import tempfile
import zipfile

import trimesh

from tests.support import AS1, HouseCase, start_bucket


class Bucket(HouseCase):
    alone = True
    workers = 0

    @classmethod
    def setUpClass(cls) -> None:
        server, environment = start_bucket()
        cls.addClassCleanup(server.stop)
        cls.environment = environment
        super().setUpClass()
        elsewhere = tempfile.TemporaryDirectory()
        cls.addClassCleanup(elsewhere.cleanup)
        shared = cls.house.environment
        cls.house.environment = {**shared, "HEMP_LADDER_HOUSE": elsewhere.name, "TMPDIR": elsewhere.name}
        cls.house.workers.append(cls.house.add_worker())
        cls.house.environment = shared

    def test_from_upload_to_download(self) -> None:
        job = self.make_job(AS1)["id"]
        view = self.ready(job)
        self.assertEqual(view["sources"][0]["facts"]["parts"], 5)
        result = self.http.get(f"/api/jobs/{job}/result").json()
        self.assertEqual(self.http.get(f"/api/packs/{result['parts'][0]['pack']}").status_code, 200)
        delivery = self.http.post(f"/api/jobs/{job}/deliveries").json()["id"]
        view = self.wait_for(job, lambda v: v["deliveries"][0]["state"] in ("done", "failed"))
        self.assertTrue(view["deliveries"][0]["receipt"]["ok"])
        bundle = self.http.get(f"/api/deliveries/{delivery}/bundle").content
        with zipfile.ZipFile(io.BytesIO(bundle)) as archive:
            scene = trimesh.load_scene(io.BytesIO(archive.read("A-job.glb")), file_type="glb")
        self.assertEqual(len(scene.graph.nodes_geometry), 18)
        self.assertFalse((self.house.folder / "blobs").exists())
