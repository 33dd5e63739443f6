"""What the bench takes hold of is still there: it runs too rarely to find out by itself."""

import importlib
import io
import json
import pkgutil
import unittest
from contextlib import redirect_stdout
from unittest.mock import patch

import bench
from hemp_ladder.core.facet import mesher
from hemp_ladder.core.receive.step import read
from tests.support import AS1


class Bench(unittest.TestCase):
    def test_every_module_comes_in(self) -> None:
        for module in pkgutil.iter_modules(bench.__path__, "bench."):
            with self.subTest(module.name):
                importlib.import_module(module.name)

    def test_the_kernels_part_is_told_from_ours(self) -> None:
        from bench import added

        out = io.StringIO()
        with (
            patch.object(read, "STEPCAFControl_Reader", read.STEPCAFControl_Reader),
            patch.object(mesher, "BRepMesh_IncrementalMesh", mesher.BRepMesh_IncrementalMesh),
            redirect_stdout(out),
        ):
            added.main(AS1, 0.5, 0.5)
        told = json.loads(out.getvalue())
        self.assertGreater(told["kernel"], 0)
        self.assertGreater(told["ours"], told["facetting ours"])


if __name__ == "__main__":
    unittest.main()
