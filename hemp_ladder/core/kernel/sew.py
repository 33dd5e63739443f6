"""Sewing loose faces into shells, and closed shells into solids that face outward."""

from dataclasses import dataclass

from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Sewing
from OCP.BRepLib import BRepLib
from OCP.TopoDS import TopoDS, TopoDS_Compound, TopoDS_Face, TopoDS_Shape

from hemp_ladder.core.kernel.shapes import FACE, SHELL, SOLID, ShapeMap, explore, faces_of, open_edges


@dataclass(frozen=True)
class Sewn:
    """The sewn shape; `new` gives for each face of the old, in its order, the face that stands for it.

    `turned` counts the faces that were wound against the others, or inward.
    """

    shape: TopoDS_Shape
    new: list[TopoDS_Face]
    turned: int


def has_loose_faces(shape: TopoDS_Shape) -> bool:
    """Whether there are faces outside any solid."""
    return next(iter(explore(shape, FACE, SOLID)), None) is not None


def sew(shape: TopoDS_Shape, tolerance: float) -> Sewn:
    """Join faces whose edges lie nearer than `tolerance` (source coordinates), wind them alike, close what closes.

    Solids that are there already are left as they are.
    """
    old = faces_of(shape)
    sewing = BRepBuilderAPI_Sewing(tolerance)
    for face in old:
        sewing.Add(face)
    sewing.Perform()
    builder, whole = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(whole)
    loose = ShapeMap()
    for item in explore(sewing.SewedShape(), SHELL):
        shell = TopoDS.Shell(item)
        piece: TopoDS_Shape = shell
        if not open_edges(shell):
            solid = BRepBuilderAPI_MakeSolid(shell).Solid()
            if BRepLib.OrientClosedSolid_s(solid):
                piece = solid
        builder.Add(whole, piece)
    for item in explore(sewing.SewedShape(), FACE, SHELL):
        if not loose.Contains(item):
            loose.Add(item)
            builder.Add(whole, item)
    standing = ShapeMap()
    for face in faces_of(whole):
        standing.Add(face)
    new: list[TopoDS_Face] = []
    turned = 0
    for face in old:
        after = sewing.ModifiedSubShape(face) if sewing.IsModifiedSubShape(face) else face
        number = standing.FindIndex(after)
        found = TopoDS.Face(standing.FindKey(number)) if number else face
        turned += int(number > 0 and found.Orientation() != TopoDS.Face(after).Orientation())
        new.append(found)
    return Sewn(whole, new, turned)
