"""Parts of triangles as a file brought them."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.chain.came import write_meshed
from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import Finding, finding, names, plural
from hemp_ladder.core.keys import content_key
from hemp_ladder.core.mesh.triangles import numbered
from hemp_ladder.core.model.bodies import Meshed
from hemp_ladder.core.model.finish import Finish, Map, Slot, counted
from hemp_ladder.core.model.labels import unique_label
from hemp_ladder.core.model.model import Lookout, Matrix, Model, Node, Part
from hemp_ladder.core.receive.meshed.pictures import Pictures
from hemp_ladder.core.receive.meshed.polygons import uv_tiles
from hemp_ladder.core.receive.report import Report, shape_sink

#: What a surface wears whose colours hang on its vertices and that no material is named for.
_BY_VERTEX = "Colours of vertices"


@dataclass
class Polygons:
    """One mesh of a file. `triangles` (m, 3) index `positions`; `attributes` have a row for each position; `groups`
    (m,) is the number of each triangle's material in `materials`, None for one without."""

    positions: NDArray[np.float64]
    triangles: NDArray[np.integer]
    attributes: dict[str, NDArray[np.float32]] = field(default_factory=dict)
    groups: NDArray[np.integer] | None = None
    materials: Sequence[str | None] = (None,)


def cornered(
    positions: NDArray[np.float64],
    corners: NDArray[np.integer],
    streams: Mapping[str, tuple[NDArray[np.float32], NDArray[np.integer]]],
) -> tuple[NDArray[np.float64], NDArray[np.int64], dict[str, NDArray[np.float32]]]:
    """One vertex for each combination of a position with what hangs on it.

    `corners` (k,) index positions; each stream is values and (k,) indices of them. Returns the vertices' positions,
    for each corner its vertex (k,), and the attributes by vertex.
    """
    if not streams:
        used, index = np.unique(corners, return_inverse=True)
        return positions[used], index.astype(np.int64), {}
    index, first = numbered([corners, *(own for _, own in streams.values())])
    attributes = {name: np.asarray(values[own[first]], np.float32) for name, (values, own) in streams.items()}
    return positions[corners[first]], index, attributes


#: Coordinates beyond this are none.
_FAR = 1e30


def _all_sound(positions: NDArray[np.float64], corners: NDArray[np.integer]) -> bool:
    """Whether every position is a place and every corner one of them, as in nearly all files. What is no number compares
    with nothing."""
    if not len(positions) or not len(corners):
        return False
    low, high = float(positions.min()), float(positions.max())
    return bool(low > -_FAR and high < _FAR and corners.min() >= 0 and corners.max() < len(positions))


class Builder:
    """Gathers the parts and nodes of a file; what cannot be used is left out and counted."""

    def __init__(self, report: Report, path: Path) -> None:
        self._report = report
        self.pictures = Pictures(report, path)
        self._sink = shape_sink(report)
        self._labels: set[str] = set()
        self._boxes: list[NDArray[np.float64]] = []
        self.parts: list[Part] = []
        self.nodes: list[Node] = []
        self.local: list[Matrix] = []
        self.looks: dict[str, Finish] = {}
        self.lacking: dict[str, dict[Slot, str]] = {}
        self._plain: list[str] = []
        self._cameras: list[tuple[str, int, float, float, float]] = []
        self._sun: tuple[int, tuple[float, float, float]] | None = None
        self.leftovers: dict[str, int] = {}
        self.findings: list[Finding] = []
        self.dropped = 0
        #: What is referred to and not there.
        self.dangling: list[str] = []

    def leave(self, kind: str, count: int = 1) -> None:
        if count:
            self.leftovers[kind] = self.leftovers.get(kind, 0) + count

    def look(self, style: str, finish: Finish) -> None:
        """A style looks so, before it wears any picture."""
        self.looks[style] = finish

    def wear(self, style: str, slot: Slot, file: str, placed: Callable[[str], Map] = Map, alone: bool = False) -> None:
        """A style wears the picture with this file name in a slot, `placed` as it says of a SHA-256; where it is not
        there, that is noted. `alone`: no number of the style counts beside it."""
        picture = self.pictures.beside(file, slot)
        if picture is None:
            self.lacking.setdefault(style, {})[slot] = file[:200]
        else:
            if alone:
                self.looks[style] = counted(self.looks[style], slot)
            self.put(style, slot, placed(picture))

    def put(self, style: str, slot: Slot, worn: Map) -> None:
        """A style wears this picture. What is given for a height map and looks like a normal map is one."""
        if slot == "height" and any(t.sha256 == worn.picture and t.bluish for t in self.pictures.textures):
            slot = "normal"
        self.looks[style] = self.looks[style].wearing(slot, worn)

    def part(self, name: str, mesh: Polygons) -> int | None:
        """A part of these triangles; None where there are none that can be used."""
        corners = mesh.triangles
        groups = np.zeros(len(corners), np.int64) if mesh.groups is None else np.asarray(mesh.groups, np.int64)
        if not _all_sound(mesh.positions, corners):
            good: NDArray[np.bool_] = np.all(np.isfinite(mesh.positions) & (np.abs(mesh.positions) < _FAR), axis=1)
            inside: NDArray[np.bool_] = np.all((corners >= 0) & (corners < len(good)), axis=1)
            inside[inside] = good[corners[inside]].all(axis=1)
            self.dropped += int((~inside).sum())
            corners, groups = corners[inside], groups[inside]
        if not len(corners):
            return None
        if groups.min() == groups.max():
            used, starts = groups[:1], np.array([0, len(groups)])
        else:
            used = np.unique(groups)
            order = np.argsort(groups, kind="stable")
            corners, groups = corners[order], np.searchsorted(used, groups[order])
            starts = np.searchsorted(groups, np.arange(len(used) + 1))
        # Only what is used is kept: points beside the triangles would be part of the box.
        needed = np.zeros(len(mesh.positions), bool)
        needed[corners] = True
        index, positions, attributes = corners, mesh.positions, dict(mesh.attributes)
        if not needed.all():
            index = (np.cumsum(needed) - 1)[corners]
            positions, attributes = positions[needed], {key: values[needed] for key, values in attributes.items()}
        attributes = {key: np.nan_to_num(values, posinf=0, neginf=0) for key, values in attributes.items()}
        data = write_meshed(positions, index.reshape(-1, 3), starts, attributes)
        key = content_key(data)
        self._sink(key, data)
        box = np.array([positions.min(axis=0), positions.max(axis=0)])
        label = unique_label(name or f"Mesh {len(self.parts) + 1}", self._labels)
        tiles = uv_tiles(positions, index.reshape(-1, 3), starts, attributes.get("uv"))
        part = Part(label, name, key, Meshed(box, len(used), len(corners), tiles))
        for number, group in enumerate(used.tolist()):
            material = mesh.materials[group] if group < len(mesh.materials) else None
            if material is None and "colour" in attributes:
                material = _BY_VERTEX
                self.looks.setdefault(material, Finish(roughness=0.8))
            if material is not None:
                part.face_styles[number] = material
                if material in self.looks:
                    part.face_colours[number] = self.looks[material].colour
        if len(used) == 1 and part.face_styles:
            part.style, part.colour = part.face_styles.pop(0), part.face_colours.pop(0, None)
        self.parts.append(part)
        self._boxes.append(box)
        self._report.stage("parts", len(self.parts))
        return len(self.parts) - 1

    def note_plain(self, what: str, style: str) -> None:
        """A picture of a style says something that there is no slot for: its one number is taken."""
        self._plain.append(f"{what} of {style}")

    def lookout(self, name: str, node: int, tall: float = 0.0, wide: float = 0.0, reach: float = 0.0) -> None:
        """A camera that stands at a node and looks along its -Z."""
        self._cameras.append((name[:200], node, tall, wide, reach))

    def sun(self, node: int, way: tuple[float, float, float] = (0.0, 0.0, -1.0)) -> None:
        """Light from far off, which goes this way in the axes of a node (-1: of the whole). The first counts."""
        if self._sun is None:
            self._sun = (node, way)

    def node(self, name: str, parent: int, part: int | None = None, local: Matrix | None = None) -> int:
        self.nodes.append(Node(name, parent, -1 if part is None else part))
        self.local.append(np.eye(4) if local is None else local)
        return len(self.nodes) - 1

    def model(self, format_: str, metres: Fraction, unit: str | None, up: str | None, **told: Any) -> Model:
        """All that was gathered. Raises UnreadableSource where there is no triangle."""
        if not self.parts:
            raise UnreadableSource(
                f"The {format_} file holds no triangles that can be used.", "Ask for an export of the surfaces."
            )
        if self.dropped:
            message = f"{plural(self.dropped, 'triangle')} named corners that are not there or are no numbers."
            self.findings.append(finding("unreadable-entity", format_, message))
        if self.dangling:
            message = f"{plural(len(self.dangling), 'thing')} in it refer to what is not there: {names(self.dangling)}."
            self.findings.append(
                finding("unreadable-entity", format_, message.replace("1 thing in it refer ", "1 thing in it refers "))
            )
        if self._plain:
            self.findings.append(
                finding("map-without-slot", format_, f"Pictures of {names(self._plain)} are not taken.")
            )
        local = np.array(self.local).reshape(-1, 4, 4)
        guesses = self.pictures.guesses(self.looks)
        if self.pictures.is_bundle:
            self.pictures.take_unused()
        model = Model(
            format=format_, schema=told.get("schema", ""), writer=told.get("writer", ""), unit=unit, up=up,
            metres_per_coordinate=metres, parts=self.parts, nodes=self.nodes, local=local, box=np.zeros((2, 3)),
            findings=[*self.findings, *self.pictures.findings], leftovers=self.leftovers, looks=self.looks,
            textures=self.pictures.textures, guesses=guesses, lacking=self.lacking,
        )  # fmt: skip
        model.box = self._overall(model)
        model.lookouts = self._lookouts(model)
        model.sun = self._sunlight(model)
        return model

    def _sunlight(self, model: Model) -> tuple[float, float, float] | None:
        if self._sun is None:
            return None
        node, way = self._sun
        told = model.world()[node][:3, :3] @ np.array(way) if node >= 0 else np.array(way, float)
        length = float(np.linalg.norm(told))
        if not np.isfinite(length) or length == 0:
            return None
        x, y, z = (told / length).tolist()
        return x, y, z

    def _lookouts(self, model: Model) -> list[Lookout]:
        if not self._cameras:
            return []
        world = model.world()
        return [
            Lookout(name, tuple(world[node].reshape(-1).tolist()), tall, wide, reach)
            for name, node, tall, wide, reach in self._cameras
        ]

    def _overall(self, model: Model) -> NDArray[np.float64]:
        world = model.world()
        low, high = np.full(3, np.inf), np.full(3, -np.inf)
        eight = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)])
        for number, node in enumerate(model.nodes):
            if node.part >= 0:
                box = self._boxes[node.part]
                corners = np.where(eight, box[1], box[0]) @ world[number, :3, :3].T + world[number, :3, 3]
                low, high = np.minimum(low, corners.min(axis=0)), np.maximum(high, corners.max(axis=0))
        return np.array([low, high]) if np.isfinite(low).all() else np.zeros((2, 3))
