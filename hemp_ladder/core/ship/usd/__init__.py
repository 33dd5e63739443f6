"""USD, as a binary crate: a tree whose meshes are references to one shape; triangles, quads or polygons."""

from collections.abc import Sequence
from pathlib import Path

from hemp_ladder.core.ship.format import Format, Found, Verdict, Weight, Written
from hemp_ladder.core.ship.scene import Scene


def write_usd(scene: Scene, path: Path) -> Written:
    """Write the crate at `path`, and the pictures beside it."""
    from hemp_ladder.core.ship.usd.write import write

    return write(scene, path)


def _proof(paths: Sequence[Path]) -> Found:
    from hemp_ladder.core.ship.usd.proof import read_usd

    return read_usd([path for path in paths if path.suffix == ".usdc"])


def _validate(path: Path) -> Verdict:
    from hemp_ladder.core.ship.usd.proof import validate

    return validate(path)


def _noted(path: Path) -> tuple[float, ...] | None:
    from hemp_ladder.core.ship.usd.proof import noted

    return noted(path)


def _weighs(weight: Weight) -> int:
    """Position, normal and UV of each vertex once; indices, which the crate packs to about half; a node each place."""
    vertices, triangles = weight.own
    return vertices * (32 if weight.uv else 24) + 7 * triangles + 150 * weight.placements + 4000


#: USD says unit and axis; metres and Y up, as web and phones show it, are common practice.
FORMAT = Format(
    code="usdc", name="USD", suffix=".usdc", unit="m", up="y", group="part",
    carries=frozenset({"instances", "objects", "materials", "normals", "uv", "colours", "pictures", "polygons"}),
    write=write_usd, proof=_proof, validate=_validate, moves=True, shows=frozenset({"base colour"}), noted=_noted,
    right_handed=True, weighs=_weighs,
)  # fmt: skip
