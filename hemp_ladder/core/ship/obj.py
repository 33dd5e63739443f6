"""Wavefront OBJ with its MTL beside it: everything in place, one object for each placement."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.model.material import Material
from hemp_ladder.core.ship.format import Format, Found, Written
from hemp_ladder.core.ship.names import file_stem, label
from hemp_ladder.core.ship.scene import Scene

_PNG = b"\x89PNG"


def write_obj(scene: Scene, path: Path) -> Written:
    """Write the OBJ at `path` and the MTL with the same stem. Indices count from 1."""
    library = path.with_suffix(".mtl")
    taken: set[str] = set()
    names = {id_: file_stem(material.name, taken) for id_, material in scene.materials.items()}
    files = {
        sha256: path.with_name(f"{path.stem}-picture-{number}{'.png' if data.startswith(_PNG) else '.jpg'}")
        for number, (sha256, data) in enumerate(scene.pictures.items(), 1)
    }
    for sha256, picture in files.items():
        picture.write_bytes(scene.pictures[sha256])
    with library.open("w", encoding="utf-8", newline="\n") as file:
        file.write("# Hemp Ladder\n")
        for id_, name in names.items():
            file.write(_material(name, scene.materials[id_]))
            if id_ in scene.worn:
                file.write(f"map_Kd {files[scene.worn[id_]].name}\n")
    objects: set[str] = set()
    start = 1
    with path.open("w", encoding="utf-8", newline="\n") as file:
        file.write(f"# Hemp Ladder, 1 unit = 1 {scene.unit}, {scene.up} up\n")
        file.write(f"mtllib {library.name}\n")
        for place, surface, matrix in scene.standing():
            file.write(f"o {label(place.name, objects).replace(' ', '_')}\n")
            for run in surface.placed(matrix):
                corners = run.triangles + start
                file.write(_rows("v %.9g %.9g %.9g", run.positions))
                file.write(_rows("vn %.7g %.7g %.7g", run.attributes["normal"]))
                told = "%d//%d"
                if "uv" in run.attributes:
                    file.write(_rows("vt %.7g %.7g", run.attributes["uv"]))
                    told = "%d/%d/%d"
                file.write(f"usemtl {names[run.material]}\n")
                file.write(_rows(f"f {told} {told} {told}", np.repeat(corners, told.count("%"), axis=1)))
                start += len(run.positions)
    return Written([path, library, *files.values()], names)


def _rows(form: str, values: NDArray[np.generic]) -> str:
    """One line for each row: formatting whole rows at once runs at about a million lines a second."""
    if not len(values):
        return ""
    return "\n".join(map(form.__mod__, map(tuple, values.tolist()))) + "\n"


def _material(name: str, material: Material) -> str:
    """Kd and d of the classic MTL, Pr and Pm of its physically based extension."""
    colour = material.colour
    return (
        f"\nnewmtl {name}\nKd {colour.red:.4f} {colour.green:.4f} {colour.blue:.4f}\n"
        f"Ks 0.0400 0.0400 0.0400\nd {colour.alpha:.4f}\nillum 2\n"
        f"Pr {material.roughness:.3f}\nPm {material.metalness:.3f}\n"
    )


def _proof(paths: Sequence[Path]) -> Found:
    from hemp_ladder.core.ship.readback import read_scenes

    options: Any = {"split_object": True, "group_material": False}
    return read_scenes([path for path in paths if path.suffix == ".obj"], **options)


#: OBJ says neither unit nor axis: metres and Y up are common practice of renderers.
FORMAT = Format(
    code="obj", name="OBJ", suffix=".obj", unit="m", up="y", group="part",
    carries=frozenset({"objects", "materials", "normals", "uv", "pictures"}), write=write_obj, proof=_proof,
)  # fmt: skip
