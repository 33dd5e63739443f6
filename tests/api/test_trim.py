"""Trim over HTTP: goals for those who are meant, grades that decide nothing, exact parts compared, two deliveries at once."""

import io
import json
import time
import unittest
import zipfile
from typing import Any

import trimesh

from tests.support import AS1, ROOT, HouseCase

SEAT, DENSE = ROOT / "demo" / "quay-seat.zip", ROOT / "demo" / "seat-dense.glb"


class Trim(HouseCase):
    def made(self, path: Any) -> int:
        job: int = self.make_job(path)["id"]
        self.ready(job)
        return job

    def result(self, job: int) -> dict[str, Any]:
        self.ready(job)
        answer: dict[str, Any] = self.http.get(f"/api/jobs/{job}/result").json()
        return answer

    def reduce(self, job: int, **body: Any) -> Any:
        return self.http.post(f"/api/jobs/{job}/trim/reduce", json=body)

    def test_only_those_who_are_meant_and_to_their_goal_together(self) -> None:
        job = self.made(DENSE)
        before = self.result(job)
        self.assertEqual(before["rungs"]["Trim"]["rest"], "nothing trimmed")
        goal = {"by": "count", "value": 20_000}
        self.assertEqual(self.reduce(job, goal=goal).status_code, 422, "nobody is meant")
        self.assertEqual(self.reduce(job, goal=goal, parts=[0], everything=True).status_code, 422)
        heavy = max(range(len(before["parts"])), key=lambda part: before["parts"][part]["triangles"])
        self.assertEqual(self.reduce(job, goal=goal, parts=[heavy]).status_code, 200)
        after = self.result(job)
        others = sum(
            p["triangles"] == q["triangles"] for p, q in zip(before["parts"], after["parts"], strict=True)
        )  # fmt: skip
        self.assertEqual(others, len(before["parts"]) - 1)
        part = after["parts"][heavy]
        times = (before["triangles"] - after["triangles"]) // (part["before_trim"] - part["triangles"])
        self.assertLess(abs(part["triangles"] * times / 20_000 - 1), 0.05)
        self.assertGreater(part["deviation"], 0)
        self.assertEqual((part["trim_by"], after["trim"]["worst"]), ([0], heavy))
        self.assertEqual(after["trim"]["before"], before["triangles"])
        self.assertTrue(after["rungs"]["Trim"]["figure"].endswith("%"))
        # Again to another goal: of what there was, not of what is left.
        self.assertEqual(self.reduce(job, goal={"by": "count", "value": 60_000}, parts=[heavy]).status_code, 200)
        again = self.result(job)["parts"][heavy]
        self.assertLess(abs(again["triangles"] * times / 60_000 - 1), 0.05)
        small = self.reduce(job, goal={"by": "bytes", "value": 400_000}, everything=True)
        self.assertEqual(small.status_code, 200)
        for wrong, said in (
            ({"by": "count", "value": 10**9}, "no more than"), ({"by": "bytes", "value": 10}, "alone take"),
        ):  # fmt: skip
            answer = self.reduce(job, goal=wrong, everything=True)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(said, answer.json()["title"] + answer.json()["detail"])
        self.assertEqual(self.reduce(job, goal={"by": "share", "value": 0}, parts=[heavy]).status_code, 422)
        self.assertEqual(self.reduce(job, goal=goal, parts=[9999]).status_code, 422)

    def test_grades_are_made_and_nothing_is_decided(self) -> None:
        job = self.made(DENSE)
        before = self.result(job)
        body = {"parts": [0, 1], "goals": [{"by": "share", "value": 0.5}, {"by": "error", "value": 0.0005}]}
        for _ in range(300):
            told = self.http.post(f"/api/jobs/{job}/trim/grades", json=body).json()
            if all(grade["ready"] for grade in told["grades"]):
                break
            time.sleep(0.1)
        full, half, near = told["grades"]
        self.assertIsNone(full["goal"])
        self.assertLess(abs(half["triangles"] / full["triangles"] - 0.5), 0.05)
        self.assertLess(half["bytes"], full["bytes"])
        self.assertLessEqual(near["deviation"], 0.0005)
        self.assertIn(half["worst"], (0, 1))
        pack = self.http.get(f"/api/packs/{half['parts'][0]['pack']}")
        self.assertEqual((pack.status_code, pack.content[:4]), (200, b"glTF"))
        after = self.result(job)
        self.assertEqual(after["decisions_id"], before["decisions_id"])
        # Used, it is there already.
        self.assertEqual(self.reduce(job, goal=body["goals"][0], parts=[0, 1]).status_code, 200)
        self.assertEqual(self.http.get(f"/api/jobs/{job}").json()["climb"]["state"], "done")
        keys = {part["mesh"] for part in self.result(job)["parts"]}
        self.assertLessEqual({part["mesh"] for part in half["parts"]}, keys)
        wrong = self.http.post(f"/api/jobs/{job}/trim/grades", json={"parts": [999], "goals": body["goals"]})
        self.assertEqual(wrong.status_code, 422)

    def test_an_exact_part_is_compared_with_coarser_facets(self) -> None:
        job = self.made(AS1)
        parts = self.result(job)["parts"]
        heavy = max(range(len(parts)), key=lambda part: parts[part]["triangles"] or 0)
        count = max(4, parts[heavy]["triangles"] // 3)
        for _ in range(600):
            answer = self.http.get(f"/api/jobs/{job}/parts/{heavy}/facets", params={"count": count})
            if answer.status_code == 200:
                break
            time.sleep(0.1)
        told = answer.json()
        self.assertGreater(told["times"], 1)
        self.assertLess(abs(told["triangles"] - count), 0.5 * count)
        self.assertGreater(told["off"], 0)
        self.assertGreater(told["reduced_off"], 0)
        # In metres: no farther than the part is large, and about what so many times its chord error allows.
        self.assertLess(told["off"], 3 * told["times"] * parts[heavy]["chord"] + 1e-4)
        offer = {"label": "Coarser facets", "does": "coarser", "values": {"times": told["times"]}}
        taken = self.http.post(f"/api/jobs/{job}/offers", json={**offer, "source": "", "parts": [heavy]})
        self.assertEqual(taken.status_code, 200, taken.text)
        self.assertEqual(self.result(job)["parts"][heavy]["triangles"], told["triangles"])
        meshes = self.made(SEAT)
        self.assertEqual(self.http.get(f"/api/jobs/{meshes}/parts/0/facets", params={"count": 50}).status_code, 404)

    def test_what_lost_its_shape_is_put_back_and_limits_say_what_buys_most(self) -> None:
        job = self.made(SEAT)
        self.assertEqual(self.reduce(job, goal={"by": "share", "value": 0.25}, everything=True).status_code, 200)
        told = self.result(job)
        lost = next(item for item in told["findings"] if item["code"] == "lost-shape")
        self.assertEqual(sorted(lost["parts"]), told["trim"]["lost"])
        worst, everyone = lost["offers"]
        self.assertEqual(told["trim"]["worst"], worst["values"]["parts"][0])
        before = told["parts"][told["trim"]["worst"]]["triangles"]
        for offer, left in ((worst, len(lost["parts"]) - 1), (everyone, 0)):
            body = {**offer, "source": "", "parts": lost["parts"]}
            self.assertEqual(self.http.post(f"/api/jobs/{job}/offers", json=body).status_code, 200)
            self.assertEqual(len(self.result(job)["trim"]["lost"]), left)
        self.assertGreater(self.result(job)["parts"][told["trim"]["worst"]]["triangles"], before)
        self.decide(job, "Limit", trim={"limit": {"target": "Postcard", "triangles": 100, "draw_calls": 2}})
        over = self.result(job)
        found = {item["where"]: item for item in over["findings"] if item["code"] == "over-limit"}
        self.assertEqual(set(found), {"triangles", "draw calls"})
        self.assertIn("Postcard", found["triangles"]["message"])
        self.assertEqual(over["trim"]["over"]["triangles"], over["triangles"] - 100)
        self.assertIn("buys", found["draw calls"]["offers"][0]["label"])
        self.assertEqual(over["rungs"]["Trim"]["figure"], "over the limit")

    def test_full_and_light_ship_as_two_deliveries_that_name_each_other(self) -> None:
        job = self.made(SEAT)
        levels = [{"name": "stand-in", "steps": [{"does": "stand-in", "kind": "hull"}]}]
        self.decide(job, "Levels", trim={"levels": levels}, ship={"beside": "stand-in"})
        (level,) = self.result(job)["trim"]["levels"]
        self.assertEqual(level["name"], "stand-in")
        # A board of few triangles is lighter than its hull would be.
        self.assertTrue(level["stayed"] == 0 or "the part has" in level["why"], level)
        first = self.http.post(f"/api/jobs/{job}/deliveries").json()
        for _ in range(600):
            rows = self.http.get(f"/api/jobs/{job}/deliveries").json()
            if all(row["state"] not in ("waiting", "writing") for row in rows):
                break
            time.sleep(0.1)
        full = next(row for row in rows if row["id"] == first["id"])
        light = next(row for row in rows if row["id"] == first["beside"])
        self.assertEqual((len(rows), light["beside"], light["target"]["level"]), (2, full["id"], "stand-in"))
        found = {}
        for row, other in ((full, light), (light, full)):
            self.assertTrue(row["receipt"]["ok"], row["receipt"])
            (beside,) = row["receipt"]["told"]["beside"]
            self.assertEqual(beside["files"], other["files"])
            with zipfile.ZipFile(io.BytesIO(self.http.get(f"/api/deliveries/{row['id']}/bundle").content)) as bundle:
                name = next(name for name in bundle.namelist() if name.endswith(".glb"))
                proof = json.loads(bundle.read(next(n for n in bundle.namelist() if n.endswith("-receipt.json"))))
                self.assertEqual(proof["receipt"]["told"]["beside"], [beside])
                found[row["id"]] = trimesh.load_scene(io.BytesIO(bundle.read(name)), file_type="glb")
        for row, other in ((full, light), (light, full)):
            count = sum(
                len(found[row["id"]].geometry[found[row["id"]].graph[n][1]].faces)
                for n in found[row["id"]].graph.nodes_geometry
            )
            self.assertEqual(count, other["receipt"]["told"]["beside"][0]["triangles"])
        # Over one datum: what a hull stands for has the same box.
        gap = abs(found[full["id"]].bounds - found[light["id"]].bounds).max()
        self.assertLess(gap, 0.002 * found[full["id"]].scale)
        refused = self.http.post(f"/api/jobs/{job}/deliveries", json={"beside": "nothing"})
        self.assertEqual(refused.status_code, 422)


if __name__ == "__main__":
    unittest.main()
