"""What comes to the door: versions, ranges, addresses of everything, nonsense of every kind, and dawdlers."""

import json
import socket
import time
import zipfile
from io import BytesIO

from tests.support import AS1, DAVIT, HouseCase

JSON = {"Content-Type": "application/json"}


class Versions(HouseCase):
    def test_two_tabs(self) -> None:
        job = self.make_job(AS1)["id"]
        view = self.ready(job)
        body = {"decisions": view["decisions"], "label": "First", "base": view["decisions_id"]}
        body["decisions"]["facet"]["degrees"] = 11
        first = self.http.put(f"/api/jobs/{job}/decisions", json=body)
        self.assertEqual(first.status_code, 200)
        body["decisions"]["facet"]["degrees"] = 12
        second = self.http.put(f"/api/jobs/{job}/decisions", json=body)
        self.assertEqual((second.status_code, second.json()["code"]), (409, "conflict"))
        self.assertEqual(self.http.get(f"/api/jobs/{job}").json()["decisions"]["facet"]["degrees"], 11)
        self.assertEqual(
            self.http.put(f"/api/jobs/{job}/decisions", json={"decisions": {}, "label": "x"}).json()["field"], "base"
        )

    def test_a_script_patches(self) -> None:
        job = self.make_job(AS1)["id"]
        view = self.ready(job)
        patch = {"patch": {"facet": {"degrees": 13}, "ship": {"target": {"format": "obj"}}}, "label": "By script"}
        after = self.http.patch(f"/api/jobs/{job}/decisions", json=patch).json()
        self.assertEqual(
            (after["decisions"]["facet"]["degrees"], after["decisions"]["ship"]["target"]["format"]), (13.0, "obj")
        )
        self.assertEqual(after["decisions"]["facet"]["chord"], view["decisions"]["facet"]["chord"])
        back = self.http.patch(f"/api/jobs/{job}/decisions", json={"patch": {"facet": None}}).json()
        self.assertEqual(back["decisions"]["facet"]["degrees"], 20.0)
        stale = {"patch": {}, "base": view["decisions_id"]}
        self.assertEqual(self.http.patch(f"/api/jobs/{job}/decisions", json=stale).status_code, 409)


class Addresses(HouseCase):
    alone = True

    def test_jobs_sources_and_deliveries(self) -> None:
        job = self.make_job(AS1, name="Before")["id"]
        self.ready(job)
        renamed = self.http.patch(f"/api/jobs/{job}", json={"name": "Längre\0 brygga"}).json()
        self.assertEqual(renamed["name"], "Längre  brygga")
        sent = self.upload(DAVIT)
        self.http.post(f"/api/jobs/{job}/sources", json={"files": [sent]})
        view = self.ready(job)
        first, second = (source["ref"] for source in view["sources"])
        original = self.http.get(f"/api/jobs/{job}/sources/{second}/files/0")
        self.assertEqual(original.content, DAVIT.read_bytes())
        self.assertIn(DAVIT.name, original.headers["content-disposition"])
        self.assertEqual(self.http.get(f"/api/jobs/{job}/sources/{second}/files/1").status_code, 404)
        left = self.http.delete(f"/api/jobs/{job}/sources/{second}").json()
        self.assertEqual([source["ref"] for source in left["sources"]], [first])
        self.assertEqual(self.http.delete(f"/api/jobs/{job}/sources/{first}").status_code, 422)
        self.ready(job)
        to_obj = {"target": {"format": "obj"}}
        delivery = self.http.post(f"/api/jobs/{job}/deliveries", json=to_obj).json()["id"]
        self.wait_for(job, lambda v: v["deliveries"][0]["state"] in ("done", "failed"))
        told = self.http.get(f"/api/deliveries/{delivery}").json()
        self.assertEqual((told["state"], told["target"]["format"]), ("done", "obj"))
        self.assertEqual(self.http.get(f"/api/jobs/{job}").json()["decisions"]["ship"]["target"]["format"], "glb")
        self.assertEqual([item["id"] for item in self.http.get(f"/api/jobs/{job}/deliveries").json()], [delivery])
        self.assertEqual(self.http.get(f"/api/jobs/{job}/deliveries", params={"before": delivery}).json(), [])
        self.ranges(delivery, told)

    def ranges(self, delivery: int, told: dict) -> None:  # type: ignore[type-arg]
        whole = self.http.get(f"/api/deliveries/{delivery}/bundle")
        tag = whole.headers["etag"]
        self.assertEqual((whole.headers["accept-ranges"], len(whole.content)), ("bytes", told["bundle_bytes"]))

        def ask(**headers: str) -> tuple[int, bytes]:
            named = {name.replace("_", "-"): value for name, value in headers.items()}
            answer = self.http.get(f"/api/deliveries/{delivery}/bundle", headers=named)
            return answer.status_code, answer.content

        self.assertEqual(ask(range="bytes=10-19"), (206, whole.content[10:20]))
        self.assertEqual(ask(range="bytes=-7"), (206, whole.content[-7:]))
        self.assertEqual(ask(range="bytes=20-"), (206, whole.content[20:]))
        self.assertEqual(ask(range="bytes=20-", if_range='"old"'), (200, whole.content))
        self.assertEqual(ask(range="bytes=99999999-")[0], 416)
        self.assertEqual(ask(range="letters")[0], 200)
        self.assertEqual(ask(if_none_match=tag), (304, b""))
        with zipfile.ZipFile(BytesIO(whole.content)) as archive:
            for name in archive.namelist():
                one = self.http.get(f"/api/deliveries/{delivery}/files/{name}")
                self.assertEqual(one.content, archive.read(name))
        self.assertEqual(self.http.get(f"/api/deliveries/{delivery}/files/none").status_code, 404)

    def test_jobs_come_in_pages(self) -> None:
        made = [self.make_job(AS1, name=f"Page {k}")["id"] for k in range(3)]
        seen: list[int] = []
        address: str | None = "/api/jobs?limit=2"
        while address:
            answer = self.http.get(address)
            self.assertLessEqual(len(answer.json()), 2)
            seen += [item["id"] for item in answer.json()]
            link = answer.headers.get("link")
            address = link[1 : link.index(">")] if link else None
        self.assertEqual(seen, sorted(seen, reverse=True))
        self.assertLessEqual(set(made), set(seen))


class Nonsense(HouseCase):
    def test_everything_is_a_problem_with_a_sentence(self) -> None:
        job = self.make_job(AS1)["id"]
        view = self.ready(job)
        wrong = json.loads(json.dumps(view["decisions"]))
        wrong["facet"]["degrees"], wrong["fit"]["up"] = 500, "w"
        base = view["decisions_id"]
        put = f"/api/jobs/{job}/decisions"
        for method, path, body, status in (
            ("GET", "/api/jobs/99999999999999999999", None, 422),
            ("GET", "/api/jobs/4294967297", None, 422),
            ("GET", "/api/deliveries/0", None, 422),
            ("GET", f"/api/jobs/{job}/details?node=99999999999", None, 422),
            ("GET", "/%00", None, 404),
            ("GET", f"/api/jobs/{job}/sources/a%00b/clean", None, 404),
            ("DELETE", f"/api/jobs/{job}/sources/a%00b", None, 404),
            ("PATCH", f"/api/jobs/{job}", {"name": ""}, 422),
            ("PATCH", put, {"patch": {"sort": {"rules": [{"by": "name", "match": "\0", "material": "brass"}]}}}, 422),
            ("PATCH", put, {"patch": {"sort": {"rules": [{"by": "name", "match": "\ud800", "material": "brass"}]}}}, 422),
            ("PATCH", put, {"patch": {"facet": {"degrees": True}}}, 422),
            ("PATCH", put, {"patch": {"fit": {"datum": [True, 0, 0]}}}, 422),
            ("PATCH", put, {"patch": 7}, 422),
            ("PUT", put, {"decisions": wrong, "label": "x", "base": base}, 422),
            ("PUT", put, [], 422),
        ):  # fmt: skip
            answer = self.http.request(
                method, path, content=json.dumps(body) if body is not None else None, headers=JSON
            )
            self.assertEqual(answer.status_code, status, (path, body, answer.text))
            self.assertEqual(answer.headers["content-type"], "application/problem+json")
            self.assertIn("default-src 'self'", answer.headers["content-security-policy"])
            told = answer.json()
            self.assertTrue(told["detail"].endswith("."), told)
        answer = self.http.put(put, json={"decisions": wrong, "label": "x", "base": base})
        self.assertEqual(
            [item["field"] for item in answer.json()["errors"]], ["decisions.fit.up", "decisions.facet.degrees"]
        )
        self.assertEqual(self.http.get(f"/api/jobs/{job}").json()["decisions_id"], base)

    def test_no_decision_is_without_bounds(self) -> None:
        job = self.make_job(AS1)["id"]
        self.ready(job)
        rules = [{"by": "name", "match": f"p{k}", "material": "brass"} for k in range(20_001)]
        answer = self.http.patch(f"/api/jobs/{job}/decisions", json={"patch": {"sort": {"rules": rules}}})
        self.assertEqual((answer.status_code, answer.json()["field"]), (422, "sort.rules"))
        self.assertIn("20000", answer.json()["detail"])
        huge = self.http.request("PATCH", f"/api/jobs/{job}/decisions", content=b" " * (65 << 20), headers=JSON)
        self.assertEqual((huge.status_code, huge.json()["code"]), (413, "too-large"))

    def test_labels_and_names_lose_what_is_no_letter(self) -> None:
        sent = {**self.upload(AS1), "name": "a\0b\n.stp"}
        job = self.http.post(
            "/api/jobs",
            content=json.dumps({"name": "x\0", "files": [sent]}),
            headers=JSON,
        )
        self.assertEqual(job.status_code, 201, job.text)
        view = self.ready(job.json()["id"])
        patched = self.http.patch(
            f"/api/jobs/{view['id']}/decisions", json={"patch": {"facet": {"degrees": 9}}, "label": "a\0b"}
        )
        self.assertEqual(patched.status_code, 200)
        self.assertEqual(self.http.get(f"/api/jobs/{view['id']}/history").json()[0]["label"], "a b")

    def test_those_who_dawdle_are_shown_out(self) -> None:
        """Neither half a head nor half a body keeps a connection open; the door stays open for others."""
        address = ("127.0.0.1", self.house.port)
        half_head = socket.create_connection(address)
        half_head.sendall(b"GET /api/health HTTP/1.1\r\nHost: 127.")
        idle = socket.create_connection(address)
        began = time.monotonic()
        for connection in (half_head, idle):
            connection.settimeout(40)
            # Nothing but the end, or the reason for it, comes.
            while connection.recv(1000):
                pass
            connection.close()
        self.assertGreater(time.monotonic() - began, 5)
        self.assertEqual(self.http.get("/api/health").status_code, 200)

    def test_the_schema_says_what_a_refusal_looks_like(self) -> None:
        schema = self.http.get("/api/openapi.json").json()
        for path, methods in schema["paths"].items():
            for method, told in methods.items():
                self.assertIn("default", told["responses"], (method, path))
        self.assertIn(
            "text/event-stream", schema["paths"]["/api/jobs/{job_id}/events"]["get"]["responses"]["200"]["content"]
        )
        self.assertIn("model/gltf-binary", schema["paths"]["/api/packs/{name}"]["get"]["responses"]["200"]["content"])
        self.assertEqual(
            schema["components"]["schemas"]["DecisionsIn"]["properties"]["decisions"]["$ref"].rpartition("/")[2],
            "Decisions",
        )
