"""Who decides faster than the server answers: no edit takes back the one before it."""

import re
from typing import Any

from playwright.sync_api import expect

from tests.browser.test_path import WAIT, BrowserCase
from tests.support import AS1


class Quick(BrowserCase):
    def begin(self, rung: str, **sections: Any) -> int:
        """The job's number, its rung open, decided so far as is said."""
        self.drop(AS1)
        self.meshed()
        job = int(re.search(r"/jobs/(\d+)", self.page.url)[1])  # type: ignore[index]
        if sections:
            self.decide(job, "Before", **sections)
        self.open_rung(rung)
        return job

    def test_limits(self) -> None:
        page = self.page
        job = self.begin("Trim", trim={"limit": {"target": "own", "triangles": 500_000}})
        limits = page.get_by_role("region", name="Limits")
        limits.get_by_text("Change what is allowed").click()
        with self.held():
            for name, most in (("triangles", "1000"), ("draw calls", "7")):
                field = limits.get_by_label(f"Allowed {name}")
                field.fill(most)
                field.press("Enter")
        expect(limits).to_contain_text("of 1,000")
        expect(limits).to_contain_text("of 7")
        self.settles(
            job, lambda now: (now["trim"]["limit"]["triangles"], now["trim"]["limit"]["draw_calls"]), (1000, 7)
        )

    def test_measurements(self) -> None:
        page = self.page
        notes = [{"id": number, "kind": "box"} for number in (1, 2)]
        job = self.begin("Fit", fit={"notes": notes})
        self.section("Measure")
        with self.held():
            for number, length in ((1, "2 m"), (2, "3 m")):
                field = page.get_by_label(f"Length of measurement {number} on the drawing")
                field.fill(length)
                field.press("Enter")
        self.settles(job, lambda now: [note["should"] for note in now["fit"]["notes"]], [2, 3])

    def test_a_rule(self) -> None:
        page = self.page
        rule = {"by": "name", "match": ["*"], "material": "brass"}
        job = self.begin("Sort", sort={"rules": [rule]})
        page.get_by_role("button", name="Rules…", exact=True).click()
        with self.held():
            page.get_by_label("Material of rule 1", exact=True).click()
            page.keyboard.type("granite")
            page.keyboard.press("Enter")
            words = page.get_by_label("Rule 1 matches too")
            words.fill("bolt*")
            words.press("Enter")
        self.settles(
            job,
            lambda now: [(one["material"], one["match"]) for one in now["sort"]["rules"]],
            [("granite", ["*", "bolt*"])],
        )

    def settles(self, job: int, told: Any, wanted: Any) -> None:
        """What is decided in the end."""
        for _ in range(WAIT // 100):
            found = told(self.http.get(f"/api/jobs/{job}").json()["decisions"])
            if found == wanted:
                return
            self.page.wait_for_timeout(100)
        self.assertEqual(found, wanted)
