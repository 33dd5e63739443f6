"""News that arrive in another order than they were made: the newest stays on the screen."""

import re
import unittest

from playwright.sync_api import Route, expect

from tests.browser.test_path import BrowserCase
from tests.support import AS1


class News(BrowserCase):
    def test_a_late_answer_does_not_cover_what_was_told_meanwhile(self) -> None:
        page = self.page
        self.drop(AS1)
        self.meshed()
        before = self.rung("Facet").inner_text()

        def late(route: Route) -> None:
            """The answer to a decision, held back until the meshes that it asks for are made and told."""
            answer = route.fetch()
            done = False
            while not done:
                page.wait_for_timeout(200)
                job = page.request.get(page.url.split("?")[0].replace("/jobs/", "/api/jobs/")).json()
                done = job["climb"]["state"] == "done"
            page.wait_for_timeout(500)
            route.fulfill(response=answer)

        page.route(re.compile(r"/api/jobs/\d+/decisions$"), late)
        self.open_rung("Facet")
        page.get_by_role("radio", name="Background").click()
        expect(self.rung("Facet")).not_to_have_text(before)
        # The answer that comes last still says that all is to be made.
        page.wait_for_timeout(2500)
        expect(page.get_by_role("progressbar", name="Meshing")).to_have_count(0, timeout=5000)
        expect(page.locator("header")).to_contain_text("before", timeout=5000)

    def test_what_fit_knows_is_asked_for_where_it_is_shown(self) -> None:
        asked: list[str] = []
        self.page.on("request", lambda sent: asked.append(sent.url) if sent.url.endswith("/fit") else None)
        self.drop(AS1)
        self.meshed()
        self.open_rung("Facet")
        self.assertEqual(asked, [])
        self.open_rung("Fit")
        expect(self.page.get_by_role("group", name="Measure", exact=True)).to_be_visible()
        self.assertTrue(asked)


if __name__ == "__main__":
    unittest.main()
