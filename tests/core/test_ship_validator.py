"""The validator of GLB files, loaded before there is a file or not until then."""

import os
import unittest
from contextlib import chdir
from pathlib import Path
from unittest import mock

import trimesh

from hemp_ladder.core.ship import gltf_validator
from hemp_ladder.core.ship.format import Verdict
from hemp_ladder.core.ship.gltf_validator import load_early, validate
from tests.support import FolderCase


class Validator(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(lambda: [process.communicate() for process in gltf_validator._waiting])
        patched = mock.patch.object(gltf_validator, "_waiting", [])
        patched.start()
        self.addCleanup(patched.stop)
        # A quote and a line's end in its name, for the name goes in as text.
        self.good = self.folder / 'crate "one"\n.glb'
        self.good.write_bytes(trimesh.creation.box().export(file_type="glb"))

    def wrong(self) -> Verdict:
        path = self.folder / "wrong.glb"
        # Another count of vertices than there are.
        path.write_bytes(self.good.read_bytes().replace(b'"count":36', b'"count":37'))
        self.assertNotEqual(path.read_bytes(), self.good.read_bytes())
        return validate(path)

    def test_loaded_early_or_late_it_finds_the_same(self) -> None:
        late = [validate(self.good), self.wrong()]
        waiting, early = [], []
        for look in (lambda: validate(self.good), self.wrong):
            load_early()
            load_early()
            waiting += gltf_validator._waiting
            early.append(look())
        self.assertEqual(early, late)
        self.assertEqual(len(waiting), 2, "one each time")
        self.assertEqual(late[0].errors, 0)
        self.assertRegex(str(late[1].errors), r"^\d+: \w+")
        self.assertEqual([process.returncode for process in waiting], [0, 0], "both were used, and ended")

    def test_the_file_is_where_the_caller_is_when_there_is_one(self) -> None:
        before = self.folder / "before"
        before.mkdir()
        with chdir(before):
            load_early()
        before.rmdir()
        with chdir(self.folder):
            self.assertEqual(validate(Path(self.good.name)).errors, 0)

    def test_one_that_was_ended_while_it_waited_is_passed_over(self) -> None:
        load_early()
        gltf_validator._waiting[0].kill()
        gltf_validator._waiting[0].wait()
        self.assertEqual(validate(self.good).errors, 0)

    def test_one_that_no_file_comes_for_ends_with_who_had_it_load(self) -> None:
        load_early()
        said, _ = gltf_validator._waiting[0].communicate()
        self.assertEqual((said, gltf_validator._waiting.pop().returncode), ("", 0))

    def test_where_it_cannot_run_that_is_a_fault(self) -> None:
        with mock.patch.dict(os.environ, PATH=str(self.folder)):
            load_early()
            self.assertEqual(validate(self.good).errors, "could not run: FileNotFoundError")


if __name__ == "__main__":
    unittest.main()
