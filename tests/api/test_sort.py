"""Sort over HTTP: the board of rules, giving values a material, names, the order, leftovers, sets of rules; and what cannot be."""

import tempfile
import unittest
from pathlib import Path
from typing import Any

from tests.support import AS1, DEMO, HOUSE, HouseCase, write_crate


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

    def test_a_single_placement_wears_is_named_and_stays_out(self) -> None:
        result = self.get("result")
        nodes = result["placements"][-2:]
        refs = self.post("placements", {"nodes": nodes})
        self.assertEqual(len(set(refs)), 2)
        self.post("placements", {"nodes": [10**8]}, 404)
        told = self.post("assign", {"by": "placement", "values": refs[:1], "material": "brass"})
        self.assertEqual(told["decisions"]["sort"]["rules"][0]["by"], "placement")
        result = self.get("result")
        worn = [result["dresses"][number]["materials"] for number in result["dress_of"]]
        self.assertEqual([worn[at] == ["brass"] for at in (-2, -1)], [True, False])
        step = {"whom": {"by": "placement", "match": refs[1:]}, "to": "Single"}
        self.patch({"names": [step]})
        self.assertEqual(self.get("result")["names"].count("Single"), 1)
        choice = {"by": "placement", "match": refs[0]}
        answer = self.http.patch(f"/api/jobs/{self.job}/decisions", json={"patch": {"receive": {"choices": [choice]}}})
        self.assertEqual(answer.status_code, 200, answer.text)
        self.assertNotIn(nodes[0], self.get("result")["placements"])

    def test_selections_are_kept_by_name(self) -> None:
        part = self.get("structure")["parts"][0]["ref"]
        nodes = self.get("result")["placements"][:3]
        refs = self.post("placements", {"nodes": nodes})
        kept = [{"name": "One", "parts": [part, "gone"]}, {"name": "Three", "placements": refs}]
        self.patch({"selections": kept})
        one, three = self.get("sort/selections")
        self.assertEqual((one["parts"], one["missing"], three["nodes"]), ([0], 1, nodes))
        self.patch({"selections": [kept[0], kept[0]]}, 422)
        self.patch({"selections": [{"name": "Nothing"}]}, 422)

    def test_what_is_locked_is_not_changed_by_what_names_it(self) -> None:
        locked, free = (part["ref"] for part in self.get("structure")["parts"][:2])
        self.patch({"locked": [locked]})
        told = self.patch({"rules": [{"by": "part", "match": [locked, free], "material": "brass"}]}, 422)
        self.assertIn("Locked", told["detail"])
        told = self.patch({"rules": [{"by": "part", "match": [free], "material": "brass"}]})
        self.patch(
            {
                "rules": [
                    {"by": "layer", "match": ["Fasteners"], "material": "brass"},
                    *told["decisions"]["sort"]["rules"],
                ]
            }
        )
        self.patch({"locked": [], "rules": [{"by": "part", "match": [locked], "material": "brass"}]})

    def test_a_run_of_decisions_is_done_again_on_other_parts_and_in_another_job(self) -> None:
        refs = [part["ref"] for part in self.get("structure")["parts"][:3]]
        rules = [{"by": "part", "match": refs[:1], "material": "brass"}]
        first = self.patch({"rules": rules})["decisions_id"]
        facet = {"exceptions": [{"by": "parts", "parts": refs[:1], "degrees": 40}]}
        answer = self.http.patch(f"/api/jobs/{self.job}/decisions", json={"patch": {"facet": facet}})
        last = answer.json()["decisions_id"]
        body = {"name": "Brass and coarse", "first": first, "last": last}
        kept = self.http.post(f"/api/jobs/{self.job}/steps", json=body).json()
        run = next(item for item in kept if item["name"] == body["name"])
        self.assertEqual(len(run["lines"]), 2)
        told = self.http.post(f"/api/jobs/{self.job}/steps/{run['number']}", json={"parts": [1, 2]})
        self.assertEqual(told.status_code, 200, told.text)
        decided = told.json()["decisions"]
        self.assertEqual([rule["match"] for rule in decided["sort"]["rules"]], [refs[:1], refs[1:]])
        self.assertEqual([entry["parts"] for entry in decided["facet"]["exceptions"]], [refs[1:], refs[:1]])
        # All of it is there already.
        again = self.http.post(f"/api/jobs/{self.job}/steps/{run['number']}", json={})
        self.assertEqual(again.status_code, 422, again.text)
        other = self.make_job(DEMO)["id"]
        self.ready(other)
        told = self.http.post(f"/api/jobs/{other}/steps/{run['number']}", json={}).json()
        self.assertEqual(told["decisions"]["sort"]["rules"][0]["match"], refs[:1])
        strange = self.http.post(f"/api/jobs/{other}/steps", json=body)
        self.assertEqual(strange.status_code, 404)
        self.assertEqual(self.http.delete(f"/api/steps/{run['number']}").status_code, 204)
        self.assertEqual(self.http.post(f"/api/jobs/{other}/steps/{run['number']}", json={}).status_code, 404)

    def test_what_stands_inside_others_is_looked_for_and_left_out(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = write_crate(Path(folder) / "quay-crate.obj")
            self.job = self.make_job(path)["id"]
            self.ready(self.job)
        self.wait_for(self.job, lambda _: not (item := self.inside()) or not item["waiting"])
        found = self.inside()
        self.assertEqual(found["placements"], 1)
        before = len(self.get("result")["placements"])
        self.post("leftovers", {"kinds": ["inside others"]})
        self.assertEqual(len(self.get("result")["placements"]), before - found["placements"])

    def inside(self) -> Any:
        return next((item for item in self.get("sort/leftovers") if item["kind"] == "inside others"), None)

    def test_names_are_held_against_what_the_target_takes(self) -> None:
        body = {"patch": {"ship": {"target": {"longest_name": 8, "plain_names": True}}}}
        answer = self.http.patch(f"/api/jobs/{self.job}/decisions", json=body)
        self.assertEqual(answer.status_code, 200, answer.text)
        found = [item for item in self.get("result")["findings"] if item["code"] == "unfit-names"]
        self.assertIn("at most 8 letters", found[0]["message"])
        # Whoever decides by the plan decides nothing about the target.
        told = self.post("assign", {"by": "layer", "values": ["Fasteners"], "material": "brass"})
        self.assertEqual(told["decisions"]["ship"]["target"]["longest_name"], 8)

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
        before, tallies = self.get("result"), self.get("tallies")
        self.assertEqual(
            self.post("copies", {"tolerance": 1e-3}, 422)["detail"], "Copies have not been looked for yet."
        )
        told = self.post("copies", {})
        self.assertEqual(len(told["decisions"]["sort"]["shared"]), found["copies"])
        self.ready(self.job)
        after = self.get("result")
        self.assertEqual(after["triangles"], before["triangles"])
        told_again = {(t["by"], t["match"]): t["taken"] for t in self.get("tallies")}
        self.assertEqual(told_again, {(t["by"], t["match"]): t["taken"] for t in tallies})
        # A copy is the same shape at another place: its corners may differ in the last digit.
        for one, two in zip(after["size"], before["size"], strict=True):
            self.assertAlmostEqual(one, two, places=9)
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
