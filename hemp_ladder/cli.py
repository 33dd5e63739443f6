"""The command line: inspect and convert, with no server and no database."""

import argparse
import hashlib
import json
import sys
import tempfile
from importlib import import_module
from pathlib import Path
from threading import Thread
from typing import Any, NoReturn

import numpy as np
from pydantic import ValidationError

from hemp_ladder.core.climb import Result, climb
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import LadderError, SettingsError
from hemp_ladder.core.findings import Finding
from hemp_ladder.core.model import Model
from hemp_ladder.core.units import parse_angle, parse_length, unit
from hemp_ladder.work.children import Crew
from hemp_ladder.work.receiving import Ears, SourceRefused, receive_files
from hemp_ladder.work.shelf import MemoryShelf

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
    return code


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="ladder", description="CAD in, render-ready meshes out.")
    commands = parser.add_subparsers(required=True, metavar="command")
    look = commands.add_parser("inspect", help="say what a file declares, before any meshing")
    look.add_argument("file", type=Path)
    look.add_argument("--json", action="store_true", help="print everything as JSON")
    look.set_defaults(run=_inspect)
    make = commands.add_parser("convert", help="mesh a file and prove what was written")
    make.add_argument("file", type=Path)
    make.add_argument("-o", "--out", type=Path, required=True, help="what to write: .glb, .obj or .stl")
    density = make.add_mutually_exclusive_group()
    density.add_argument("--chord", metavar="LENGTH", help="chord error with its unit: 0.1mm, 1/32in")
    density.add_argument(
        "--chord-relative", type=float, metavar="SHARE", help="chord error as a share of each part's size"
    )
    make.add_argument("--angle", metavar="ANGLE", help="largest angle between facets: 20deg")
    make.add_argument("--unit", help="unit that the numbers in the file stand for")
    make.add_argument("--up", choices=_AXES, help="axis that points up in the file")
    make.add_argument("--to-unit", help="length of one unit in what is written")
    make.add_argument("--to-up", choices=_AXES, help="axis that points up in what is written")
    make.add_argument("--group", choices=("part", "material", "one"))
    make.add_argument("--decisions", type=Path, metavar="FILE", help="decisions as JSON; options above win")
    make.add_argument("--json", action="store_true", help="print outputs and receipt as JSON")
    make.set_defaults(run=_convert)
    return parser


_AXES = ("x", "-x", "y", "-y", "z", "-z")


def _inspect(options: argparse.Namespace) -> int:
    with Crew(1) as crew, tempfile.TemporaryDirectory() as folder:
        model = _receive(options.file, folder, crew, {}, Bar(False))
    report = describe(model)
    if options.json:
        _print(report)
        return DONE
    width = max(len(key) for key in report)
    for key, value in report.items():
        if key == "size_m":
            value = " × ".join(f"{side:.4f}" for side in value) + " m"
        elif key == "findings":
            continue
        elif isinstance(value, list):
            value = ", ".join(value) or "none"
        print(f"{key:<{width}}  {value if value is not None else 'not declared'}")
    for item in model.findings:
        print(f"{item.severity}: {item.message} {item.remedy}")
    return DONE


def describe(model: Model) -> dict[str, Any]:
    """What `inspect --json` prints: sizes in metres after the declared unit, in the file's own axes."""
    scale = float(model.metres_per_coordinate)
    return {
        "format": model.format,
        "schema": model.schema,
        "unit": model.unit,
        "up": model.up,
        "parts": sum(1 for part in model.parts if part.faces),
        "placements": len(model.placements),
        "layers": model.layers,
        "materials": model.colours(),
        "size_m": [round(float(side), 9) for side in np.ptp(model.box, axis=0) * scale],
        "findings": [item.as_dict() for item in model.findings],
    }


def _convert(options: argparse.Namespace) -> int:
    form = options.out.suffix.lower().removeprefix(".")
    if form not in ("glb", "obj", "stl"):
        raise SettingsError(f"“{options.out.suffix}” is no format that is written here. Use .glb, .obj or .stl.")
    if not options.out.parent.is_dir():
        raise SettingsError(f"There is no folder “{options.out.parent}” to write into.")
    decisions = _decisions(options, form)
    bar = Bar(sys.stderr.isatty())
    shapes: dict[str, bytes] = {}
    with Crew() as crew, tempfile.TemporaryDirectory() as folder:
        crew.warm()
        # Reading keeps one core busy; the readers that prove a file are imported on the other.
        Thread(target=import_module, args=("hemp_ladder.core.ship.deliver",), daemon=True).start()
        model = _receive(options.file, folder, crew, shapes, bar)
        shelf = MemoryShelf(shapes, crew, lambda done, total: bar.show("facets", done, total))
        result = climb(model, decisions, shelf)
    # Imported late: the readers that prove a file are of no use to `inspect`.
    from hemp_ladder.core.facet.review import review_meshes
    from hemp_ladder.core.ship.deliver import climb_ship

    noticed = review_meshes(result.fitted, result.requests, result.flipped, result.meshes, result.times)
    if not result.triangles:
        refusal = next((f for f in [*noticed, *model.findings] if f.severity == "error"), None)
        bar.end()
        if refusal is not None:
            raise SourceRefused(refusal)
    shipped = climb_ship(result, decisions.ship.target, options.out, lambda stage: bar.show(stage, 0, 0))
    bar.end()
    findings = [*model.findings, *noticed]
    if options.json:
        _print(_report(shipped.paths, result, shipped.receipt.as_dict(), findings))
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


def _report(paths: list[Path], result: Result, receipt: dict[str, Any], findings: list[Finding]) -> dict[str, Any]:
    box = result.box
    return {
        "outputs": [{"path": str(path), "bytes": path.stat().st_size, "sha256": _sha256(path)} for path in paths],
        "parts": sum(1 for request in result.requests if request is not None),
        "placements": len(result.sorted.placements),
        "triangles": result.triangles,
        "vertices": result.vertices,
        "size_m": [round(float(side), 9) for side in box[1] - box[0]],
        "receipt": receipt,
        "findings": [item.as_dict() for item in findings],
    }


def _receive(file: Path, folder: str, crew: Crew, shapes: dict[str, bytes], bar: "Bar") -> Model:
    """Read one file with the files beside it that it may refer to."""
    if not file.is_file():
        raise SettingsError(f"There is no file “{file}”.")
    files = [(file.name, file)]
    from hemp_ladder.core.receive.bundle import beside

    files += [(path.name, path) for path in beside(file)]
    ears = Ears(shape=shapes.__setitem__, stage=lambda stage, count: bar.show(stage, count, 0))
    return receive_files(files, Path(folder), crew, ears)


def _decisions(options: argparse.Namespace, form: str) -> Decisions:
    """The decisions file, if any, with the options laid over it."""
    data: dict[str, Any] = {}
    if options.decisions:
        try:
            data = json.loads(options.decisions.read_text(encoding="utf-8"))
        except (OSError, ValueError) as error:
            raise SettingsError(f"The decisions in “{options.decisions}” cannot be read: {error}.") from error
    base = Decisions.model_validate(data).model_dump(mode="json")
    fit, facet, target = base["fit"], base["facet"], base["ship"]["target"]
    if options.chord:
        facet["chord"] = {"kind": "absolute", "metres": float(parse_length(options.chord))}
    if options.chord_relative is not None:
        facet["chord"] = {"kind": "relative", "share": options.chord_relative}
    if options.angle:
        facet["degrees"] = float(np.degrees(parse_angle(options.angle)))
    if options.unit:
        fit["unit"] = unit(options.unit).code
    if options.up:
        fit["up"] = options.up
    target["format"] = form
    if options.to_unit:
        target["unit"] = unit(options.to_unit).code
    if options.to_up:
        target["up"] = options.to_up
    if options.group:
        target["group"] = options.group
    return Decisions.model_validate(base)


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
