"""The options of `convert`."""

import argparse
from pathlib import Path
from typing import Any

from hemp_ladder.cli.faceting import add_options as add_facet_options
from hemp_ladder.cli.sorting import GROUPS
from hemp_ladder.cli.sorting import add_options as add_sort_options
from hemp_ladder.cli.sources import OWN_UNIT, SVG_UNIT
from hemp_ladder.cli.trimming import add_options as add_trim_options
from hemp_ladder.core.facet.settings import PURPOSES
from hemp_ladder.core.fit.settings import AXES
from hemp_ladder.core.operations import OPERATIONS
from hemp_ladder.core.ship.formats import FORMATS

_KNOWN = (
    "make a distance true: two points in the source's coordinates and how far apart they should be: "
    '"0,0,0 100,0,0 = 13\' 1 15/16\\""; with several sources, the source\'s name and a colon before them'
)
_ORIGIN = (
    "what becomes the origin: centre, base-centre, a corner, edge or side of the overall box by its sides "
    "(corner:-x,-y,-z), a point as received (x,y,z in metres), as-received"
)
_OUT = ", ".join(item.suffix for item in FORMATS.values())


def add_options(make: argparse.ArgumentParser) -> None:
    """All of them."""
    make.add_argument("file", type=Path, nargs="+", help="one source, or several to be joined")
    make.add_argument("-o", "--out", type=Path, required=True, help=f"what to write: {_OUT}")
    density = make.add_mutually_exclusive_group()
    density.add_argument("--chord", metavar="LENGTH", help="chord error with its unit: 0.1mm, 1/32in")
    density.add_argument(
        "--chord-relative", type=float, metavar="SHARE", help="chord error as a share of each part's size"
    )
    make.add_argument(
        "--purpose", choices=tuple(PURPOSES), help="chord error and angle to start from; options above win"
    )
    make.add_argument(
        "--override", metavar="KIND=NAME:SETTINGS", action="append",
        help="what is different for some parts: 'layer=Rails:chord=0.1mm,angle=5deg', 'smaller=100mm:share=0.002'",
    )  # fmt: skip
    make.add_argument("--angle", metavar="ANGLE", help="largest angle between facets: 20deg")
    make.add_argument(
        "--min-edge", metavar="LENGTH", help="sides of triangles no shorter than this where form allows: 2mm"
    )
    make.add_argument(
        "--slivers", metavar="PERCENT", type=float,
        help="cut long thin triangles across, for so many more triangles of a part at the most: 10",
    )  # fmt: skip
    make.add_argument("--max-edge", metavar="LENGTH", help="sides of triangles no longer than this: 50mm")
    make.add_argument(
        "--segments", type=int, metavar="N", help="segments for each drawn curve, instead of chord and angle"
    )
    make.add_argument("--height", metavar="[LAYER=]LENGTH", action="append", help="how high outlines stand: Walls=2.6m")
    make.add_argument("--fill", choices=("written", "united", "alternating"), help="which areas of outlines are solid")
    make.add_argument("--wall", metavar="LENGTH[,SIDE]", help="a ring along outlines: 2mm,outward (inward, both)")
    make.add_argument("--close", metavar="LENGTH", help="close outlines whose ends are no farther apart")
    make.add_argument("--nozzle", metavar="LENGTH", help="look for walls thinner than this")
    make.add_argument("--thicken", action="store_true", help="make walls that are too thin as wide as the nozzle")
    make.add_argument("--width", metavar="LENGTH", help="scale every drawing so that it is so wide")
    make.add_argument("--page", action="store_true", help="width is of the page, not of what is drawn on it")
    make.add_argument("--svg-unit", metavar="UNIT", help=SVG_UNIT)
    make.add_argument("--clean-svg", type=Path, metavar="FILE", help="save the SVG without what is foreign to it")
    make.add_argument("--unit", help="unit that the numbers in every file stand for")
    make.add_argument("--source-unit", metavar="[NAME=]UNIT", action="append", help=OWN_UNIT)
    make.add_argument("--take", metavar="KIND=NAME", action="append", help="of its kind take only this: storey=Loft")
    make.add_argument("--leave", metavar="KIND=NAME", action="append", help="leave this out: layer=Survey")
    make.add_argument("--within", metavar="CORNERS", help="take what touches a polygon, in metres: '0,0 12,0 12,8'")
    make.add_argument("--cut", action="store_true", help="cut at the polygon's edge")
    make.add_argument("--up", choices=AXES, help="axis that points up in the file")
    make.add_argument("--known-length", metavar="POINTS=LENGTH", action="append", help=_KNOWN)
    make.add_argument("--sure", action="store_true", help="also where a known length makes a grain of sand or a city")
    make.add_argument("--turn", metavar="AXIS=ANGLE", action="append", help="turn all about an axis: x=90deg, z=-30deg")
    make.add_argument("--origin", metavar="WHERE", help=_ORIGIN)
    make.add_argument(
        "--ground",
        metavar="LENGTH",
        nargs="?",
        const="0mm",
        help="stand on the ground by the lowest point, or so much above",
    )
    make.add_argument("--into-mesh", action="store_true", help="scale, turn and place go into every mesh")
    for operation in OPERATIONS.values():
        if operation.option is not None:
            option = operation.option
            lone: dict[str, Any] = {"nargs": "?", "const": option.alone} if option.alone else {}
            make.add_argument(f"--{operation.name()}", metavar=option.metavar, help=option.help, **lone)
    make.add_argument("--split", action="store_true", help="every loose shell becomes a part of its own")
    add_facet_options(make)
    add_trim_options(make)
    add_sort_options(make)
    make.add_argument(
        "--level", metavar="NAME", help="level of detail, of those in the decisions; full is always there"
    )
    make.add_argument("--to-unit", help="length of one unit in what is written")
    make.add_argument("--to-up", choices=AXES, help="axis that points up in what is written")
    make.add_argument(
        "--polygons",
        nargs="?",
        const="flats",
        choices=("flats", "quads", "both"),
        help="faces of more than three corners, where the format has such: what is flat in few convex ones, good quads, or both",
    )
    make.add_argument("--flat-colours", action="store_true", help="each material is one flat colour, easily told")
    make.add_argument("--to-hand", choices=("right", "left"), help="handedness of the axes in what is written")
    make.add_argument(
        "--textures", choices=("inside", "beside", "none"), help="where pictures go: in the file, beside it, nowhere"
    )
    make.add_argument("--texture-limit", type=int, metavar="PIXELS", help="largest side of a picture")
    make.add_argument(
        "--separate", metavar="PART", action="append", nargs="?", const="",
        help="a mesh at every place, instead of one with instances: of all parts, or of the one that is named",
    )  # fmt: skip
    make.add_argument("--longest-name", type=int, metavar="N", help="letters that a name may have in what is written")
    make.add_argument("--plain-names", action="store_true", help="names of A to Z, digits, dash and underscore only")
    make.add_argument("--group", choices=GROUPS, help="what one mesh is when shipped")
    make.add_argument("--decisions", type=Path, metavar="FILE", help="decisions as JSON; options above win")
    make.add_argument("--json", action="store_true", help="print outputs and receipt as JSON")
