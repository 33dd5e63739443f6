"""The command line: inspect and convert, with no server and no database."""

import argparse
import os
import sys
import tempfile
from pathlib import Path
from typing import NoReturn

from pydantic import ValidationError

from hemp_ladder.cli.sources import OWN_UNIT, SVG_UNIT, own_units, receive_all, save_clean
from hemp_ladder.cli.telling import describe, tell
from hemp_ladder.cli.terminal import DONE, print_json, say
from hemp_ladder.core.errors import LadderError, SettingsError
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.review import review
from hemp_ladder.core.units import UNITS, Unit, unit
from hemp_ladder.work.children import Crew
from hemp_ladder.work.receiving.reading import SourceRefused

WRONG_USAGE, UNREADABLE = 2, 3


def main(arguments: list[str] | None = None) -> int:
    """Run one command; returns the exit code."""
    told = sys.argv[1:] if arguments is None else arguments
    options = _parser(told[:1] == ["inspect"]).parse_args(told)
    try:
        code: int = options.run(options)
    except SourceRefused as refused:
        say(refused.message, refused.remedy)
        if options.json:
            print_json({"findings": [refused.finding.as_dict()]})
        return UNREADABLE
    except (SettingsError, ValidationError) as error:
        say(_sentence(error))
        return WRONG_USAGE
    except KeyboardInterrupt:
        say("Stopped.")
        return 130
    except BrokenPipeError:
        # Whoever reads along has read enough. Nothing more may be written there, not even at exit.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return DONE
    return code


def _parser(to_inspect: bool) -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="ladder", description="CAD in, render-ready meshes out.")
    commands = parser.add_subparsers(required=True, metavar="command")
    look = commands.add_parser("inspect", help="say what a file declares, before any meshing")
    look.add_argument("file", type=Path, nargs="+")
    look.add_argument("--source-unit", metavar="[NAME=]UNIT", action="append", help=OWN_UNIT)
    look.add_argument("--svg-unit", metavar="UNIT", help=SVG_UNIT)
    look.add_argument("--clean-svg", type=Path, metavar="FILE", help="save an SVG without what is foreign to it")
    look.add_argument("--json", action="store_true", help="print everything as JSON")
    look.set_defaults(run=_inspect)
    make = commands.add_parser("convert", help="mesh a file and prove what was written")
    if not to_inspect:
        # All that converting takes is half of what there is to import.
        from hemp_ladder.cli.convert import convert
        from hemp_ladder.cli.options import add_options

        add_options(make)
        make.set_defaults(run=convert)
    return parser


def _inspect(options: argparse.Namespace) -> int:
    with Crew(1) as crew, tempfile.TemporaryDirectory() as folder:
        sources = receive_all(options.file, Path(folder), crew, {}, lambda stage, count: None)
    save_clean(options)
    units = own_units(options, sources)
    for given in sources:
        if given.ref in units:
            _state(given.model, unit(units[given.ref]))
    if options.json:
        told = [describe(given.model) for given in sources]
        print_json(
            told[0]
            if len(told) == 1
            else {"sources": [{"name": g.name, **t} for g, t in zip(sources, told, strict=True)]}
        )
        return DONE
    for given in sources:
        tell(given, len(sources) > 1)
    return DONE


def _state(model: Model, stated: Unit) -> None:
    """Take the numbers in the source for ones of the stated unit."""
    declared = UNITS[model.unit].metres if model.unit else model.metres_per_coordinate
    model.metres_per_coordinate *= stated.metres / declared
    model.unit = stated.code
    about_size = ("unit-missing", "unit-doubtful", "unit-odd", "far-from-origin")
    kept = [item for item in model.findings if item.code not in about_size]
    model.findings = []
    model.findings = [*(item for item in review(model) if item.code in about_size), *kept]


def _sentence(error: Exception) -> str:
    if isinstance(error, ValidationError):
        first = error.errors()[0]
        where = ".".join(str(step) for step in first["loc"])
        return f"{where or 'The decisions'}: {first['msg']}."
    if isinstance(error, LadderError) and error.remedy:
        return f"{error.message} {error.remedy}"
    return str(error)


def run() -> NoReturn:
    """As a process of its own, which ends at once: to take apart all that a large model left in memory takes half a second,
    and there is nothing left to do."""
    code = main()
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(code)
