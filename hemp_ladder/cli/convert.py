"""Convert: files in, meshes out, with what was proved of them."""

import argparse
import hashlib
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import partial
from importlib import import_module
from pathlib import Path
from threading import Thread
from typing import Any

from hemp_ladder.cli.faceting import faceted
from hemp_ladder.cli.fitting import made_true, placed, places_asked
from hemp_ladder.cli.mending import parts_told, untouched, with_split
from hemp_ladder.cli.settings import decided, sized_later, with_units, with_width
from hemp_ladder.cli.sorting import sort_told, with_copies, with_sort, without_hidden, without_leftovers
from hemp_ladder.cli.sources import own_units, receive_all, save_clean
from hemp_ladder.cli.terminal import DONE, Bar, print_json, say
from hemp_ladder.cli.trimming import aimed, goal_of_all, lighter_levels, limit_lines, limits_told, with_trim
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.choose.nothing import why_nothing
from hemp_ladder.core.choose.take import climb_take
from hemp_ladder.core.climb import Result, climb, plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.findings import Finding, finding
from hemp_ladder.core.fit import climb_fit
from hemp_ladder.core.mesh.figures import effects_in_all
from hemp_ladder.core.model.join import Given, Joined, join
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.model.references import bind, name_parts
from hemp_ladder.core.ship.formats import format_of
from hemp_ladder.core.ship.names import file_stem
from hemp_ladder.core.ship.proven import facets_told
from hemp_ladder.work.children import Crew
from hemp_ladder.work.meshing.ahead import Ahead
from hemp_ladder.work.meshing.shelf import MemoryShelf
from hemp_ladder.work.receiving.reading import SourceRefused

RECEIPT_FAILED = 4


@dataclass(frozen=True)
class _Climbed:
    """What the decisions come to: at the level asked for, before anything was mended or trimmed, and at lighter levels."""

    model: Joined
    decisions: Decisions
    result: Result
    before: Result
    lighter: dict[str, Result]
    worked_out: dict[str, Any]


def convert(options: argparse.Namespace) -> int:
    """Run it; returns the exit code."""
    form = format_of(options.out.suffix.lower().removeprefix("."))
    if not options.out.parent.is_dir():
        raise SettingsError(f"There is no folder “{options.out.parent}” to write into.")
    form.load_early()
    bar = Bar(sys.stderr.isatty())
    shapes: dict[str, bytes] = {}
    with _importing("hemp_ladder.core.ship.readback"):
        done = _climb(options, with_sort(options, with_trim(options, decided(options, form.code))), shapes, bar)
    # Imported late: the readers that prove a file are of no use to `inspect`.
    from hemp_ladder.core.facet.review import review_meshes
    from hemp_ladder.core.mend.review import review_mend
    from hemp_ladder.core.ship.deliver import climb_ship, name_each_other
    from hemp_ladder.core.trim.review import review_trim

    decisions, result = done.decisions, done.result
    noticed = review_meshes(
        result.fitted, result.chains, result.flipped, result.figures, result.times, result.made.failed
    )
    if not result.triangles:
        bar.end()
        refusal = next((f for f in noticed if f.severity == "error"), None)
        raise SourceRefused(refusal or _nothing(done.model, decisions))
    target = decisions.ship.target
    climbs = {target.level: result, **done.lighter}
    shipped = name_each_other({
        level: climb_ship(
            climbs[level], target.model_copy(update={"level": level}), _path(options.out, level, target.level),
            lambda stage: bar.show(stage, 0, 0), shapes.__getitem__,
        )
        for level in climbs
    })  # fmt: skip
    bar.end()
    noticed += review_mend(result.fitted, result.chains, result.figures, result.times)
    for level, item in climbs.items():
        noticed += review_trim(item.fitted, {level: item.chains}, item.figures, item.times, decisions.trim.lost)
    findings = [*done.model.findings, *noticed]
    receipts = [item.receipt for item in shipped.values()]
    limits = limits_told(result, decisions)
    if options.json:
        own = shipped[target.level]
        report = _report(own.paths, result, own.receipt.as_dict(), findings)
        report["by_part"] = parts_told(done.before, result)
        report |= {"limit": limits} if limits else {}
        report["facet"] = {**facets_told(result), **done.worked_out}
        report["sort"] = sort_told(result, decisions)
        beside = [
            {"level": level, **_report(shipped[level].paths, item, shipped[level].receipt.as_dict(), []),
             "by_part": parts_told(result, item)}
            for level, item in done.lighter.items()
        ]  # fmt: skip
        report |= {"levels": beside} if beside else {}
        print_json(report)
    else:
        for level, item in climbs.items():
            for path in shipped[level].paths:
                print(f"{path}  {path.stat().st_size:,} bytes")
            print(f"{item.triangles:,} triangles, {len(item.sorted.placements):,} placements")
        for line in limit_lines(limits) if limits else ():
            print(line)
        for noted in findings:
            print(f"{noted.severity}: {noted.where}: {noted.message}")
    if all(receipt.ok for receipt in receipts):
        return DONE
    for check in (check for receipt in receipts for check in receipt.checks):
        if not check.ok:
            say(f"Receipt: {check.name} should be {check.expected} and is {check.found}.")
    return RECEIPT_FAILED


def _climb(options: argparse.Namespace, decisions: Decisions, shapes: dict[str, bytes], bar: Bar) -> _Climbed:
    """Read the files and climb, as often as what is asked needs to be seen first."""
    places, goal = places_asked(options), goal_of_all(options)
    with (
        Crew() as crew,
        tempfile.TemporaryDirectory() as folder,
        Ahead(crew, shapes, partial(_alone, decisions)) as ahead,
    ):
        crew.warm(1)
        sources = receive_all(
            options.file, Path(folder), crew, shapes, lambda stage, count: bar.show(stage, count, 0),
            # While nobody knows how large they are to be, they would be meshed for nothing.
            (lambda model: None) if sized_later(options) else ahead.add,
        )  # fmt: skip
        save_clean(options)
        decisions = with_units(decisions, own_units(options, sources))
        decisions = with_width(decisions, options, [given.ref for given in sources])
        model = join(sources)
        decisions = bind(decisions, model.parts)
        decisions = without_leftovers(options, model, made_true(options, model, decisions, say), say)
        shelf = MemoryShelf(shapes, crew, lambda done, total: bar.show("facets", done, total), ahead)

        def climbed(now: Decisions) -> Result:
            return climb(model, now, shelf, now.ship.target.level)

        result = climbed(decisions)
        fitted = placed(places, result, with_split(options, result, decisions))
        if fitted != decisions:
            # Where only places change, every mesh is on the shelf already; of what was split, its beginning is.
            decisions, result = fitted, climbed(fitted)
        seen = without_hidden(options, model, result, decisions, crew, say)
        if seen != decisions:
            decisions, result = seen, climbed(seen)
        sharing = with_copies(options, result, decisions, say)
        if sharing != decisions:
            decisions, result = sharing, climbed(sharing)
        worked = faceted(options, result, decisions, climbed, crew, shapes.__getitem__, say)
        if worked.decisions != decisions:
            decisions, result = worked.decisions, climbed(worked.decisions)
        if goal is not None:
            decisions, result = aimed(goal, decisions, climbed, say)
        before = result
        if options.json and untouched(decisions) != decisions:
            before = climbed(untouched(decisions))
        lighter = {name: climb(model, decisions, shelf, name) for name in lighter_levels(decisions, options)}
    return _Climbed(model, decisions, result, before, lighter, worked.told)


def _alone(decisions: Decisions, model: Model) -> list[Chain]:
    """The chains of parts as they are where nothing is decided about one by itself."""
    planned = plan(join([Given("ahead", "ahead", name_parts(model))]), decisions)
    return [chain for chain in planned.levels.get(decisions.ship.target.level, ()) if chain is not None]


def _path(out: Path, level: str, own: str) -> Path:
    """Where a level is written: the one asked for where it was said, the others beside it with their names behind."""
    return out if level == own else out.with_name(f"{out.stem}-{file_stem(level, set())}{out.suffix}")


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
        "effects": effects_in_all(
            zip((result.figures.get(c.key) if c else None for c in result.chains), result.times, strict=True)
        ),
        "size_m": [round(float(side), 9) for side in box[1] - box[0]],
        "receipt": receipt,
        "findings": [item.as_dict() for item in findings],
    }


def _sha256(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
