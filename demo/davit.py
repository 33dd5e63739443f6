"""A davit for the quay of Gull Rock, to be written as IGES in inches: a bent arm that swings a boat out.

IGES knows no part that is placed twice, so every piece stands where it is.
"""

from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Shape

from demo.document import Assembly
from demo.shapes import box, cut, cylinder, fillet, fuse, pipe, place, revolve, spline

INCH = 25.4
IRON, ZINC, BRASS, ROPE = "#3c434a", "#b9bdbb", "#c9a24e", "#a2743a"


def build(INCH: float = INCH) -> Assembly:
    """The whole davit; shapes are built in millimetres, as the kernel works, so many to the inch."""
    davit = Assembly()
    foot = fuse(box(16 * INCH, 16 * INCH, INCH), cylinder(4 * INCH, 14 * INCH, (0, 0, INCH)))
    bolts = [cylinder(0.5 * INCH, 3 * INCH, (x * INCH, y * INCH, -INCH)) for x in (-6, 6) for y in (-6, 6)]
    bore = cylinder(3.05 * INCH, 20 * INCH, (0, 0, 2 * INCH))
    davit.part("Socket", cut(foot, *bolts, bore), "Socket", IRON)
    path = [(0.0, 0.0, 2.0), (0, 0, 30), (0, 0, 60), (6, 0, 82), (24, 0, 94), (44, 0, 92)]
    bent = [(x * INCH, y * INCH, z * INCH) for x, y, z in path]
    davit.part("Arm", pipe(spline(bent), bent[0], (0, 0, 1), 2.9 * INCH), "Arm", ZINC)
    groove = [(0.6, 0.0), (4, 0), (4, 0.25), (3.4, 0.75), (4, 1.25), (4, 1.5), (0.6, 1.5)]
    sheave = revolve([(radius * INCH, height * INCH) for radius, height in groove])
    for number, y in enumerate((-2, 2), 1):
        davit.part(f"Sheave {number}", _moved(sheave, place(44 * INCH, y * INCH, 86 * INCH)), "Gear", BRASS)
    cleat = fillet(box(2 * INCH, 10 * INCH, 1.5 * INCH), 0.4 * INCH)
    davit.part("Cleat", _moved(cleat, place(3.6 * INCH, 0, 36 * INCH)), "Gear", BRASS)
    davit.part("Fall", cylinder(0.4 * INCH, 70 * INCH, (44 * INCH, 0, 14 * INCH)), "Gear", ROPE)
    return davit


def _moved(shape: TopoDS_Shape, where: TopLoc_Location) -> TopoDS_Shape:
    return BRepBuilderAPI_Transform(shape, where.Transformation(), True).Shape()
