"""Every way in which a file can be bad, in every format: each ends in time as a finding or a refusal, in one process or another's death."""

import os
import tempfile
import threading
import unittest
from pathlib import Path

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.step.points import absurd_points
from hemp_ladder.work.children import Crew, start_early
from hemp_ladder.work.receiving.reading import Ears, SourceRefused, receive_files
from tests.bad_files import GOOD, spoiled
from tests.kills import below
from tests.support import FolderCase

#: What a spoiled file must end as; the ways that are not here may read as if nothing were wrong.
REFUSED = {
    "empty", "zeros", "truncated early", "flipped bytes", "unknown schema", "coordinates past infinity",
    "a spline of a billion poles", "no global section", "no directory", "a billion curves", "a billion shapes",
    "minus one surface", "unknown version", "references out of range", "group in a circle", "entities that grow",
    "nested a million deep", "no XML",
}  # fmt: skip
#: Those of which the rest can still be used: the code of the finding that says so.
NOTICED = {
    "ifc truncated": "cut-short", "ifc truncated early": "cut-short", "ifc placement in a circle": "unreadable-entity",
    "ifc map in a circle": "unreadable-entity", "ifc depth of zero": "unreadable-entity",
    "ifc radius of 1e300": "unreadable-entity", "ifc scale of zero": "unreadable-entity",
    "ifc coordinates that are no numbers": "unreadable-entity", "ifc a list of 100,000": "unreadable-entity",
    "igs flipped bytes": "unreadable-entity", "igs coordinates of 1e300": "unreadable-entity",
    "igs coordinates that are no numbers": "unreadable-entity", "igs unknown unit": "unit-missing",
    "step references in a circle": "open-shell",
    **{f"dxf {way}": "unreadable-entity" for way in (
        "coordinates of 1e300", "coordinates past infinity", "coordinates that are no numbers", "radius of 1e300",
        "scale of zero", "scale of 1e300", "an array of a billion", "a spline of a billion poles",
        "a spline of degree 10,000",
    )},
    "dxf truncated": "cut-short", "dxf truncated early": "cut-short", "dxf flipped bytes": "recovered", "dxf words for numbers": "recovered", "dxf block in a circle": "unplaced-blocks",
    "svg a use in a circle": "unreadable-entity", "svg an entity from a file": "outside-link",
    "svg uses that grow": "unreadable-entity", "svg coordinates past infinity": "unreadable-entity",
}  # fmt: skip
#: Of processor time: three times what the slowest needs on a quiet machine, for processors slow down beside others.
SECONDS, MEGABYTES = 30, 1024


class Watch(threading.Thread):
    """Of all processes below this one: the largest resident memory of any, in megabytes, and the processor time each
    used, in seconds, whatever else the machine is doing."""

    def __init__(self) -> None:
        super().__init__(daemon=True)
        self.peak, self.over = 0.0, threading.Event()
        self.used: dict[int, float] = {}

    def run(self) -> None:
        while not self.over.wait(0.1):
            for pid in below(os.getpid()):
                try:
                    fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
                except OSError:
                    continue
                self.used[pid] = (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")
                self.peak = max(self.peak, int(fields[21]) * os.sysconf("SC_PAGESIZE") / (1 << 20))


class BadInput(FolderCase):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        # Once for all children, of which many die.
        start_early(wholly=True)

    def outcome(self, path: Path, crew: Crew) -> Model | SourceRefused:
        with tempfile.TemporaryDirectory() as folder:
            try:
                return receive_files([(path.name, path)], Path(folder), crew, Ears())
            except SourceRefused as refused:
                return refused

    def check(self, suffix: str) -> None:
        watch = Watch()
        watch.start()
        self.addCleanup(watch.over.set)
        with Crew(1) as crew:
            crew.warm()
            for name, path in spoiled(self.folder).items():
                if not name.startswith(f"{suffix} "):
                    continue
                with self.subTest(name):
                    before, watch.peak = sum(watch.used.values()), 0.0
                    found = self.outcome(path, crew)
                    self.assertLess(sum(watch.used.values()) - before, SECONDS)
                    self.assertLess(watch.peak, MEGABYTES)
                    self.judge(name, name.removeprefix(f"{suffix} "), found)

    def judge(self, name: str, way: str, found: Model | SourceRefused) -> None:
        if isinstance(found, SourceRefused):
            self.assertEqual(found.finding.severity, "error")
            self.assertTrue(found.message.strip().endswith((".", "!")) or found.remedy, found.message)
            self.assertTrue(found.finding.remedy)
            self.assertNotIn(name, NOTICED)
        else:
            if name in NOTICED:
                self.assertIn(NOTICED[name], [item.code for item in found.findings])
            else:
                self.assertNotIn(way, REFUSED, [item.code for item in found.findings])

    def test_ifc(self) -> None:
        self.check("ifc")

    def test_iges(self) -> None:
        self.check("igs")

    def test_brep(self) -> None:
        self.check("brep")

    def test_step(self) -> None:
        self.check("step")

    def test_dxf(self) -> None:
        self.check("dxf")

    def test_svg(self) -> None:
        self.check("svg")

    def test_marks_of_encoding_and_wrong_names_change_nothing(self) -> None:
        paths = spoiled(self.folder)
        with Crew(1) as crew:
            for suffix, good in GOOD.items():
                whole = self.outcome(good, crew)
                assert isinstance(whole, Model)
                for way in ("wrong suffix", "utf-16", "byte order mark"):
                    found = self.outcome(paths[f"{suffix} {way}"], crew)
                    assert isinstance(found, Model), (suffix, way)
                    self.assertEqual([p.key for p in found.parts], [p.key for p in whole.parts], (suffix, way))


class Points(FolderCase):
    def test_only_what_is_no_length_is_found(self) -> None:
        path = self.folder / "points.txt"
        path.write_text(
            "#1 = CARTESIAN_POINT('',(0.E+000,1.E-30,1.5E+003));\n#2=CARTESIAN_POINT ( 'x' , ( 1.E+300 , 0. ) );\n"
            "#3=IFCCARTESIANPOINT((1.E19,2.));\n#4=IFCCARTESIANPOINT((NAN,2.));\n#5=IFCLABEL('1.E300');\n"
            "#6=IFCCARTESIANPOINT((0.,-1.E21));\n"
        )
        self.assertEqual([text.split()[0] for text in absurd_points(path)], ["#2", "#4", "#6"])


if __name__ == "__main__":
    unittest.main()
