"""Ship: write the files, read them back, give the receipt.

To add a target format: one writer beside these, one line in `_WRITERS`.
"""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from hemp_ladder.core.climb import Result
from hemp_ladder.core.ship.glb import write_glb
from hemp_ladder.core.ship.obj import write_obj
from hemp_ladder.core.ship.receipt import Receipt, write_receipt
from hemp_ladder.core.ship.scene import Scene, build_scene
from hemp_ladder.core.ship.settings import Format, Target
from hemp_ladder.core.ship.stl import write_stl

_WRITERS: dict[Format, Callable[[Scene, Path], list[Path]]] = {
    "glb": write_glb,
    "obj": write_obj,
    "stl": write_stl,
}


@dataclass(frozen=True)
class Shipped:
    """The files of one delivery and their proof."""

    paths: list[Path]
    receipt: Receipt
    scene: Scene


def climb_ship(result: Result, target: Target, path: Path, stage: Callable[[str], None] = lambda _: None) -> Shipped:
    """Write `result` for `target` at `path` (further files beside it) and read it all back."""
    stage("writing")
    scene = build_scene(result, target)
    paths = _WRITERS[target.format](scene, path)
    stage("checking")
    return Shipped(paths, write_receipt(result, scene, paths), scene)
