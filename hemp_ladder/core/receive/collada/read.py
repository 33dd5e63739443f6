"""Reading COLLADA: the tree of the scene with its instances, and what it instances."""

from fractions import Fraction
from pathlib import Path
from xml.etree.ElementTree import Element

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import finding, plural
from hemp_ladder.core.model.model import Matrix, Model
from hemp_ladder.core.receive.collada.geometry import Geometry
from hemp_ladder.core.receive.collada.materials import add_materials
from hemp_ladder.core.receive.collada.values import child, number, numbers, ref, text_of
from hemp_ladder.core.receive.meshed.parts import Builder
from hemp_ladder.core.receive.meshed.placing import turned
from hemp_ladder.core.receive.meshed.tree import DEEPEST, MOST_NODES
from hemp_ladder.core.receive.meshed.xml import parse
from hemp_ladder.core.receive.report import Report
from hemp_ladder.core.units import UNITS

_ENDLESS = ("The COLLADA file is damaged: its tree goes in a circle or has no end.", "Ask for it again.")
_KINDS = ("instance_geometry", "instance_controller", "instance_node", "instance_camera", "instance_light")


def read_collada(path: Path, report: Report) -> Model:
    """The model in a COLLADA file, in the unit and with the up axis that it says, metres and Y where it says none.

    Raises UnreadableSource when nothing can be got from the file.
    """
    report.stage("reading", 0)
    root = parse(path.read_bytes(), "COLLADA")
    report.stage("translating", 0)
    walk = _Walk(root, Builder(report, path))
    walk.scene()
    asset = child(root, "asset")
    unit = child(asset, "unit")
    told = number(unit.get("meter"), 1.0) if unit is not None else 1.0
    # By its shortest digits: a hundredth is one, not the double next to it.
    metres = Fraction(repr(told)).limit_denominator(10**9) if 1e-9 < told < 1e9 else Fraction(1)
    code = next((code for code, item in UNITS.items() if item.metres == metres), None)
    up = {"X_UP": "x", "Z_UP": "z"}.get(text_of(child(asset, "up_axis")), "y")
    tool = text_of(child(child(asset, "contributor"), "authoring_tool"))
    model = walk.builder.model("COLLADA", metres, code, up, schema=root.get("version", "")[:12], writer=tool[:80])
    model.sized = code is None
    return model


class _Walk:
    def __init__(self, root: Element, builder: Builder) -> None:
        self.builder = builder
        self._by_id = {id_: item for item in root.iter() if (id_ := item.get("id"))}
        self._root = root
        self._geometry = Geometry(self._by_id)
        self._styles = add_materials(self._by_id, builder)
        self._parts: dict[tuple[str, tuple[tuple[str, str], ...]], int | None] = {}
        self._moving = 0

    def scene(self) -> None:
        """The scene that is to be shown; where none is named, all that there are."""
        wanted = ref(child(child(self._root, "scene"), "instance_visual_scene"), "url")
        scenes = [item for item in self._root.iter("visual_scene") if wanted in ("", item.get("id"))]
        for scene in scenes or list(self._root.iter("visual_scene")):
            for node in scene.findall("node"):
                self._visit(node)
        self.builder.leave("animation", sum(1 for _ in self._root.iter("animation")))
        if self._moving:
            message = f"{plural(self._moving, 'mesh', 'meshes')} can be posed or change shape; they come in at rest."
            self.builder.findings.append(finding("at-rest", "COLLADA", message))

    def _visit(self, top: Element) -> None:
        stack: list[tuple[Element, int, frozenset[int]]] = [(top, -1, frozenset())]
        while stack:
            node, above, path = stack.pop()
            if id(node) in path or len(path) > DEEPEST or len(self.builder.nodes) >= MOST_NODES:
                raise UnreadableSource(*_ENDLESS)
            inside = path | {id(node)}
            told = [item for item in node if item.tag in _KINDS]
            shapes = [part for item in told if (part := self._part(item)) is not None]
            name = node.get("name") or node.get("id") or "group"
            here = self.builder.node(name[:500], above, shapes[0] if len(shapes) == 1 else None, _local(node))
            for part in shapes if len(shapes) > 1 else ():
                self.builder.node(self.builder.parts[part].label, here, part)
            below: list[Element] = []
            for item in node:
                if item.tag == "node":
                    below.append(item)
                elif item.tag == "instance_node":
                    other = self._by_id.get(ref(item, "url"))
                    if other is None:
                        self.builder.dangling.append(ref(item, "url"))
                    else:
                        below.append(other)
                elif item.tag == "instance_camera":
                    self._camera(item, name, here)
                elif item.tag == "instance_light":
                    self.builder.leave("light")
                    light = self._by_id.get(ref(item, "url"))
                    if light is not None and next(light.iter("directional"), None) is not None:
                        self.builder.sun(here)
            stack += [(other, here, inside) for other in reversed(below)]

    def _part(self, item: Element) -> int | None:
        """The part that is instanced, dressed as it says there."""
        if item.tag == "instance_geometry":
            id_ = ref(item, "url")
        elif item.tag == "instance_controller":
            self._moving += 1
            id_ = self._skinned(ref(item, "url"))
        else:
            return None
        bound = {
            told.get("symbol", ""): self._styles.get(ref(told, "target"), ref(told, "target"))
            for told in item.iter("instance_material")
        }
        case = (id_, tuple(sorted(bound.items())))
        if case not in self._parts:
            found = self._by_id.get(id_)
            if found is None:
                self.builder.dangling.append(id_)
                self._parts[case] = None
            else:
                mesh, lines = self._geometry.mesh(found, bound)
                self.builder.leave("curve", lines)
                name = found.get("name") or found.get("id") or ""
                self._parts[case] = self.builder.part(name[:500], mesh) if mesh is not None else None
        return self._parts[case]

    def _skinned(self, id_: str) -> str:
        """The mesh below a skin or a morph, which may stand in one another."""
        for _ in range(8):
            controller = self._by_id.get(id_)
            inner = (
                next((i for i in controller if i.tag in ("skin", "morph")), None) if controller is not None else None
            )
            if inner is None:
                return id_
            id_ = ref(inner, "source")
        return id_

    def _camera(self, item: Element, name: str, here: int) -> None:
        camera = self._by_id.get(ref(item, "url"))
        if camera is None:
            return
        eye, flat = next(camera.iter("perspective"), None), next(camera.iter("orthographic"), None)
        told = eye if eye is not None else flat
        if told is None:
            return
        wide = number(text_of(child(told, "aspect_ratio")), 0.0)
        if eye is None:
            tall = number(text_of(child(told, "ymag")), 0.0) or number(text_of(child(told, "xmag")), 1.0) / (
                wide or 1.0
            )
            self.builder.lookout(name, here, wide=wide, reach=2 * tall)
            return
        tall, across = (np.radians(number(text_of(child(told, key)), 0.0)) for key in ("yfov", "xfov"))
        if not tall and across:
            tall = 2 * np.arctan(np.tan(across / 2) / (wide or 1.0))
        self.builder.lookout(name, here, tall=float(min(tall, 3.1)) or 0.7, wide=wide)


def _local(node: Element) -> Matrix:
    """A node's transforms one after the other, the last first (5.2.1 of the specification)."""
    matrix = np.eye(4)
    for item in node:
        told = numbers(item.text) if item.tag in ("matrix", "translate", "rotate", "scale", "lookat") else []
        own = np.eye(4)
        if item.tag == "matrix" and len(told) == 16:
            own = np.array(told).reshape(4, 4)
        elif item.tag == "translate" and len(told) == 3:
            own[:3, 3] = told
        elif item.tag == "scale" and len(told) == 3:
            own[:3, :3] = np.diag(told)
        elif item.tag == "rotate" and len(told) == 4:
            own[:3, :3] = turned(np.array(told[:3]), float(np.radians(told[3])))
        elif item.tag == "lookat" and len(told) == 9:
            own = _looking(*np.array(told).reshape(3, 3))
        else:
            continue
        matrix = matrix @ own
    return matrix if np.isfinite(matrix).all() else np.eye(4)


def _looking(eye: NDArray[np.float64], at: NDArray[np.float64], up: NDArray[np.float64]) -> NDArray[np.float64]:
    away = eye - at
    right = np.cross(up, away)
    if not np.linalg.norm(away) or not np.linalg.norm(right):
        return np.eye(4)
    away, right = away / np.linalg.norm(away), right / np.linalg.norm(right)
    own = np.eye(4)
    own[:3] = np.column_stack([right, np.cross(away, right), away, eye])
    return own
