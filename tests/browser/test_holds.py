"""What goes wrong is said where a person looks, and the rest of the bench goes on."""

import json
import os
import re
import signal
import unittest

from playwright.sync_api import Route, expect

from tests.browser.test_path import DECISIONS, BrowserCase
from tests.support import AS1, DAVIT


class Holds(BrowserCase):
    alone = True

    def start(self) -> None:
        self.drop(AS1)
        self.meshed()

    def job(self) -> str:
        return self.page.url.split("?")[0].replace("/jobs/", "/api/jobs/")

    def expected(self, *words: str) -> None:
        """Faults with these words were made on purpose."""
        self.faults[:] = [fault for fault in self.faults if not any(word in fault for word in words)]

    def test_a_fault_stays_where_it_happened(self) -> None:
        """A result that the ledger cannot read: it says so, the rest works, and it is shown again when it can."""
        self.start()
        page = self.page
        broken = True

        def spoiled(route: Route) -> None:
            answer = route.fetch()
            told = json.loads(answer.text())
            if broken:
                told["layers"] = None
            route.fulfill(response=answer, body=json.dumps(told))

        page.route(re.compile(r"/api/jobs/\d+/result$"), spoiled)
        with page.expect_request(re.compile("/api/faults$")) as noted:
            page.get_by_role("radio", name="Background").click()
        self.assertEqual(json.loads(noted.value.post_data or "")["where"], "The ledger")
        alert = page.get_by_role("alert").filter(has_text="The ledger stopped by a fault of ours")
        expect(alert).to_be_visible()
        broken = False
        page.get_by_role("radio", name="Close-up").click()
        self.meshed()
        alert.get_by_role("button", name="Show it again").click()
        expect(page.get_by_role("grid", name="Parts")).to_be_visible()
        self.expected("layers", "null", "The ledger")

    def test_two_tabs_decide_and_both_hold(self) -> None:
        self.start()
        page = self.page
        other = page.context.new_page()
        # A tab that hears no news still has the first decisions.
        other.route(re.compile("/events$"), lambda route: route.abort())
        other.goto(page.url)
        expect(other.get_by_role("radio", name="as a length")).to_be_visible()
        page.get_by_role("radio", name="Close-up").click()
        expect(page.get_by_role("button", name="Undo")).to_be_enabled()
        with other.expect_response(lambda answer: bool(DECISIONS.search(answer.url)) and answer.status == 409):
            other.get_by_role("radio", name="by part size").click()
        with other.expect_response(lambda answer: bool(DECISIONS.search(answer.url)) and answer.status == 200):
            pass
        facet = page.request.get(self.job()).json()["decisions"]["facet"]
        self.assertEqual((facet["degrees"], facet["chord"]["kind"]), (10, "relative"))
        other.close()

    def test_what_is_refused_and_what_is_lost_is_said(self) -> None:
        self.start()
        page = self.page
        refusal = {
            "status": 503,
            "content_type": "application/problem+json",
            "body": '{"detail": "The sea is rough.", "remedy": "Wait."}',
        }
        page.route(re.compile("/deliveries$"), lambda route: route.fulfill(**refusal))  # type: ignore[arg-type]
        self.open_rung("Ship")
        page.get_by_role("button", name="Ship as GLB").click()
        notice = page.get_by_role("region", name="Notices")
        expect(notice).to_contain_text("The sea is rough. Wait.")
        notice.get_by_role("button", name="Close", exact=True).click()
        expect(notice).not_to_contain_text("The sea is rough")
        page.unroute(re.compile("/deliveries$"))
        self.house.web.kill()
        self.house.web.wait()
        expect(page.get_by_role("alert").filter(has_text="No connection")).to_be_visible(timeout=30_000)
        self.house.web = self.house._start("-m", "hemp_ladder.api.server", "--port", str(self.house.port))
        expect(page.get_by_role("alert").filter(has_text="No connection")).to_have_count(0, timeout=30_000)
        self.expected("status of 503", "net::ERR")

    def test_a_replaced_source_takes_its_selection_by_name(self) -> None:
        self.start()
        page = self.page
        row = page.get_by_role("row", name=re.compile("^l-bracket|^L-bracket", re.IGNORECASE)).first
        row.click()
        name = row.get_by_role("gridcell").first.inner_text()
        expect(page.get_by_text("1 part chosen, 2 placements")).to_be_visible()
        job = page.request.get(self.job()).json()
        sent = page.request.put(
            f"{self.house.url}/api/uploads", params={"name": DAVIT.name}, data=DAVIT.read_bytes()
        ).json()
        # Another file altogether: nothing of it is called so, and nothing of it is chosen by its number.
        page.request.put(f"{self.job()}/sources/{job['sources'][0]['ref']}", data={"files": [sent]})
        expect(page.get_by_text("part chosen")).to_have_count(0, timeout=60_000)
        expect(page.get_by_role("row", name=name)).to_have_count(0)

    def test_files_are_taken_in_wherever_they_are_dropped(self) -> None:
        self.start()
        page = self.page

        def drop(place: str, name: str) -> None:
            held = page.evaluate_handle(
                "([name, text]) => { const data = new DataTransfer(); data.items.add(new File([text], name)); return data; }",
                [name, AS1.read_text("latin-1")],
            )
            page.dispatch_event(place, "drop", {"dataTransfer": held})

        drop("canvas", "another.stp")
        expect(self.rung("Receive")).to_contain_text("10 parts")
        self.open_rung("Receive")
        drop("[data-takes-revision=another]", "revised.stp")
        expect(page.locator("[data-takes-revision=another]")).to_contain_text("revised.stp")
        expect(self.rung("Receive")).to_contain_text("10 parts")
        names = [source["name"] for source in page.request.get(self.job()).json()["sources"]]
        self.assertEqual(names, [AS1.name, "revised.stp"])

    def test_a_folder_is_taken_in_with_what_lies_in_it(self) -> None:
        self.start()
        page = self.page
        # A folder cannot be dropped by a script: what the browser would tell of one is told in its place.
        page.evaluate(
            """([name, text]) => {
              const file = (name) => ({ isFile: true, name, file: (give) => give(new File([text], name)) });
              const folder = (name, inside) => ({
                isFile: false, name,
                createReader: () => { let told = false; return { readEntries: (give) => { give(told ? [] : inside); told = true; } }; },
              });
              DataTransferItem.prototype.webkitGetAsEntry = () => folder("quay", [folder("parts", [file(name)])]);
              const data = new DataTransfer();
              data.items.add(new File([""], "quay"));
              document.querySelector("canvas").dispatchEvent(
                new DragEvent("drop", { bubbles: true, cancelable: true, dataTransfer: data }));
            }""",
            ["bollard.stp", AS1.read_text("latin-1")],
        )
        expect(self.rung("Receive")).to_contain_text("10 parts")
        source = page.request.get(self.job()).json()["sources"][1]
        self.assertEqual(source["files"][0]["name"], "quay/parts/bollard.stp")

    def test_one_source_is_stopped_and_read_after_all(self) -> None:
        """The worker sleeps, so that reading begins and does not end."""
        page = self.page
        self.start()
        worker = self.house.workers[0]
        os.killpg(worker.pid, signal.SIGSTOP)
        self.addCleanup(os.killpg, worker.pid, signal.SIGCONT)
        self.open_rung("Receive")
        page.get_by_label("Files for one more source").set_input_files(str(DAVIT))
        card = page.get_by_role("list", name="Sources").get_by_role("listitem").filter(has_text=DAVIT.name)
        card.get_by_role("button", name="Stop").click()
        expect(card.get_by_role("button", name="Read it after all")).to_be_visible()
        self.assertEqual(
            [one["state"] for one in page.request.get(self.job()).json()["sources"]], ["ready", "cancelled"]
        )
        os.killpg(worker.pid, signal.SIGCONT)
        card.get_by_role("button", name="Read it after all").click()
        expect(self.rung("Receive")).to_contain_text("11 parts")

    def test_a_page_that_cannot_be_had_says_so_and_comes_by_itself(self) -> None:
        self.start()
        page = self.page
        refusal = {
            "status": 503, "content_type": "application/problem+json",
            "body": '{"detail": "The database is away.", "remedy": "It goes on by itself."}',
        }  # fmt: skip
        for address, told in (
            (re.compile("/api/library$"), "The server does not answer"),
            (re.compile(r"/api/jobs/\d+$"), "The database is away"),
        ):
            page.route(address, lambda route: route.fulfill(**refusal))  # type: ignore[arg-type]
            page.route(re.compile("/events$"), lambda route: route.abort())
            page.reload()
            expect(page.get_by_role("alert").filter(has_text=told)).to_be_visible()
            page.unroute_all(behavior="ignoreErrors")
            expect(self.rung("Receive")).to_contain_text("5 parts")
        self.expected("status of 503", "net::ERR", "Failed to load resource")

    def test_views_from_the_front_a_side_and_above_and_parallel(self) -> None:
        self.start()
        page = self.page
        canvas = page.locator("canvas").first
        for name, seen in (("Front", "0.00 -1.00 0.00"), ("Side", "1.00 0.00 0.00"), ("Top", "0.00 0.00 1.00")):
            page.get_by_role("button", name=name, exact=True).click()
            expect(canvas).to_have_attribute("data-from", seen)
        parallel = page.get_by_role("button", name="Parallel")
        parallel.click()
        expect(parallel).to_have_attribute("aria-pressed", "true")
        bounds = canvas.bounding_box()
        assert bounds is not None
        page.mouse.click(bounds["x"] + bounds["width"] / 2, bounds["y"] + bounds["height"] / 2)
        expect(page.get_by_text("part chosen")).to_be_visible()
        # A finer setting makes the size another by a hair; the camera stays where it was put.
        self.open_rung("Facet")
        page.get_by_role("radio", name="Close-up").click()
        self.meshed()
        expect(canvas).to_have_attribute("data-from", "0.00 0.00 1.00")


if __name__ == "__main__":
    unittest.main()
