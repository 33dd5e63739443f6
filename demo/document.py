"""An assembly document that becomes a STEP AP242 file."""

import re
from collections.abc import Sequence
from pathlib import Path

from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.IGESCAFControl import IGESCAFControl_Writer
from OCP.Interface import Interface_Static
from OCP.Quantity import Quantity_Color, Quantity_TypeOfColor
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFApp import XCAFApp_Application
from OCP.XCAFDoc import XCAFDoc_ColorType, XCAFDoc_DocumentTool
from OCP.XSControl import XSControl_WorkSession

from hemp_ladder.core.kernel.shapes import faces_of, hush

_SURFACE = XCAFDoc_ColorType.XCAFDoc_ColorSurf


class Assembly:
    """Names, layers, colours and placements around kernel shapes."""

    def __init__(self) -> None:
        self._document = TDocStd_Document(TCollection_ExtendedString("XmlOcaf"))
        XCAFApp_Application.GetApplication_s().InitDocument(self._document)
        main = self._document.Main()
        self._shapes = XCAFDoc_DocumentTool.ShapeTool_s(main)
        self._colours = XCAFDoc_DocumentTool.ColorTool_s(main)
        self._layers = XCAFDoc_DocumentTool.LayerTool_s(main)

    def group(self, name: str) -> TDF_Label:
        label = self._shapes.NewShape()
        _name(label, name)
        return label

    def part(
        self,
        name: str,
        shape: TopoDS_Shape,
        layer: str = "",
        colour: str = "",
        faces: dict[int, str] | None = None,
    ) -> TDF_Label:
        """Define a part once; colours are `#rrggbb`, `faces` colours single faces by number."""
        label = self._shapes.AddShape(shape, False)
        _name(label, name)
        if layer:
            self._layers.SetLayer(label, TCollection_ExtendedString(layer))
        if colour:
            self._colours.SetColor(label, _colour(colour), _SURFACE)
        found = faces_of(shape)
        for number, face_colour in (faces or {}).items():
            piece = self._shapes.AddSubShape(label, found[number])
            self._colours.SetColor(piece, _colour(face_colour), _SURFACE)
        return label

    def put(
        self,
        group: TDF_Label,
        item: TDF_Label,
        places: Sequence[TopLoc_Location] = (),
        name: str = "",
        colour: str = "",
    ) -> None:
        """Place an item in a group, once for each place; a colour here overrides the part's own."""
        for number, where in enumerate(places or [TopLoc_Location()], 1):
            label = self._shapes.AddComponent(group, item, where)
            if name:
                _name(label, name if len(places) < 2 else f"{name} {number}")
            if colour:
                self._colours.SetColor(label, _colour(colour), _SURFACE)

    def write(self, path: Path, schema: str = "AP242DIS", unit: str = "MM") -> None:
        """Write STEP with a header that does not change from run to run."""
        hush()
        self._shapes.UpdateAssemblies()
        writer = STEPCAFControl_Writer()
        Interface_Static.SetCVal_s("write.step.schema", schema)
        Interface_Static.SetCVal_s("write.step.unit", unit)
        writer.SetColorMode(True)
        writer.SetNameMode(True)
        writer.SetLayerMode(True)
        if not writer.Transfer(self._document):
            raise RuntimeError("the kernel could not translate the document")
        if writer.Write(str(path)) != IFSelect_ReturnStatus.IFSelect_RetDone:
            raise RuntimeError(f"{path} could not be written")
        text = path.read_text("latin-1")
        text = re.sub(
            r"FILE_NAME\(.*?\);",
            "FILE_NAME('gull-rock-lantern','2026-11-01T08:00:00',('Harbour office'),('Gull Rock'),\n"
            "  'kernel 8.0','Demo generator','');",
            text,
            count=1,
            flags=re.DOTALL,
        )
        path.write_text(text, "latin-1")

    def write_iges(self, path: Path, unit: str = "IN") -> None:
        """Write IGES 5.3 with solids as trimmed surfaces; times and names in the global section do not change."""
        hush()
        self._shapes.UpdateAssemblies()
        IGESCAFControl_Writer()  # sets up what the next lines change
        Interface_Static.SetCVal_s("write.iges.header.author", "Harbour office")
        Interface_Static.SetCVal_s("write.iges.header.company", "Gull Rock")
        session = XSControl_WorkSession()
        session.SelectNorm("IGES")
        writer = IGESCAFControl_Writer(session, unit)
        writer.SetColorMode(True)
        writer.SetNameMode(True)
        writer.SetLayerMode(True)
        if not writer.Transfer(self._document) or not writer.Write(str(path)):
            raise RuntimeError(f"{path} could not be written")
        # Both stamps in the global section are of one form, 15H and so many digits.
        path.write_text(re.sub(r"15H\d{8}\.\d{6}", "15H20261101.080000", path.read_text("latin-1")), "latin-1")


def mirror_placement(path: Path, name: str) -> None:
    """Turn one placement of a written STEP file into a mirror image in the plane of its own Y.

    The kernel's writer places only by axes, which cannot mirror; the schema
    can, by a cartesian transformation operator (ISO 10303-42, 4.4.20).
    """
    text = path.read_text("latin-1")
    usage = re.search(rf"#(\d+) = NEXT_ASSEMBLY_USAGE_OCCURRENCE\('[^']*','{re.escape(name)}'", text)
    assert usage, name
    shape = re.search(rf"#(\d+) = PRODUCT_DEFINITION_SHAPE\([^;]*#{usage[1]}\);", text)
    assert shape
    context = re.search(rf"CONTEXT_DEPENDENT_SHAPE_REPRESENTATION\(#(\d+),#{shape[1]}\);", text)
    assert context
    relation = re.search(rf"#{context[1]} = [^;]*REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION\(#(\d+)\)", text)
    assert relation
    move = re.search(rf"#{relation[1]} = ITEM_DEFINED_TRANSFORMATION\('','',#\d+,#(\d+)\);", text)
    assert move
    axes = re.search(rf"#{move[1]} = AXIS2_PLACEMENT_3D\('',#(\d+),#(\d+),#(\d+)\);", text)
    assert axes
    z, x = (_direction(text, axes[number]) for number in (2, 3))
    y = [z[2] * x[1] - z[1] * x[2], z[0] * x[2] - z[2] * x[0], z[1] * x[0] - z[0] * x[1]]
    numbers = [int(found) for found in re.findall(r"^#(\d+) =", text, re.MULTILINE)]
    free = max(numbers) + 1
    operator = (
        f"#{relation[1]} = CARTESIAN_TRANSFORMATION_OPERATOR_3D('','','',#{axes[3]},#{free},#{axes[1]},1.,#{axes[2]});\n"
        f"#{free} = DIRECTION('',({','.join(repr(float(v) + 0.0) for v in y)}));"
    )
    path.write_text(text.replace(move[0], operator), "latin-1")


def _direction(text: str, number: str) -> list[float]:
    found = re.search(rf"#{number} = DIRECTION\('',\(([^)]*)\)\);", text)
    assert found
    return [float(value) for value in found[1].split(",")]


def _name(label: TDF_Label, name: str) -> None:
    TDataStd_Name.Set_s(label, TCollection_ExtendedString(name, True))


def _colour(text: str) -> Quantity_Color:
    red, green, blue = (int(text[i : i + 2], 16) / 255 for i in (1, 3, 5))
    return Quantity_Color(red, green, blue, Quantity_TypeOfColor.Quantity_TOC_sRGB)
