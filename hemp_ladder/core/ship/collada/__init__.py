"""COLLADA 1.4.1: a tree of nodes whose geometries stand in several places; triangles, quads or polygons."""

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TextIO
from xml.sax.saxutils import escape, quoteattr

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.mesh import unit_normals
from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.laying import laid
from hemp_ladder.core.model.material import Material
from hemp_ladder.core.ship.format import Format, Found, Weight, Written
from hemp_ladder.core.ship.gltf_look import picture_file
from hemp_ladder.core.ship.names import label
from hemp_ladder.core.ship.polygons import faces_in
from hemp_ladder.core.ship.scene import Place, Scene, Surface, noted_offset
from hemp_ladder.core.units import UNITS

_AXES = {"x": "X_UP", "y": "Y_UP", "z": "Z_UP"}
#: One moment for all files, so that the same scene is the same bytes; the standard wants one.
_MOMENT = "1970-01-01T00:00:00Z"


def write_collada(scene: Scene, path: Path) -> Written:
    """Write the document at `path`, and the pictures beside it."""
    taken: set[str] = set()
    names = {id_: label(material.name, taken) for id_, material in scene.materials.items()}
    pictures = {sha: picture_file(path, number, data) for number, (sha, data) in enumerate(scene.pictures.items(), 1)}
    for sha, picture in pictures.items():
        picture.write_bytes(scene.pictures[sha])
    with path.open("w", encoding="utf-8", newline="\n") as file:
        _Document(file, scene, names, {sha: picture.name for sha, picture in pictures.items()}).write()
    return Written([path, *pictures.values()], names)


class _Document:
    """Writes a scene part by part; ids are numbers, names what people call things."""

    def __init__(self, file: TextIO, scene: Scene, names: dict[str, str], pictures: dict[str, str]) -> None:
        self._file, self._scene, self._names, self._pictures = file, scene, names, pictures
        self._numbers = {id_: number for number, id_ in enumerate(names)}
        self._images = {sha: f"image{number}" for number, sha in enumerate(pictures)}

    def write(self) -> None:
        scene, put = self._scene, self._file.write
        unit = scene.unit
        put(
            '<?xml version="1.0" encoding="utf-8"?>\n'
            '<COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">\n'
            "<asset><contributor><authoring_tool>Hemp Ladder</authoring_tool>"
            f"<comments>{escape(scene.note)}</comments></contributor>"
            f"<created>{_MOMENT}</created><modified>{_MOMENT}</modified>"
            f'<unit name={quoteattr(unit)} meter="{float(UNITS[unit].metres):.12g}"/>'
            f"<up_axis>{_AXES.get(scene.up, 'Y_UP')}</up_axis></asset>\n"
        )
        self._library("images", (self._image(sha) for sha in self._images))
        self._library("effects", (self._effect(id_, material) for id_, material in scene.materials.items()))
        self._library(
            "materials",
            (
                f'<material id="material{number}" name={quoteattr(self._names[id_])}>'
                f'<instance_effect url="#effect{number}"/></material>\n'
                for id_, number in self._numbers.items()
            ),
        )
        put("<library_geometries>\n")
        taken: set[str] = set()
        for number, surface in enumerate(scene.surfaces):
            self._geometry(number, label(surface.name, taken), surface)
        put('</library_geometries>\n<library_visual_scenes><visual_scene id="scene">\n')
        self._nodes()
        put(
            '</visual_scene></library_visual_scenes>\n<scene><instance_visual_scene url="#scene"/></scene>\n</COLLADA>\n'
        )

    def _library(self, name: str, entries: Iterator[str]) -> None:
        told = "".join(entries)
        if told:
            self._file.write(f"<library_{name}>\n{told}</library_{name}>\n")

    def _image(self, sha: str) -> str:
        return f'<image id="{self._images[sha]}"><init_from>{escape(self._pictures[sha])}</init_from></image>\n'

    def _effect(self, id_: str, material: Material) -> str:
        """The common profile's Phong: it has no roughness and no metalness."""
        finish, number = material.finish, self._numbers[id_]
        opacity = 1.0 if finish.opacity_mode == "opaque" else finish.colour.alpha
        opacity *= 1 - 0.8 * finish.transmission
        worn = self._scene.worn.get(id_, {}).get("base colour")
        sampled, diffuse = "", f"<color>{_colour(finish.colour)}</color>"
        if worn is not None and not worn.uv:
            sampled = (
                f'<newparam sid="surface"><surface type="2D"><init_from>{self._images[worn.picture]}</init_from>'
                '</surface></newparam><newparam sid="sampler"><sampler2D><source>surface</source></sampler2D></newparam>'
            )
            diffuse = '<texture texture="sampler" texcoord="UV0"/>'
        return (
            f'<effect id="effect{number}" name={quoteattr(self._names[id_])}><profile_COMMON>{sampled}'
            f'<technique sid="common"><phong><emission><color>{_colour(finish.emission)}</color></emission>'
            f"<diffuse>{diffuse}</diffuse><specular><color>0.04 0.04 0.04 1</color></specular>"
            f"<shininess><float>{max(2.0, 2 / max(finish.roughness, 0.03) ** 4 - 2):.4g}</float></shininess>"
            '<transparent opaque="A_ONE"><color>1 1 1 1</color></transparent>'
            f"<transparency><float>{opacity:.4f}</float></transparency>"
            f"<index_of_refraction><float>{finish.ior:.4f}</float></index_of_refraction>"
            "</phong></technique></profile_COMMON></effect>\n"
        )

    def _geometry(self, number: int, name: str, surface: Surface) -> None:
        put, own = self._file.write, f"mesh{number}"
        put(f'<geometry id="{own}" name={quoteattr(name)}><mesh>\n')
        self._source(f"{own}-positions", surface.positions, "%.9g", "XYZ")
        self._source(f"{own}-normals", unit_normals(surface.attributes["normal"]), "%.7g", "XYZ")
        uv = surface.attributes.get("uv")
        told: dict[str, str] = {}
        for id_, _ in surface.runs if uv is not None else ():
            # Where pictures lie otherwise than as UV say, the material's triangles have UV of their own.
            way = self._scene.laid.get(id_)
            told[id_] = f"{own}-uv" if way is None else f"{own}-uv-{self._numbers[id_]}"
            if uv is not None and told[id_] not in list(told.values())[:-1]:
                self._source(told[id_], uv if way is None else laid(uv, way), "%.9g", "ST")
        put(
            f'<vertices id="{own}-vertices"><input semantic="POSITION" source="#{own}-positions"/>'
            f'<input semantic="NORMAL" source="#{own}-normals"/></vertices>\n'
        )
        for at, (id_, triangles) in enumerate(surface.runs):
            inputs = f'<input semantic="VERTEX" source="#{own}-vertices" offset="0"/>'
            if uv is not None:
                inputs += f'<input semantic="TEXCOORD" source="#{told[id_]}" offset="0" set="0"/>'
            faces = faces_in(triangles, surface.sizes[at] if surface.sizes else None)
            self._faces(inputs, at, [item for item in faces if len(item)])
        put("</mesh></geometry>\n")

    def _faces(self, inputs: str, at: int, faces: list[NDArray[np.int32]]) -> None:
        """A run as faces of one material, whose symbol in this geometry is its place among the runs."""
        put = self._file.write
        count = sum(map(len, faces))
        if all(item.shape[1] == 3 for item in faces):
            put(f'<triangles count="{count}" material="m{at}">{inputs}<p>')
        else:
            put(f'<polylist count="{count}" material="m{at}">{inputs}<vcount>')
            for item in faces:
                put(f"{item.shape[1]} " * len(item))
            put("</vcount><p>")
        for item in faces:
            put(" ".join(map(str, item.reshape(-1).tolist())) + " ")
        put("</p></triangles>\n" if all(item.shape[1] == 3 for item in faces) else "</p></polylist>\n")

    def _source(self, id_: str, rows: NDArray[np.floating], form: str, names: str) -> None:
        put = self._file.write
        put(f'<source id="{id_}"><float_array id="{id_}-array" count="{rows.size}">')
        line = " ".join([form] * rows.shape[1])
        put("\n".join(map(line.__mod__, map(tuple, rows.tolist()))))
        params = "".join(f'<param name="{name}" type="float"/>' for name in names)
        put(
            f'</float_array><technique_common><accessor source="#{id_}-array" count="{len(rows)}" '
            f'stride="{len(names)}">{params}</accessor></technique_common></source>\n'
        )

    def _nodes(self) -> None:
        """The tree, each node before what stands in it."""
        places = self._scene.places
        below: dict[int, list[int]] = {}
        for number, place in enumerate(places):
            below.setdefault(place.parent, []).append(number)
        taken: set[str] = set()
        # By hand, not by recursion: how deep a tree is, strangers decide.
        waiting: list[int | None] = list(reversed(below.get(-1, [])))
        while waiting:
            taken_off = waiting.pop()
            if taken_off is None:
                self._file.write("</node>\n")
                continue
            number = taken_off
            self._file.write(self._node(number, places[number], label(places[number].name, taken)))
            waiting.append(None)
            waiting.extend(reversed(below.get(number, [])))

    def _node(self, number: int, place: Place, name: str) -> str:
        matrix, told = place.matrix, ""
        if place.surface >= 0:
            surface = self._scene.surfaces[place.surface]
            matrix = matrix.copy()
            matrix[:3, 3] += matrix[:3, :3] @ surface.origin
            bound = "".join(
                f'<instance_material symbol="m{at}" target="#material{self._numbers[id_]}">'
                '<bind_vertex_input semantic="UV0" input_semantic="TEXCOORD" input_set="0"/></instance_material>'
                for at, (id_, _) in enumerate(surface.runs)
            )
            told = (
                f'<instance_geometry url="#mesh{place.surface}"><bind_material><technique_common>{bound}'
                "</technique_common></bind_material></instance_geometry>"
            )
        numbers = " ".join(f"{value:.17g}" for value in matrix.reshape(-1))
        return f'<node id="node{number}" name={quoteattr(name)} type="NODE"><matrix>{numbers}</matrix>{told}'


def _colour(colour: Colour) -> str:
    """As screens have it: the standard leaves the colour space open, and this is what readers take it for (common
    practice)."""
    return f"{colour.red:.5g} {colour.green:.5g} {colour.blue:.5g} 1"


def _proof(paths: Sequence[Path]) -> Found:
    from hemp_ladder.core.ship.collada.proof import read_collada

    return read_collada([path for path in paths if path.suffix == ".dae"])


def _noted(path: Path) -> tuple[float, ...] | None:
    with path.open(encoding="utf-8") as file:
        return noted_offset("".join(file.readline() for _ in range(3)))


def _weighs(weight: Weight) -> int:
    """Letters: a position and a normal take about 60, a UV 20, a triangle its three numbers."""
    vertices, triangles = weight.own
    return vertices * (80 if weight.uv else 60) + 19 * triangles + 700 * weight.placements + 2000


#: COLLADA says unit and axis, and takes metres and Y up where it does not (1.4.1, 5). Its common profile knows colours and
#: a picture of them.
FORMAT = Format(
    code="dae", name="COLLADA", suffix=".dae", unit="m", up="y", group="part",
    carries=frozenset({"instances", "objects", "materials", "normals", "uv", "pictures", "polygons"}),
    write=write_collada, proof=_proof, shows=frozenset({"base colour"}), noted=_noted, right_handed=True,
    weighs=_weighs,
)  # fmt: skip
