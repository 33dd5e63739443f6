"""Sort over HTTP: the board of rules, giving values a material, names, the order, leftovers, sets of rules; and what cannot be."""

import unittest
from typing import Any

from tests.support import AS1, DEMO, HOUSE, HouseCase


class Sort(HouseCase):
    job: int

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()

    def setUp(self) -> None:
        self.job = self.make_job(DEMO)["id"]
        self.ready(self.job)

    def get(self, path: str, job: int | None = None) -> Any:
        answer = self.http.get(f"/api/jobs/{job or self.job}/{path}")
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer.json()

    def post(self, path: str, body: Any, code: int = 200) -> Any:
        answer = self.http.post(f"/api/jobs/{self.job}/sort/{path}", json=body)
        self.assertEqual(answer.status_code, code, answer.text)
        return answer.json()

    def patch(self, sort: dict[str, Any], code: int = 200) -> Any:
        answer = self.http.patch(f"/api/jobs/{self.job}/decisions", json={"patch": {"sort": sort}})
        self.assertEqual(answer.status_code, code, answer.text)
        return answer.json()

    def test_the_board_and_giving_values_a_material(self) -> None:
        board = self.get("sort/rules?by=layer")
        bare = self.get("result")
        self.assertEqual(
            sum(item["placements"] for item in board["values"]),
            sum(bare["layers"][code] is not None for code in bare["layer_of"]),
        )
        fasteners = next(item for item in board["values"] if item["value"] == "Fasteners")
        self.assertEqual((fasteners["placements"], fasteners["rules"]), (288, []))
        told = self.post("assign", {"by": "layer", "values": ["Fasteners"], "material": "brass"})
        self.assertEqual(
            [(r["by"], r["match"], r["material"]) for r in told["decisions"]["sort"]["rules"]],
            [("layer", ["Fasteners"], "brass")],
        )
        board = self.get("sort/rules?by=layer")
        self.assertEqual((board["rules"][0]["placements"], board["rules"][0]["said"]), (288, "layer Fasteners"))
        without = self.get("sort/rules/0/without")
        self.assertEqual(sum(item["placements"] for item in without["differences"]), 288)
        self.assertEqual(self.http.get(f"/api/jobs/{self.job}/sort/rules/7/without").status_code, 404)
        self.post("assign", {"by": "layer", "values": ["Fasteners"], "material": "nothing there"}, 422)
        self.post("assign", {"by": "layer", "values": [], "material": "brass"}, 422)
        result = self.get("result")
        node = result["placements"][0]
        why = self.get(f"sort/why/{node}")
        self.assertTrue(why["materials"] and why["why"])
        self.assertEqual(self.http.get(f"/api/jobs/{self.job}/sort/why/99999999").status_code, 404)

    def test_loose_ends_are_settled_by_one_rule(self) -> None:
        loose = self.get("result")["loose_parts"]
        self.assertGreater(len(loose), 1)
        body = {"label": "settled", "does": "material", "values": {"material": "clay"}, "parts": loose}
        told = self.http.post(f"/api/jobs/{self.job}/offers", json=body)
        self.assertEqual(told.status_code, 200, told.text)
        rules = told.json()["decisions"]["sort"]["rules"]
        self.assertEqual((len(rules), len(rules[0]["match"])), (1, len(loose)))
        self.assertEqual(self.get("result")["loose_parts"], [])

    def test_names_are_seen_before_they_are_decided(self) -> None:
        step = {"to": "HL_{layer}_{n}", "digits": 3}
        seen = self.post("names", {"steps": [step]})
        self.assertEqual(seen["changed"], seen["placements"])
        self.assertIsNone(self.get("result")["names"])
        self.assertRegex(seen["names"][0]["after"], r"^HL_.+_\d{3}$")
        self.post("names", {"steps": [{"to": "x", "find": "(", "pattern": True}]}, 422)
        self.post("names", {"steps": [{"to": "{nothing}"}]}, 422)
        self.patch({"names": [step]})
        self.assertEqual(len(self.get("result")["names"]), seen["placements"])

    def test_the_order_is_told_with_its_groups(self) -> None:
        self.assertIsNone(self.get("result")["tree"])
        self.patch({"order": {"by": ["layer"], "groups": [{"id": "own:1", "name": "Lens", "pivot": [0, 0, 1]}],
                              "gathered": [{"whom": {"by": "layer", "match": ["Optics"]}, "into": "own:1"}]}})  # fmt: skip
        tree = self.get("result")["tree"]
        at = tree["names"].index("Lens")
        self.assertEqual((tree["parents"][at], tree["pivots"][at], tree["counts"][at]), (-1, [0, 0, 1], 32))
        self.assertNotIn("Optics", tree["names"])
        joins = {item["group"]: item for item in self.get("sort/joins")}
        self.assertEqual((joins["one"]["meshes"], joins["group"]["meshes"]), (1, len(tree["ids"])))
        self.patch({"order": {"groups": [{"id": "a", "name": "A"}, {"id": "a", "name": "B"}]}}, 422)
        # What makes no sense once it is worked out is said, and can be undone.
        circle = [{"id": "a", "name": "A", "parent": "b"}, {"id": "b", "name": "B", "parent": "a"}]
        self.http.patch(f"/api/jobs/{self.job}/decisions", json={"patch": {"sort": {"order": {"groups": circle}}}})
        told = self.http.get(f"/api/jobs/{self.job}/result")
        if told.status_code != 200:
            self.assertEqual(told.status_code, 422)
            self.assertIn("stand in itself", told.json()["detail"])
            self.assertEqual(self.http.post(f"/api/jobs/{self.job}/undo").status_code, 200)
        self.assertIn("Lens", self.get("result")["tree"]["names"])

    def test_leftovers_are_counted_and_left_out(self) -> None:
        found = {item["kind"]: item for item in self.get("sort/leftovers?tiny=0.2")}
        tiny = found["tiny parts"]
        self.assertGreater(tiny["placements"], 0)
        self.post("leftovers", {"kinds": ["tiny parts"], "tiny": 0.2})
        self.assertNotIn("tiny parts", {item["kind"] for item in self.get("sort/leftovers?tiny=0.2")})
        self.assertEqual(self.get("result")["left_out"], tiny["placements"])

    def test_copies_are_found_and_shared_where_they_stand(self) -> None:
        self.job = self.make_job(HOUSE)["id"]
        self.ready(self.job)
        self.wait_for(self.job, lambda _: self.http.get(f"/api/jobs/{self.job}/sort/copies").status_code != 202)
        found = self.get("sort/copies")
        self.assertGreater(found["copies"], 0)
        self.assertEqual(sum(len(shape) - 1 for shape in found["shapes"]), found["copies"])
        before = self.get("result")
        self.assertEqual(
            self.post("copies", {"tolerance": 1e-3}, 422)["detail"], "Copies have not been looked for yet."
        )
        told = self.post("copies", {})
        self.assertEqual(len(told["decisions"]["sort"]["shared"]), found["copies"])
        self.ready(self.job)
        after = self.get("result")
        self.assertEqual((after["triangles"], after["size"]), (before["triangles"], before["size"]))
        self.assertEqual(len(after["placements"]), len(before["placements"]))
        self.assertEqual(len(after["added_nodes"]), sum(
            structure["times"] for part, structure in enumerate(self.get("structure")["parts"])
            if any(part in shape[1:] for shape in found["shapes"])
        ))  # fmt: skip

    def test_rules_are_kept_for_other_jobs(self) -> None:
        self.post("assign", {"by": "layer", "values": ["Fasteners"], "material": "brass"})
        kept = self.http.post(f"/api/jobs/{self.job}/rule-sets", json={"name": "Quay"}).json()
        self.assertEqual([(item["name"], item["rules"]) for item in kept], [("Quay", 1)])
        other = self.make_job(AS1)["id"]
        self.ready(other)
        told = self.http.post(f"/api/jobs/{other}/rule-sets/{kept[0]['number']}").json()
        self.assertEqual(told["decisions"]["sort"]["rules"][0]["match"], ["Fasteners"])
        self.assertEqual(self.get("sort/rules", other)["rules"][0]["matches"], 0, "nothing of that kind is there")
        self.assertEqual(self.http.delete(f"/api/rule-sets/{kept[0]['number']}").status_code, 204)
        self.assertEqual(self.http.post(f"/api/jobs/{other}/rule-sets/{kept[0]['number']}").status_code, 404)


if __name__ == "__main__":
    unittest.main()
