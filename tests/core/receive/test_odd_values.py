"""Documents that are well formed and say what makes no sense: every value may be of any kind, be none, or be there
twice. Each ends as a model or as a sentence of ours."""

import copy
import io
import json
import random
import re
import zipfile
from collections.abc import Callable, Iterator
from fractions import Fraction
from typing import Any
from xml.etree import ElementTree

import numpy as np

from hemp_ladder.core.chain.came import read_meshed
from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.model.bodies import Meshed
from hemp_ladder.core.receive.readers import need_reader
from hemp_ladder.core.receive.report import Kept
from tests.core.receive import scene_files as made
from tests.core.receive.test_mesh_files import gltf
from tests.support import FolderCase

#: In the place of a value of a JSON document.
JSON: list[Any] = [
    None, -1, 1e300, float("nan"), "x", "", [], {}, True, 1 << 40, -(1 << 60), [1], {"a": 1}, [[]], [None], 0.5, [1e300] * 3,
]  # fmt: skip
#: In the place of a word of an XML document.
WORDS = ["", "x", "-1", "1e300", "nan", "0", "9" * 20, "#a", "1 2 3 nan", "1,2", ";", "inf", " "]
#: In the place of a field of USD: its type and its value.
TYPED = [
    ("float", "2"), ("string", '"x"'), ("int[]", "[1, -9]"), ("double3", "(1, nan, 1e300)"), ("token", '"none"'),
    ("asset", "@a.png@"), ("bool", "true"), ("float2", "(nan, inf)"), ("int[]", "[]"), ("point3f[]", "[(nan, 0, 0)]"),
    ("texCoord2f[]", "[(0, 0)]"), ("float", "nan"), ("matrix4d", "((1, 0, 0, 0), (0, 0, 0, 0), (0, 0, 1, 0), (0, 0, 0, 0))"),
    ("half", "-1e4"), ("token[]", '["xformOp:rotateZ", "!invert!xformOp:odd"]'), ("double", "1e300"),
]  # fmt: skip
_FIELD = re.compile(r"^(\s*(?:uniform |custom )?)(\S+) (\S+) = ([^(\n]*.*)$", re.MULTILINE)
#: Changes tried of each document, of the thousands that there are.
TRIES = 150


def everything() -> dict[str, Any]:
    """A glTF document that says much."""
    document = gltf()
    look = document["materials"][0]
    turned = {"KHR_texture_transform": {"scale": [1, 2], "offset": [0, 1], "rotation": 1}}
    look["pbrMetallicRoughness"]["baseColorTexture"] = {"index": 0, "extensions": turned}
    look.update(
        normalTexture={"index": 0, "texCoord": 1, "scale": 2}, emissiveFactor=[1, 0, 0], doubleSided=True,
        extensions={"KHR_materials_transmission": {"transmissionFactor": 0.5}, "KHR_materials_ior": {"ior": 1.4}},
    )  # fmt: skip
    document["textures"] = [{"source": 0}]
    document["images"] = [{"uri": "data:image/png;base64,iVBORw0KGgo=", "name": "Tiles"}]
    document["cameras"] = [
        {"type": "perspective", "perspective": {"yfov": 1, "znear": 0.1, "zfar": 100, "aspectRatio": 1.5}}
    ]
    document["nodes"][1]["extensions"] = {"EXT_mesh_gpu_instancing": {"attributes": {"TRANSLATION": 0}}}
    document["accessors"][0]["sparse"] = {
        "count": 1, "indices": {"bufferView": 1, "componentType": 5123}, "values": {"bufferView": 0},
    }  # fmt: skip
    return document


def everything_usd() -> bytes:
    """A USD layer that says much."""
    inner = """
  def Shader "Lay" {
    uniform token info:id = "UsdTransform2d"
    float2 inputs:scale = (2, 3)
    float inputs:rotation = 30
    float2 inputs:translation = (0.1, 0.2)
    float2 outputs:result
  }
"""
    worn = """      float2 inputs:st.connect = </Kept/Paint/Lay.outputs:result>
      float4 inputs:scale = (0.5, 0.5, 0.5, 1)
      asset inputs:file"""
    more = """
def Cylinder "Post" {
  double radius = 2
  double height = 3
  token axis = "X"
  color3f[] primvars:displayColor = [(1, 0, 0)]
}
def PointInstancer "Stones" {
  rel prototypes = [</Post>]
  int[] protoIndices = [0, 0]
  point3f[] positions = [(5, 0, 0), (9, 0, 0)]
  quath[] orientations = [(1, 0, 0, 0), (1, 0, 0, 0)]
}
def DistantLight "Sun" {
  float inputs:intensity = 2
}
"""
    text = made.usda().decode().replace("      asset inputs:file", worn)
    return (
        text.replace('  def Shader "Map"', inner.replace("\n  ", "\n    ") + '    def Shader "Map"') + more
    ).encode()


def places(value: Any, above: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """The way to each value in a JSON document."""
    yield above
    inner = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, below in inner:
        yield from places(below, (*above, key))


def put(document: Any, place: tuple[Any, ...], value: Any) -> bytes:
    changed = copy.deepcopy(document)
    if not place:
        return json.dumps(value).encode()
    at = changed
    for key in place[:-1]:
        at = at[key]
    at[place[-1]] = value
    return json.dumps(changed).encode()


def other_json(document: Any) -> Iterator[tuple[str, Callable[[], bytes]]]:
    for place in places(document):
        for value in JSON:
            yield f"{place}: {value!r}", lambda place=place, value=value: put(document, place, value)  # type: ignore[misc]


def other_xml(data: bytes) -> Iterator[tuple[str, Callable[[], bytes]]]:
    """Attributes and texts by other words, attributes and elements gone, empty and doubled."""
    root = ElementTree.fromstring(data)  # noqa: S314: our own
    for number, element in enumerate(root.iter()):
        changes: list[tuple[str, str, str | None]] = [("gone", "", None), ("twice", "", None), ("empty", "", None)]
        for name in element.attrib:
            changes += [("attribute", name, word) for word in (*WORDS, None)]
        if (element.text or "").strip():
            changes += [("text", "", word) for word in WORDS]
        for change in changes:
            yield f"{element.tag} {change}", lambda number=number, change=change: _changed(root, number, *change)  # type: ignore[misc]


def _changed(root: ElementTree.Element, number: int, what: str, name: str, word: str | None) -> bytes:
    whole = copy.deepcopy(root)
    above = {below: item for item in whole.iter() for below in item}
    element = list(whole.iter())[number]
    if what == "attribute" and word is not None:
        element.set(name, word)
    elif what == "attribute":
        del element.attrib[name]
    elif what == "text":
        element.text = word
    elif what == "empty":
        element[:], element.text = [], None
    elif element in above and what == "gone":
        above[element].remove(element)
    elif element in above:
        above[element].insert(0, copy.deepcopy(element))
    return ElementTree.tostring(whole)


def other_usd(data: bytes) -> Iterator[tuple[str, Callable[[], bytes]]]:
    """Fields of other types and with other values, and gone."""
    text = data.decode()
    for found in _FIELD.finditer(text):
        for told in ("", *(f"{found[1]}{kind} {found[3]} = {value}" for kind, value in TYPED)):
            yield (
                f"{found[3]}: {told}",
                lambda found=found, told=told: f"{text[: found.start()]}{told}{text[found.end() :]}".encode(),
            )  # type: ignore[misc]


def packed(data: bytes) -> bytes:
    return made.zipped({"[Content_Types].xml": "<Types/>", "3D/3dmodel.model": data})


class Odd(FolderCase):
    def tried(self, name: str, data: bytes) -> bool:
        """Whether it could be read."""
        path = self.folder / name
        path.write_bytes(data)
        kept = Kept()
        try:
            model = need_reader(path).read(path, kept)
        except UnreadableSource as refused:
            self.assertTrue(refused.message.endswith((".", "”")), refused.message)
            return False
        self.assertTrue(np.isfinite(model.box).all())
        for part in model.parts:
            if isinstance(part.body, Meshed):
                self.assertTrue(np.isfinite(read_meshed(kept.shapes[part.key]).positions).all())
        return True

    def some(
        self, name: str, changes: Iterator[tuple[str, Callable[[], bytes]]], pack: Callable[[bytes], bytes] = bytes
    ) -> None:
        read = 0
        for what, changed in random.Random(3).sample(list(changes), TRIES):
            with self.subTest(what):
                read += self.tried(name, pack(changed()))
        self.assertGreater(read, TRIES // 4, "one odd value seldom makes a file unreadable")

    def test_gltf(self) -> None:
        self.some("a.gltf", other_json(everything()))

    def test_collada(self) -> None:
        self.some("a.dae", other_xml(made.collada()))

    def test_amf(self) -> None:
        self.some("a.amf", other_xml(made.amf()))

    def test_x3d(self) -> None:
        self.some("a.x3d", other_xml(made.x3d()))

    def test_usd(self) -> None:
        self.some("a.usda", other_usd(everything_usd()))

    def test_3mf(self) -> None:
        with zipfile.ZipFile(io.BytesIO(made.threemf())) as archive:
            model = archive.read("3D/3dmodel.model")
        self.some("a.3mf", other_xml(model), packed)

    def test_what_once_raised_something_else(self) -> None:
        sparse = ("accessors", 0, "sparse")
        for place, value in (
            (("bufferViews", 0, "buffer"), []), (("accessors", 0, "componentType"), {}), (("accessors", 0, "count"), True),
            ((*sparse, "indices"), None), ((*sparse, "values"), "x"), ((*sparse, "indices", "componentType"), []),
        ):  # fmt: skip
            with self.subTest(place=place):
                self.tried("a.gltf", put(everything(), place, value))
        for name, data, old, new in (
            ("a.dae", made.collada(), b'stride="3"', b'stride="1e300"'),
            ("a.dae", made.collada(), b'offset="1"', b'offset="1e300"'),
            ("a.amf", made.amf(), b"<v1>0<", b"<v1>" + b"9" * 20 + b"<"),
        ):
            with self.subTest(new):
                self.assertIn(old, data)
                self.tried(name, data.replace(old, new))
        with zipfile.ZipFile(io.BytesIO(made.threemf())) as archive:
            model = archive.read("3D/3dmodel.model")
        self.tried("a.3mf", packed(model.replace(b'pindex="0"', b'pindex="99999999999999999999"')))

    def test_a_unit_with_a_decimal_comma_is_one(self) -> None:
        path = self.folder / "comma.dae"
        path.write_bytes(made.collada().replace(b'meter="0.01"', b'meter="0,01"'))
        model = need_reader(path).read(path, Kept())
        self.assertEqual((model.unit, model.metres_per_coordinate), ("cm", Fraction(1, 100)))
