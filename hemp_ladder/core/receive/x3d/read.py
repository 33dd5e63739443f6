"""Reading X3D and VRML97: the tree of groups and transforms, its shapes, and how they look."""

from fractions import Fraction
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.model.colour import BLACK, Colour
from hemp_ladder.core.model.finish import Channel, Finish, Map, Slot
from hemp_ladder.core.model.labels import unique_label
from hemp_ladder.core.model.model import Matrix, Model
from hemp_ladder.core.receive.meshed.colours import roughness_of_exponent
from hemp_ladder.core.receive.meshed.parts import Builder
from hemp_ladder.core.receive.meshed.placing import laid_by, turned, turned_flat
from hemp_ladder.core.receive.meshed.tree import DEEPEST, MOST_NODES
from hemp_ladder.core.receive.meshed.xml import parse
from hemp_ladder.core.receive.report import Report
from hemp_ladder.core.receive.x3d.geometry import LINES, POLYGONS, ROUND, polygons
from hemp_ladder.core.receive.x3d.scene import SceneNode, from_text, from_xml
from hemp_ladder.core.units import UNITS

_GROUPS = {
    "Scene",
    "Group",
    "Transform",
    "Anchor",
    "Collision",
    "Billboard",
    "StaticGroup",
    "Switch",
    "LOD",
    "HAnimHumanoid",
}
_LIGHTS = {"DirectionalLight", "PointLight", "SpotLight", "EnvironmentLight"}
#: Pictures of a physical material, by the field that they stand in (X3D 4).
_FIELDS: dict[str, tuple[tuple[Slot, Channel], ...]] = {
    "baseTexture": (("base colour", "rgb"),), "normalTexture": (("normal", "rgb"),),
    "emissiveTexture": (("emission", "rgb"),), "occlusionTexture": (("occlusion", "r"),),
    "metallicRoughnessTexture": (("roughness", "g"), ("metalness", "b")),
}  # fmt: skip


def read_x3d(path: Path, report: Report) -> Model:
    """The model in an X3D or VRML97 file, Y up, in metres unless it says otherwise. Raises UnreadableSource."""
    report.stage("reading", 0)
    data = path.read_bytes()
    metres, schema = Fraction(1), "VRML97"
    if data.removeprefix(b"\xef\xbb\xbf").lstrip()[:1] == b"#":
        scene = from_text(data.decode("utf-8-sig", "replace"))
    else:
        root = parse(data, "X3D")
        scene, schema = from_xml(root), root.get("version", "")[:12]
        for unit in root.iter("unit"):
            if unit.get("category") == "length":
                metres = _factor(unit.get("conversionFactor", "1"))
    report.stage("translating", 0)
    builder = Builder(report, path)
    _Walk(builder).visit(scene)
    code = next((code for code, item in UNITS.items() if item.metres == metres), None)
    model = builder.model("X3D", metres, code, "y", schema=schema)
    model.sized = code is None
    return model


def _factor(text: str) -> Fraction:
    try:
        value = Fraction(text.strip())
    except (ValueError, ZeroDivisionError):
        return Fraction(1)
    return value if Fraction(1, 10**9) < value < 10**9 else Fraction(1)


class _Walk:
    def __init__(self, builder: Builder) -> None:
        self._builder = builder
        self._parts: dict[tuple[SceneNode, str | None], int | None] = {}
        self._styles: dict[SceneNode, str] = {}
        self._taken: set[str] = set()

    def visit(self, root: SceneNode) -> None:
        """Nodes for what is shown. What is used again is an instance."""
        stack: list[tuple[SceneNode, int, frozenset[int]]] = [
            (node, -1, frozenset()) for _, node in reversed(root.below)
        ]
        while stack:
            node, above, path = stack.pop()
            if id(node) in path or len(path) > DEEPEST or len(self._builder.nodes) >= MOST_NODES:
                raise UnreadableSource(
                    "The X3D file is damaged: its tree goes in a circle or has no end.", "Ask for it again."
                )
            if node.kind == "Shape":
                part = self._part(node)
                if part is not None:
                    self._builder.node(node.name or self._builder.parts[part].label, above, part)
            elif node.kind in _GROUPS:
                here = self._builder.node(node.name or node.kind, above, None, _local(node))
                stack += [(child, here, path | {id(node)}) for child in reversed(_shown(node))]
            elif node.kind in ("Viewpoint", "OrthoViewpoint"):
                self._viewpoint(node, above)
            elif node.kind in _LIGHTS:
                self._builder.leave("light")
                if node.kind == "DirectionalLight":
                    x, y, z = node.vector("direction", (0.0, 0.0, -1.0))
                    self._builder.sun(above, (x, y, z))
            elif node.kind == "Inline":
                self._builder.dangling += node.words("url")[:1]

    def _part(self, shape: SceneNode) -> int | None:
        geometry = shape.one(*POLYGONS, *ROUND)
        if geometry is None:
            if shape.one(*LINES) is not None:
                self._builder.leave("curve")
            elif shape.below:
                self._builder.leave("unknown geometry", int(any(n.kind != "Appearance" for _, n in shape.below)))
            return None
        appearance = shape.one("Appearance")
        style = self._style(appearance) if appearance is not None else None
        if (geometry, style) not in self._parts:
            name = geometry.name or shape.name
            self._parts[geometry, style] = self._builder.part(name[:500], polygons(geometry, style))
        return self._parts[geometry, style]

    def _style(self, appearance: SceneNode) -> str:
        if appearance not in self._styles:
            material = appearance.one("Material", "PhysicalMaterial", "UnlitMaterial")
            wanted = appearance.name or (material.name if material is not None else "") or "Appearance"
            style = self._styles[appearance] = unique_label(wanted[:200], self._taken)
            self._builder.look(style, _finish(material))
            texture = appearance.one("ImageTexture")
            if texture is not None:
                # A picture takes the place of the colour (17.2.2.4), unless it is grey, which few are.
                self._wear(style, "base colour", "rgb", texture, appearance.one("TextureTransform"), alone=True)
            for where, node in material.below if material is not None else ():
                for slot, channel in _FIELDS.get(where, ()):
                    self._wear(style, slot, channel, node, None)
        return self._styles[appearance]

    def _wear(
        self, style: str, slot: Slot, channel: Channel, texture: SceneNode, lay: SceneNode | None, alone: bool = False
    ) -> None:
        files = texture.words("url")
        if not files:
            return
        turn, shift = _laid(lay)

        def placed(picture: str) -> Map:
            return laid_by(turn, shift, picture, channel)

        there = next((name for name in files if self._builder.pictures.is_there(name)), files[0])
        self._builder.wear(style, slot, there, placed, alone)

    def _viewpoint(self, node: SceneNode, above: int) -> None:
        local = np.eye(4)
        x, y, z, angle = node.vector("orientation", (0.0, 0.0, 1.0, 0.0))
        local[:3, :3] = turned(np.array([x, y, z]), angle)
        local[:3, 3] = node.vector("position", (0.0, 0.0, 10.0))
        name = " ".join(node.words("description")) or node.name or "Viewpoint"
        here = self._builder.node(name[:200], above, None, local)
        if node.kind == "Viewpoint":
            self._builder.lookout(name, here, tall=min(max(node.number("fieldOfView", 0.785398), 0.01), 3.1))
        else:
            _, low, _, high = node.vector("fieldOfView", (-1.0, -1.0, 1.0, 1.0))
            self._builder.lookout(name, here, reach=abs(high - low) or 2.0)


def _shown(node: SceneNode) -> list[SceneNode]:
    """Of a switch the chosen one, of levels of detail the first."""
    below = [child for where, child in node.below if where != "proxy"]
    if node.kind == "LOD":
        return below[:1]
    if node.kind == "Switch":
        chosen = int(node.number("whichChoice", -1))
        return below[chosen : chosen + 1] if chosen >= 0 else []
    return below


def _local(node: SceneNode) -> Matrix:
    """T C R SR S -SR -C (10.4.4)."""
    if node.kind not in ("Transform", "HAnimHumanoid"):
        return np.eye(4)

    def moved(vector: tuple[float, ...], sign: float = 1.0) -> Matrix:
        matrix = np.eye(4)
        matrix[:3, 3] = np.array(vector) * sign
        return matrix

    def spun(name: str, sign: float = 1.0) -> Matrix:
        x, y, z, angle = node.vector(name, (0.0, 0.0, 1.0, 0.0))
        matrix = np.eye(4)
        matrix[:3, :3] = turned(np.array([x, y, z]), angle * sign)
        return matrix

    centre = node.vector("center", (0.0, 0.0, 0.0))
    scale = np.diag([*node.vector("scale", (1.0, 1.0, 1.0)), 1.0])
    return np.asarray(
        moved(node.vector("translation", (0.0, 0.0, 0.0))) @ moved(centre) @ spun("rotation")
        @ spun("scaleOrientation") @ scale @ spun("scaleOrientation", -1.0) @ moved(centre, -1.0)
    )  # fmt: skip


def _laid(lay: SceneNode | None) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """-C S R C T (18.4.8) of UV: by what they are multiplied (2 x 2), and how they are moved then (2,)."""
    if lay is None:
        return np.eye(2), np.zeros(2)
    centre, moved = (np.array(lay.vector(name, (0.0, 0.0))) for name in ("center", "translation"))
    turn = np.diag(lay.vector("scale", (1.0, 1.0))) @ turned_flat(lay.number("rotation", 0.0))
    return turn, turn @ (moved + centre) - centre


def _finish(material: SceneNode | None) -> Finish:
    if material is None:
        return Finish(unlit=True)

    def colour(name: str, start: tuple[float, float, float]) -> Colour:
        red, green, blue = (min(max(value, 0.0), 1.0) for value in material.vector(name, start))
        return Colour(red, green, blue)

    def share(name: str, start: float) -> float:
        return min(max(material.number(name, start), 0.0), 1.0)

    opacity = 1 - share("transparency", 0.0)
    glow = colour("emissiveColor", (0.0, 0.0, 0.0))
    if material.kind == "UnlitMaterial":
        red, green, blue = (glow.red, glow.green, glow.blue) if glow != BLACK else (1.0, 1.0, 1.0)
        return Finish(Colour(red, green, blue, opacity), unlit=True)
    physical = material.kind == "PhysicalMaterial"
    base = colour("baseColor", (1.0, 1.0, 1.0)) if physical else colour("diffuseColor", (0.8, 0.8, 0.8))
    # Shininess is a share of the exponent 128 (17.2.2.4).
    rough = share("roughness", 1.0) if physical else roughness_of_exponent(128 * share("shininess", 0.2))
    metal = share("metallic", 1.0) if physical else 0.0
    return Finish(Colour(base.red, base.green, base.blue, opacity), metal, rough, emission=glow)
