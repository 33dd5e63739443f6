"""Ship: write the files, read them back, give the receipt."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from hemp_ladder.core.climb import Result
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.fit.notes import Measured
from hemp_ladder.core.ship.arrange import build_scene
from hemp_ladder.core.ship.format import Written
from hemp_ladder.core.ship.names import file_stem
from hemp_ladder.core.ship.receipt import Receipt, write_receipt
from hemp_ladder.core.ship.scene import Scene
from hemp_ladder.core.ship.settings import Target
from hemp_ladder.core.ship.split import by_surface


@dataclass(frozen=True)
class Shipped:
    """The files of one delivery and their proof. `written` are the scenes with their files."""

    written: list[tuple[Scene, Written]]
    receipt: Receipt
    scene: Scene

    @property
    def paths(self) -> list[Path]:
        return [path for _, files in self.written for path in files.paths]


def climb_ship(
    result: Result,
    target: Target,
    path: Path,
    stage: Callable[[str], None] = lambda _: None,
    picture: Callable[[str], bytes] | None = None,
    measured: Sequence[Measured] = (),
) -> Shipped:
    """Write `result` for `target` at `path` (further files beside it) and read it all back.

    `picture` gives the bytes of textures by SHA-256; without it none are written. `measured` stands in the receipt.
    Raises SettingsError where the format cannot hold it.
    """
    stage("writing")
    form = target.written_format
    scene = build_scene(result, target, picture)
    if not scene.surfaces:
        raise SettingsError("Nothing solid enters the job, so there is nothing to write.", "Look at Receive for why.")
    form.load_early()
    if form.one_mesh and target.written_group != "one":
        taken: set[str] = set()
        pieces = [
            (path.with_name(f"{path.stem}-{file_stem(name, taken)}{path.suffix}"), piece)
            for name, piece in by_surface(scene)
        ]
    else:
        pieces = [(path, scene)]
    written = [(piece, form.write(piece, where)) for where, piece in pieces]
    stage("checking")
    return Shipped(written, write_receipt(result, scene, target, written, measured), scene)


def name_each_other(shipped: Mapping[str, Shipped]) -> dict[str, Shipped]:
    """Deliveries of one model at several levels, by level, with receipts that name the others with their sizes."""
    told = {
        level: {
            "level": level, "triangles": sum(surface.triangles for _, surface, _ in item.scene.standing()),
            "files": [{"name": path.name, "bytes": path.stat().st_size} for path in item.paths],
        }
        for level, item in shipped.items()
    }  # fmt: skip
    found = {}
    for level, item in shipped.items():
        others = [told[other] for other in shipped if other != level]
        receipt = replace(item.receipt, told={**item.receipt.told, "beside": others}) if others else item.receipt
        found[level] = replace(item, receipt=receipt)
    return found
