"""The same small scene in many formats: a box of 1 x 2 x 3 with UV on its top, red, standing twice, under a group that
is moved by 10 along X; a camera."""

import io
import struct
import zipfile
from pathlib import Path

#: Corners of the box, and its faces seen from outside counterclockwise.
SPOTS = [(x, y, z) for x in (0, 1) for y in (0, 2) for z in (0, 3)]
FACES = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
TRIANGLES = [(a, b, c) for a, b, c, _ in FACES] + [(a, c, d) for a, _, c, d in FACES]
PLAIN = " ".join(f"{x} {y} {z}" for x, y, z in SPOTS)


def off() -> bytes:
    rows = [f"{x} {y} {z}" for x, y, z in SPOTS] + ["4 " + " ".join(map(str, face)) + " 255 0 0" for face in FACES]
    return ("OFF # by hand\n8 6 12\n" + "\n".join(rows) + "\n").encode()


def threemf() -> bytes:
    vertices = "".join(f'<vertex x="{x}" y="{y}" z="{z}"/>' for x, y, z in SPOTS)
    triangles = "".join(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in TRIANGLES)
    model = (
        '<?xml version="1.0"?><model unit="centimeter" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">'
        '<metadata name="Application">by hand</metadata><resources>'
        '<basematerials id="5"><base name="Red paint" displaycolor="#FF0000FF"/></basematerials>'
        f'<object id="1" name="Box" pid="5" pindex="0"><mesh><vertices>{vertices}</vertices><triangles>{triangles}</triangles>'
        '</mesh></object><object id="2" name="Pair"><components><component objectid="1"/>'
        '<component objectid="1" transform="0 1 0 -1 0 0 0 0 1 0 0 0"/></components></object></resources>'
        '<build><item objectid="2" transform="1 0 0 0 1 0 0 0 1 10 0 0"/></build></model>'
    )
    return zipped({"[Content_Types].xml": "<Types/>", "3D/3dmodel.model": model})


def zipped(files: dict[str, str | bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return out.getvalue()


def amf() -> bytes:
    vertices = "".join(
        f"<vertex><coordinates><x>{x}</x><y>{y}</y><z>{z}</z></coordinates></vertex>" for x, y, z in SPOTS
    )
    triangles = "".join(f"<triangle><v1>{a}</v1><v2>{b}</v2><v3>{c}</v3></triangle>" for a, b, c in TRIANGLES)
    return (
        '<?xml version="1.0"?><amf unit="inch"><object id="0"><metadata type="name">Box</metadata>'
        f'<mesh><vertices>{vertices}</vertices><volume materialid="3">{triangles}</volume></mesh></object>'
        '<material id="3"><metadata type="name">Red paint</metadata><color><r>1</r><g>0</g><b>0</b></color></material>'
        '<constellation id="7"><metadata type="name">Pair</metadata>'
        "<instance objectid='0'><deltax>10</deltax></instance>"
        "<instance objectid='0'><deltax>10</deltax><rz>90</rz></instance></constellation></amf>"
    ).encode()


def collada() -> bytes:
    corners = " ".join(f"{corner} {k}" for face in FACES for k, corner in enumerate(face))
    return (
        '<?xml version="1.0"?><COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">'
        '<asset><contributor><authoring_tool>by hand</authoring_tool></contributor><unit meter="0.01"/><up_axis>Z_UP</up_axis></asset>'
        '<library_images><image id="im"><init_from>file:///C:/maps/red%20wall.png</init_from></image></library_images>'
        '<library_effects><effect id="fx"><profile_COMMON><newparam sid="sf"><surface type="2D"><init_from>im</init_from></surface></newparam>'
        '<newparam sid="sm"><sampler2D><source>sf</source></sampler2D></newparam><technique sid="t"><phong>'
        '<diffuse><texture texture="sm" texcoord="U"/></diffuse><shininess><float>30</float></shininess></phong></technique></profile_COMMON></effect></library_effects>'
        '<library_materials><material id="m1" name="Red paint"><instance_effect url="#fx"/></material></library_materials>'
        f'<library_geometries><geometry id="g" name="Box"><mesh><source id="p"><float_array id="pa" count="24">{PLAIN}</float_array>'
        '<technique_common><accessor source="#pa" count="8" stride="3"><param name="X" type="float"/><param name="Y" type="float"/><param name="Z" type="float"/></accessor></technique_common></source>'
        '<source id="u"><float_array id="ua" count="8">0 0 1 0 1 1 0 1</float_array><technique_common><accessor source="#ua" count="4" stride="2"><param name="S" type="float"/><param name="T" type="float"/></accessor></technique_common></source>'
        '<vertices id="v"><input semantic="POSITION" source="#p"/></vertices><polylist count="6" material="S">'
        '<input semantic="VERTEX" source="#v" offset="0"/><input semantic="TEXCOORD" source="#u" offset="1" set="0"/>'
        f"<vcount>4 4 4 4 4 4</vcount><p>{corners}</p></polylist></mesh></geometry></library_geometries>"
        '<library_cameras><camera id="c"><optics><technique_common><perspective><xfov>60</xfov><aspect_ratio>1.5</aspect_ratio><znear>0.1</znear><zfar>100</zfar></perspective></technique_common></optics></camera></library_cameras>'
        '<library_nodes><node id="lib" name="Kept box"><instance_geometry url="#g"><bind_material><technique_common>'
        '<instance_material symbol="S" target="#m1"/></technique_common></bind_material></instance_geometry></node></library_nodes>'
        '<library_visual_scenes><visual_scene id="s"><node name="Pair"><translate>10 0 0</translate>'
        '<node name="One"><instance_node url="#lib"/></node><node name="Two"><rotate>0 0 1 90</rotate><instance_node url="#lib"/></node></node>'
        '<node name="Eye"><instance_camera url="#c"/></node></visual_scene></library_visual_scenes>'
        '<scene><instance_visual_scene url="#s"/></scene></COLLADA>'
    ).encode()


_INDEX = " -1 ".join(" ".join(map(str, face)) for face in FACES) + " -1"


def x3d() -> bytes:
    return (
        '<?xml version="1.0"?><!DOCTYPE X3D PUBLIC "ISO//Web3D//DTD X3D 3.3//EN" "http://www.web3d.org/specifications/x3d-3.3.dtd">'
        '<X3D version="3.3"><head><unit category="length" name="cm" conversionFactor="0.01"/></head><Scene>'
        '<Viewpoint description="Eye" position="0 0 5" fieldOfView="0.6"/>'
        '<Transform DEF="Pair" translation="10 0 0"><Shape DEF="One"><Appearance DEF="Red paint"><Material diffuseColor="1 0 0" shininess="0.234375"/></Appearance>'
        f'<IndexedFaceSet DEF="Box" coordIndex="{_INDEX}"><Coordinate point="{PLAIN}"/></IndexedFaceSet></Shape>'
        '<Transform rotation="0 0 1 1.5707963267948966"><Shape USE="One"/></Transform></Transform></Scene></X3D>'
    ).encode()


def vrml() -> bytes:
    return (
        '#VRML V2.0 utf8\n# by hand, with a "quoted" remark\nPROTO Odd [ field SFInt32 a 1 ] { Group { } }\n'
        'Viewpoint { description "Eye" position 0 0 5 fieldOfView 0.6 }\n'
        "DEF Pair Transform { translation 10 0 0 children [\n  DEF One Shape { appearance DEF Red Appearance { material Material {"
        " diffuseColor 1 0 0 shininess 0.234375 } }\n"
        f"  geometry DEF Box IndexedFaceSet {{ coordIndex [ {_INDEX.replace(' ', ', ')} ]\n"
        f"    coord Coordinate {{ point [ {PLAIN} ] }} }} }}\n"
        "  Transform { rotation 0 0 1 1.5707963267948966 children USE One } ] }\nDirectionalLight { }\n"
    ).encode()


def usda() -> bytes:
    points = ", ".join(f"({x}, {y}, {z})" for x, y, z in SPOTS)
    corners = ", ".join(str(corner) for face in FACES for corner in face)
    uv = ", ".join(["(0, 0), (1, 0), (1, 1), (0, 1)"] * 6)
    return f"""#usda 1.0
(
  customLayerData = {{ string creator = "by hand" }}
  defaultPrim = "Pair"
  metersPerUnit = 0.01
  upAxis = "Z"
)
def Xform "Pair" {{
  double3 xformOp:translate = (10, 0, 0)
  uniform token[] xformOpOrder = ["xformOp:translate"]
  def Xform "One" (
    instanceable = true
    references = </Kept>
  ) {{ }}
  def Xform "Two" (
    instanceable = true
    references = </Kept>
  ) {{
    float xformOp:rotateZ = 90
    uniform token[] xformOpOrder = ["xformOp:rotateZ"]
  }}
}}
class Xform "Kept" {{
  def Mesh "Box" ( prepend apiSchemas = ["MaterialBindingAPI"] ) {{
    rel material:binding = </Kept/Paint>
    uniform token subdivisionScheme = "none"
    point3f[] points = [{points}]
    int[] faceVertexCounts = [4, 4, 4, 4, 4, 4]
    int[] faceVertexIndices = [{corners}]
    texCoord2f[] primvars:st = [{uv}] ( interpolation = "faceVarying" )
  }}
  def Material "Paint" {{
    token outputs:surface.connect = </Kept/Paint/Surface.outputs:surface>
    def Shader "Surface" {{
      uniform token info:id = "UsdPreviewSurface"
      color3f inputs:diffuseColor.connect = </Kept/Paint/Map.outputs:rgb>
      float inputs:roughness = 0.5
      float inputs:metallic = 0
      token outputs:surface
    }}
    def Shader "Map" {{
      uniform token info:id = "UsdUVTexture"
      asset inputs:file = @maps/red wall.png@
      float3 outputs:rgb
    }}
  }}
}}
def Camera "Eye" {{
  float focalLength = 50
  float horizontalAperture = 36
  float verticalAperture = 24
}}
""".encode()


def usdc(folder: Path) -> bytes:
    """The same in binary, by the format's own library."""
    from pxr import Sdf

    path = folder / "as-text.usda"
    path.write_bytes(usda())
    binary = folder / "as-binary.usdc"
    Sdf.Layer.FindOrOpen(str(path)).Export(str(binary))
    return binary.read_bytes()


def usdz(folder: Path, picture: bytes) -> bytes:
    """The same as a package with its picture, stored and aligned as the specification asks."""
    layer = usdc(folder)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
        for name, data in (("box.usdc", layer), ("maps/red wall.png", picture)):
            entry = zipfile.ZipInfo(name, (2026, 1, 1, 0, 0, 0))
            start = out.tell() + 30 + len(name)
            fill = -start % 64
            fill += 64 if 0 < fill < 4 else 0
            entry.extra = struct.pack("<HH", 0x1986, fill - 4) + b"\0" * (fill - 4) if fill else b""
            archive.writestr(entry, data)
    return out.getvalue()
