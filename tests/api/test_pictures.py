"""Pictures of jobs, and what stands in the list beside them."""

from tests.support import AS1, HouseCase

PNG = b"\x89PNG\r\n\x1a\n" + bytes(64)


class Pictures(HouseCase):
    def test_a_picture_is_kept_by_what_it_is_and_goes_with_its_job(self) -> None:
        job = self.make_job(AS1)["id"]
        self.assertIsNone(self.http.get("/api/jobs").json()[0]["pictured"])
        self.assertEqual(self.http.get(f"/api/jobs/{job}/picture").status_code, 404)
        for data in (PNG, b"RIFF\0\0\0\0WEBPVP8 " + bytes(9)):
            sent = self.http.put(f"/api/jobs/{job}/picture", content=data, headers={"Content-Type": "text/html"})
            self.assertEqual(sent.status_code, 204, sent.text)
        had = self.http.get(f"/api/jobs/{job}/picture")
        self.assertEqual((had.content[:4], had.headers["content-type"]), (b"RIFF", "image/webp"))
        self.assertEqual(had.headers["x-content-type-options"], "nosniff")
        self.assertIsNotNone(self.http.get("/api/jobs").json()[0]["pictured"])
        self.assertEqual(self.http.delete(f"/api/jobs/{job}").status_code, 204)
        self.assertEqual(self.http.get(f"/api/jobs/{job}/picture").status_code, 404)

    def test_what_is_no_picture_or_too_large_is_refused(self) -> None:
        job = self.make_job(AS1)["id"]
        for data in (b"<svg onload='x()'/>", b"", PNG + bytes(256_001)):
            refused = self.http.put(f"/api/jobs/{job}/picture", content=data)
            self.assertEqual((refused.status_code, refused.headers["content-type"]), (422, "application/problem+json"))

    def test_a_request_without_a_length_is_refused_but_for_uploads(self) -> None:
        job = self.make_job(AS1)["id"]
        refused = self.http.post("/api/jobs", content=iter([b"{", b"}"]), headers={"Content-Type": "application/json"})
        self.assertEqual((refused.status_code, refused.json()["code"]), (411, "length-required"))
        sent = self.http.put("/api/uploads", params={"name": "a.stp"}, content=iter([AS1.read_bytes()]))
        self.assertEqual(sent.status_code, 200, sent.text)
        self.assertEqual(self.http.get(f"/api/jobs/{job}").status_code, 200)
