"""Wavefront OBJ with its MTL beside it: everything in place, one object for each placement."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.model.colour import BLACK
from hemp_ladder.core.model.laying import laid
from hemp_ladder.core.model.material import Material
from hemp_ladder.core.ship.dressing import Applied, OutSlot
from hemp_ladder.core.ship.format import Format, Found, Weight, Written
from hemp_ladder.core.ship.gltf_look import picture_file
from hemp_ladder.core.ship.names import file_stem, label
from hemp_ladder.core.ship.polygons import faces_in
from hemp_ladder.core.ship.scene import Scene, noted_offset

#: What says what: lines of the classic MTL, and of its physically based extension.
_LINES: dict[OutSlot, str] = {
    "base colour": "map_Kd", "opacity": "map_d", "emission": "map_Ke", "normal": "norm", "height": "map_Bump",
    "roughness": "map_Pr", "metalness": "map_Pm",
}  # fmt: skip


def write_obj(scene: Scene, path: Path) -> Written:
    """Write the OBJ at `path` and the MTL with the same stem. Indices count from 1."""
    library = path.with_suffix(".mtl")
    taken: set[str] = set()
    names = {id_: file_stem(material.name, taken) for id_, material in scene.materials.items()}
    files = {
        sha256: picture_file(path, number, data) for number, (sha256, data) in enumerate(scene.pictures.items(), 1)
    }
    for sha256, picture in files.items():
        picture.write_bytes(scene.pictures[sha256])
    with library.open("w", encoding="utf-8", newline="\n") as file:
        file.write("# Hemp Ladder\n")
        for id_, name in names.items():
            file.write(_material(name, scene.materials[id_]))
            for slot, worn in scene.worn.get(id_, {}).items():
                if slot in _LINES and not worn.uv:
                    file.write(_map(_LINES[slot], worn, files[worn.picture].name))
    objects: set[str] = set()
    start = pictured = 1
    with path.open("w", encoding="utf-8", newline="\n") as file:
        file.write(f"# Hemp Ladder, {scene.note}\n")
        file.write(f"mtllib {library.name}\n")
        for place, surface, matrix in scene.standing():
            file.write(f"o {label(place.name, objects).replace(' ', '_')}\n")
            for run in surface.placed(matrix):
                file.write(_rows("v %.9g %.9g %.9g", run.positions))
                file.write(_rows("vn %.7g %.7g %.7g", run.attributes["normal"]))
                told = "%d//%d"
                if "uv" in run.attributes:
                    uv, way = run.attributes["uv"], scene.laid.get(run.material)
                    file.write(_rows("vt %.9g %.9g", uv if way is None else laid(uv, way)))
                    told = "%d/%d/%d"
                file.write(f"usemtl {names[run.material]}\n")
                for faces in faces_in(run.triangles, run.sizes):
                    file.write(_faces(told, faces, start, pictured))
                start += len(run.positions)
                pictured += len(run.positions) if "uv" in run.attributes else 0
    return Written([path, library, *files.values()], names)


def _faces(told: str, faces: NDArray[np.integer], start: int, pictured: int) -> str:
    """Faces (m, n) of as many corners each, whose positions and normals count from `start`, and their UV from `pictured`: not all parts have any."""
    bases = [start, pictured, start] if told.count("%") == 3 else [start, start]
    corners = (faces[:, :, None].astype(np.int64) + np.array(bases)).reshape(len(faces), len(bases) * faces.shape[1])
    return _rows(f"f {' '.join([told] * faces.shape[1])}", corners)


def _rows(form: str, values: NDArray[np.generic]) -> str:
    """One line for each row: formatting whole rows at once runs at about a million lines a second."""
    if not len(values):
        return ""
    return "\n".join(map(form.__mod__, map(tuple, values.tolist()))) + "\n"


def _material(name: str, material: Material) -> str:
    """Kd, Ke, Ni and d of the classic MTL, Pr and Pm of its physically based extension."""
    finish = material.finish
    colour, glow = finish.colour, finish.emission
    opacity = 1.0 if finish.opacity_mode == "opaque" else colour.alpha
    # What lets light through has no word in an MTL: the nearest is opacity (common practice).
    opacity *= 1 - 0.8 * finish.transmission
    told = (
        f"\nnewmtl {name}\nKd {colour.red:.4f} {colour.green:.4f} {colour.blue:.4f}\n"
        f"Ks 0.0400 0.0400 0.0400\nd {opacity:.4f}\nillum 2\n"
        f"Pr {finish.roughness:.3f}\nPm {finish.metalness:.3f}\n"
    )
    if glow != BLACK:
        told += f"Ke {glow.red:.4f} {glow.green:.4f} {glow.blue:.4f}\n"
    return told if finish.ior == 1.5 else f"{told}Ni {finish.ior:.4f}\n"


def _map(line: str, worn: Applied, file: str) -> str:
    """A map's line. Its UV lie from the lower left, those of a transform from the upper left; a turn has no option."""
    (aside, down), (across, along) = worn.offset, worn.scale
    above = 1 - along - down
    options = ""
    if (across, along) != (1.0, 1.0):
        options += f" -s {across:.9g} {along:.9g} 1"
    if abs(aside) > 1e-9 or abs(above) > 1e-9:
        options += f" -o {aside:.9g} {above:.9g} 0"
    return f"{line}{options} {file}\n"


def _proof(paths: Sequence[Path]) -> Found:
    from hemp_ladder.core.ship.readback import read_scenes

    options: Any = {"split_object": True, "group_material": False}
    return read_scenes([path for path in paths if path.suffix == ".obj"], **options)


def _noted(path: Path) -> tuple[float, ...] | None:
    with path.open(encoding="utf-8") as file:
        return noted_offset(file.readline())


def _weighs(weight: Weight) -> int:
    """Letters: a position and a normal take about 60, a UV 20, a triangle three times its two or three numbers."""
    vertices, triangles = weight.placed
    return vertices * (80 if weight.uv else 60) + (60 if weight.uv else 42) * triangles + 400


#: OBJ says neither unit nor axis: metres and Y up are common practice of renderers.
FORMAT = Format(
    code="obj", name="OBJ", suffix=".obj", unit="m", up="y", group="part",
    carries=frozenset({"objects", "materials", "normals", "uv", "pictures", "polygons"}), write=write_obj, proof=_proof,
    shows=frozenset({"base colour"}), noted=_noted,
    weighs=_weighs,
)  # fmt: skip
