"""The command line: inspect and convert, with no server and no database."""

import argparse
import hashlib
import json
import os
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from importlib import import_module
from pathlib import Path
from threading import Thread
from typing import Any, NoReturn

from pydantic import ValidationError

from hemp_ladder.cli.fitting import made_true, placed, places_asked
from hemp_ladder.cli.mending import parts_told, unmended, with_split
from hemp_ladder.cli.settings import decided, with_units, with_width
from hemp_ladder.cli.sources import own_units, receive_all
from hemp_ladder.cli.telling import describe, tell
from hemp_ladder.core.choose.nothing import why_nothing
from hemp_ladder.core.choose.take import climb_take
from hemp_ladder.core.climb import Result, climb
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import LadderError, SettingsError
from hemp_ladder.core.findings import Finding, finding
from hemp_ladder.core.fit import climb_fit
from hemp_ladder.core.fit.settings import AXES
from hemp_ladder.core.mend import MendSettings
from hemp_ladder.core.model.join import Joined, join
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.operations import OPERATIONS
from hemp_ladder.core.receive.readers import reader_for
from hemp_ladder.core.receive.review import review
from hemp_ladder.core.ship.formats import FORMATS, format_of
from hemp_ladder.core.units import UNITS, Unit, unit
from hemp_ladder.work.children import Crew
from hemp_ladder.work.meshing.shelf import MemoryShelf
from hemp_ladder.work.receiving.reading import SourceRefused

DONE, WRONG_USAGE, UNREADABLE, RECEIPT_FAILED = 0, 2, 3, 4


def main(arguments: list[str] | None = None) -> int:
    """Run one command; returns the exit code."""
    options = _parser().parse_args(arguments)
    try:
        code: int = options.run(options)
    except SourceRefused as refused:
        _say(refused.message, refused.remedy)
        if options.json:
            _print({"findings": [refused.finding.as_dict()]})
        return UNREADABLE
    except (SettingsError, ValidationError) as error:
        _say(_sentence(error))
        return WRONG_USAGE
    except KeyboardInterrupt:
        _say("Stopped.")
        return 130
    except BrokenPipeError:
        # Whoever reads along has read enough. Nothing more may be written there, not even at exit.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return DONE
    return code


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="ladder", description="CAD in, render-ready meshes out.")
    commands = parser.add_subparsers(required=True, metavar="command")
    look = commands.add_parser("inspect", help="say what a file declares, before any meshing")
    look.add_argument("file", type=Path, nargs="+")
    look.add_argument("--source-unit", metavar="[NAME=]UNIT", action="append", help=_OWN_UNIT)
    look.add_argument("--svg-unit", metavar="UNIT", help=_SVG_UNIT)
    look.add_argument("--clean-svg", type=Path, metavar="FILE", help="save an SVG without what is foreign to it")
    look.add_argument("--json", action="store_true", help="print everything as JSON")
    look.set_defaults(run=_inspect)
    make = commands.add_parser("convert", help="mesh a file and prove what was written")
    make.add_argument("file", type=Path, nargs="+", help="one source, or several to be joined")
    make.add_argument("-o", "--out", type=Path, required=True, help=f"what to write: {_OUT}")
    density = make.add_mutually_exclusive_group()
    density.add_argument("--chord", metavar="LENGTH", help="chord error with its unit: 0.1mm, 1/32in")
    density.add_argument(
        "--chord-relative", type=float, metavar="SHARE", help="chord error as a share of each part's size"
    )
    make.add_argument("--angle", metavar="ANGLE", help="largest angle between facets: 20deg")
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
    make.add_argument("--svg-unit", metavar="UNIT", help=_SVG_UNIT)
    make.add_argument("--clean-svg", type=Path, metavar="FILE", help="save the SVG without what is foreign to it")
    make.add_argument("--unit", help="unit that the numbers in every file stand for")
    make.add_argument("--source-unit", metavar="[NAME=]UNIT", action="append", help=_OWN_UNIT)
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
            make.add_argument(f"--{operation.name()}", metavar=operation.option.metavar, help=operation.option.help)
    make.add_argument("--split", action="store_true", help="every loose shell becomes a part of its own")
    make.add_argument(
        "--level", metavar="NAME", help="level of detail, of those in the decisions; full is always there"
    )
    make.add_argument("--to-unit", help="length of one unit in what is written")
    make.add_argument("--to-up", choices=AXES, help="axis that points up in what is written")
    make.add_argument("--to-hand", choices=("right", "left"), help="handedness of the axes in what is written")
    make.add_argument(
        "--textures", choices=("inside", "beside", "none"), help="where pictures go: in the file, beside it, nowhere"
    )
    make.add_argument("--texture-limit", type=int, metavar="PIXELS", help="largest side of a picture")
    make.add_argument("--group", choices=("part", "material", "one"))
    make.add_argument("--decisions", type=Path, metavar="FILE", help="decisions as JSON; options above win")
    make.add_argument("--json", action="store_true", help="print outputs and receipt as JSON")
    make.set_defaults(run=_convert)
    return parser


_KNOWN = (
    "make a distance true: two points in the source's coordinates and how far apart they should be: "
    '"0,0,0 100,0,0 = 13\' 1 15/16\\""; with several sources, the source\'s name and a colon before them'
)
_ORIGIN = (
    "what becomes the origin: centre, base-centre, a corner, edge or side of the overall box by its sides "
    "(corner:-x,-y,-z), a point as received (x,y,z in metres), as-received"
)
_OWN_UNIT = "unit that the numbers in a source stand for, by the source's name"
_SVG_UNIT = "what one user unit of an SVG stands for: px (1/96 in) or mm, or any other unit"
_OUT = ", ".join(item.suffix for item in FORMATS.values())


def _inspect(options: argparse.Namespace) -> int:
    with Crew(1) as crew, tempfile.TemporaryDirectory() as folder:
        sources = receive_all(options.file, Path(folder), crew, {}, lambda stage, count: None)
    _save_clean(options)
    units = own_units(options, sources)
    for given in sources:
        if given.ref in units:
            _state(given.model, unit(units[given.ref]))
    if options.json:
        told = [describe(given.model) for given in sources]
        _print(
            told[0]
            if len(told) == 1
            else {"sources": [{"name": g.name, **t} for g, t in zip(sources, told, strict=True)]}
        )
        return DONE
    for given in sources:
        tell(given, len(sources) > 1)
    return DONE


def _save_clean(options: argparse.Namespace) -> None:
    """Write the one SVG among the files without what is foreign to it."""
    if not options.clean_svg:
        return
    found = [
        (file, clean) for file in options.file if (reader := reader_for(file)) is not None and (clean := reader.clean)
    ]
    if len(found) != 1:
        raise SettingsError(f"One SVG is cleaned at a time; there are {len(found)} among the files.")
    file, clean = found[0]
    options.clean_svg.write_bytes(clean(file))


def _state(model: Model, stated: Unit) -> None:
    """Take the numbers in the source for ones of the stated unit."""
    declared = UNITS[model.unit].metres if model.unit else model.metres_per_coordinate
    model.metres_per_coordinate *= stated.metres / declared
    model.unit = stated.code
    about_size = ("unit-missing", "unit-doubtful", "unit-odd", "far-from-origin")
    kept = [item for item in model.findings if item.code not in about_size]
    model.findings = []
    model.findings = [*(item for item in review(model) if item.code in about_size), *kept]


def _convert(options: argparse.Namespace) -> int:
    form = format_of(options.out.suffix.lower().removeprefix(".")).code
    if not options.out.parent.is_dir():
        raise SettingsError(f"There is no folder “{options.out.parent}” to write into.")
    decisions, places = decided(options, form), places_asked(options)
    bar = Bar(sys.stderr.isatty())
    shapes: dict[str, bytes] = {}
    with Crew() as crew, tempfile.TemporaryDirectory() as folder, _importing("hemp_ladder.core.ship.readback"):
        crew.warm()
        sources = receive_all(options.file, Path(folder), crew, shapes, lambda stage, count: bar.show(stage, count, 0))
        _save_clean(options)
        decisions = with_units(decisions, own_units(options, sources))
        decisions = with_width(decisions, options, [given.ref for given in sources])
        model = join(sources)
        decisions = made_true(options, model, decisions, _say)
        shelf = MemoryShelf(shapes, crew, lambda done, total: bar.show("facets", done, total))
        result = climb(model, decisions, shelf, decisions.ship.target.level)
        fitted = placed(places, result, with_split(options, result, decisions))
        if fitted != decisions:
            # Where only places change, every mesh is on the shelf already; of what was split, its beginning is.
            decisions, result = fitted, climb(model, fitted, shelf, fitted.ship.target.level)
        before = result
        if options.json and decisions.mend != MendSettings():
            before = climb(model, unmended(decisions), shelf, decisions.ship.target.level)
    # Imported late: the readers that prove a file are of no use to `inspect`.
    from hemp_ladder.core.facet.review import review_meshes
    from hemp_ladder.core.mend.review import review_mend
    from hemp_ladder.core.ship.deliver import climb_ship

    noticed = review_meshes(
        result.fitted, result.chains, result.flipped, result.figures, result.times, result.made.failed
    )
    if not result.triangles:
        bar.end()
        refusal = next((f for f in noticed if f.severity == "error"), None)
        raise SourceRefused(refusal or _nothing(model, decisions))
    shipped = climb_ship(
        result, decisions.ship.target, options.out, lambda stage: bar.show(stage, 0, 0), shapes.__getitem__
    )
    bar.end()
    noticed += review_mend(result.fitted, result.chains, result.figures, result.times)
    findings = [*model.findings, *noticed]
    if options.json:
        report = _report(shipped.paths, result, shipped.receipt.as_dict(), findings)
        _print(report | {"by_part": parts_told(before, result)})
    else:
        for path in shipped.paths:
            print(f"{path}  {path.stat().st_size:,} bytes")
        print(f"{result.triangles:,} triangles, {len(result.sorted.placements):,} placements")
        for item in findings:
            print(f"{item.severity}: {item.where}: {item.message}")
    if shipped.receipt.ok:
        return DONE
    for check in shipped.receipt.checks:
        if not check.ok:
            _say(f"Receipt: {check.name} should be {check.expected} and is {check.found}.")
    return RECEIPT_FAILED


@contextmanager
def _importing(module: str) -> Iterator[None]:
    """Import it beside what is done: reading keeps one core busy, the readers that prove a file come in on the other.
    Waited for in any case: Python must not end in the middle of it."""
    thread = Thread(target=import_module, args=(module,))
    thread.start()
    try:
        yield
    finally:
        thread.join()


def _nothing(model: Joined, decisions: Decisions) -> Finding:
    """The finding that says why nothing was made."""
    taken = climb_take(climb_fit(model, decisions.fit), decisions.receive, decisions.facet.segments)
    message, remedy = why_nothing(taken)
    return finding("empty-model", model.format, message, remedy)


def _report(paths: list[Path], result: Result, receipt: dict[str, Any], findings: list[Finding]) -> dict[str, Any]:
    box = result.box
    return {
        "outputs": [{"path": str(path), "bytes": path.stat().st_size, "sha256": _sha256(path)} for path in paths],
        "parts": sum(1 for chain in result.chains if chain is not None),
        "placements": len(result.sorted.placements),
        "triangles": result.triangles,
        "vertices": result.vertices,
        "effects": _effects(result),
        "size_m": [round(float(side), 9) for side in box[1] - box[0]],
        "receipt": receipt,
        "findings": [item.as_dict() for item in findings],
    }


def _effects(result: Result) -> dict[str, float]:
    """What each operation did, over all placements."""
    total: dict[str, float] = {}
    for chain, times in zip(result.chains, result.times, strict=True):
        for name, effect in (
            result.figures[chain.key].effects if chain and chain.key in result.figures else {}
        ).items():
            total[name] = total.get(name, 0.0) + effect * times
    return total


class Bar:
    """Progress on a terminal; silent elsewhere."""

    def __init__(self, shown: bool) -> None:
        self._shown = shown

    def show(self, stage: str, done: int, total: int) -> None:
        if not self._shown:
            return
        share = done / total if total else 0
        bar = "█" * round(24 * share) + "·" * (24 - round(24 * share)) if total else ""
        count = f"{done:,}/{total:,}" if total else f"{done:,}" if done else ""
        sys.stderr.write(f"\r\033[K{stage:<12} {bar} {count}")
        sys.stderr.flush()

    def end(self) -> None:
        if self._shown:
            sys.stderr.write("\r\033[K")


def _sha256(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _sentence(error: Exception) -> str:
    if isinstance(error, ValidationError):
        first = error.errors()[0]
        where = ".".join(str(step) for step in first["loc"])
        return f"{where or 'The decisions'}: {first['msg']}."
    if isinstance(error, LadderError) and error.remedy:
        return f"{error.message} {error.remedy}"
    return str(error)


def _say(*sentences: str) -> None:
    print(" ".join(sentence for sentence in sentences if sentence), file=sys.stderr)


def _print(value: Any) -> None:
    json.dump(value, sys.stdout, ensure_ascii=False, indent=2)
    sys.stdout.write("\n")


def run() -> NoReturn:
    sys.exit(main())
