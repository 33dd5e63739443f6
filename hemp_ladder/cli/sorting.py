"""Sort on the command line: rules from a file, names, groups, leftovers."""

import argparse
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar, get_args

from pydantic import ValidationError

from hemp_ladder.core.choose.take import climb_take
from hemp_ladder.core.climb import Result
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.fit import climb_fit
from hemp_ladder.core.lengths import parse_length
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.ship.format import Group
from hemp_ladder.core.sort.board import said
from hemp_ladder.core.sort.leftovers import TINY, dropped, leftovers
from hemp_ladder.core.sort.order.settings import Level, OrderSettings, Rename
from hemp_ladder.core.sort.sets import RuleSet, with_set
from hemp_ladder.core.sort.sharing import as_shared, shareable
from hemp_ladder.work.children import Crew

GROUPS: tuple[str, ...] = get_args(Group)
_BETWEEN = "=>"
_Checked = TypeVar("_Checked")


def add_options(make: argparse.ArgumentParser) -> None:
    """Those of Sort."""
    make.add_argument(
        "--rules", type=Path, metavar="FILE", action="append", help="rules as JSON, a set or a list of them"
    )
    make.add_argument(
        "--rename", metavar="HOW", action="append",
        help="rename all: a template such as '{layer}_{n}', or FIND=>TEXT, or /PATTERN/=>TEXT",
    )  # fmt: skip
    make.add_argument("--keep-names", action="store_true", help="what is well named already stays as it is")
    make.add_argument("--digits", type=int, metavar="N", default=1, help="digits of the numbers in names")
    make.add_argument(
        "--group-by", metavar="LEVELS", help=f"a tree of its own, level in level: {', '.join(get_args(Level))}"
    )
    make.add_argument(
        "--drop-leftovers", metavar="LENGTH", nargs="?", const=f"{TINY * 1000:g}mm",
        help="leave out hidden layers, copies in place, notes, what stands wholly inside others, and parts smaller than this",
    )  # fmt: skip
    make.add_argument(
        "--share-copies", metavar="LENGTH", nargs="?", const="0.01mm",
        help="parts of one shape up to a move, a turn or a mirror, so near, share it",
    )  # fmt: skip


def with_copies(
    options: argparse.Namespace, result: Result, decisions: Decisions, say: Callable[[str], None]
) -> Decisions:
    """The decisions with copies that were found among the meshes shared, where that is asked."""
    if options.share_copies is None:
        return decisions
    meshes = {part: mesh for part in sorted(result.fitted_parts) if (mesh := result.mesh_of(part)) is not None}
    scales = {part: float(result.fitted.scale_of(part)) for part in meshes}
    found = shareable(result.model, meshes, float(parse_length(options.share_copies)), scales)
    saved = sum(len(meshes[item.part].triangles) for item in found)
    mirrored = sum(item.mirrored for item in found)
    say(f"Shared: {len(found):,} copies, {mirrored:,} of them mirrored; {saved:,} triangles less to store.")
    sort = decisions.sort.model_copy(update={"shared": (*decisions.sort.shared, *as_shared(result.model, found))})
    return decisions.model_copy(update={"sort": sort})


def without_hidden(
    options: argparse.Namespace,
    model: Model,
    result: Result,
    decisions: Decisions,
    crew: Crew,
    say: Callable[[str], None],
) -> Decisions:
    """The decisions without what stands wholly inside something else, where leftovers are to be left out."""
    if options.drop_leftovers is None:
        return decisions
    meshes = {part: mesh for part in sorted(result.fitted_parts) if (mesh := result.mesh_of(part)) is not None}
    nodes = result.sorted.placements
    mask, _ = crew.run(
        "inside", meshes, result.sorted.parts, result.fitted.placements()[nodes], result.sorted.opaque()
    )  # fmt: skip
    if not mask.any():
        return decisions
    say(f"Left out: inside others, {int(mask.sum()):,} placements of {len(set(result.sorted.parts[mask])):,} parts.")
    taken = climb_take(climb_fit(model, decisions.fit), decisions.receive, decisions.facet.segments)
    receive = dropped(decisions.receive, taken, ["inside others"], inside=nodes[mask])
    return decisions.model_copy(update={"receive": receive})


def with_sort(options: argparse.Namespace, decisions: Decisions) -> Decisions:
    """The decisions with what the options say of rules, names and groups. Raises SettingsError for what makes no sense."""
    sort = decisions.sort
    for path in options.rules or ():
        sort = with_set(sort, _read(path))
    if options.rename:
        steps = tuple(_rename(text, options.keep_names, options.digits) for text in options.rename)
        sort = sort.model_copy(update={"names": (*sort.names, *steps)})
    if options.group_by:
        levels = [word.strip() for word in options.group_by.split(",") if word.strip()]
        order = _checked(lambda: OrderSettings.model_validate({**sort.order.model_dump(), "by": levels}), "--group-by")
        sort = sort.model_copy(update={"order": order})
    return decisions if sort is decisions.sort else decisions.model_copy(update={"sort": sort})


def without_leftovers(
    options: argparse.Namespace, model: Model, decisions: Decisions, say: Callable[[str], None]
) -> Decisions:
    """The decisions with leftovers left out, where that is asked; what those are is said."""
    if options.drop_leftovers is None:
        return decisions
    tiny = float(parse_length(options.drop_leftovers))
    taken = climb_take(climb_fit(model, decisions.fit), decisions.receive, decisions.facet.segments)
    found = [item for item in leftovers(taken, tiny) if item.placements]
    for item in found:
        say(f"Left out: {item.kind}, {item.placements:,} placements of {len(item.parts):,} parts.")
    receive = dropped(decisions.receive, taken, [item.kind for item in found], tiny)
    return decisions.model_copy(update={"receive": receive})


def sort_told(result: Result, decisions: Decisions) -> dict[str, Any]:
    """What Sort comes to: materials with their placements, rules that decide nothing, loose ends, groups and names."""
    sorted_ = result.sorted
    worn: dict[str, int] = {}
    used: set[int] = set()
    for number in sorted_.dress_of.tolist():
        dress = sorted_.dresses[number]
        used |= set(dress.rules)
        for id_ in dict.fromkeys(dress.materials):
            worn[sorted_.palette[id_].name] = worn.get(sorted_.palette[id_].name, 0) + 1
    tree, names = result.order.tree, result.order.names
    told: dict[str, Any] = {
        "materials": worn, "loose parts": len(sorted_.loose_parts()),
        "rules that decide nothing": [said(r) for n, r in enumerate(decisions.sort.rules) if n not in used],
    }  # fmt: skip
    if tree is not None:
        told["groups"] = {
            group.name: count for group, count in zip(tree.groups, tree.counts, strict=True) if group.parent < 0
        }
    if names is not None:
        told["names"] = {"clashes solved": names.clashes, "cut short": names.cut}
    return told


def _read(path: Path) -> RuleSet:
    try:
        told = json.loads(path.read_text("utf-8"))
    except OSError as error:
        raise SettingsError(f"The rules “{path.name}” cannot be read: {error.strerror}.") from error
    except ValueError as error:
        raise SettingsError(
            f"“{path.name}” is no JSON.", "Rules are a list, or a set as the rules board keeps it."
        ) from error
    if isinstance(told, list):
        told = {"rules": told}
    if isinstance(told, dict) and isinstance(told.get("sort"), dict):
        told = {name: told["sort"][name] for name in RuleSet.model_fields if name in told["sort"]}
    return _checked(lambda: RuleSet.model_validate(told), path.name)


def _rename(text: str, keep: bool, digits: int) -> Rename:
    find, between, to = text.partition(_BETWEEN)
    pattern = bool(between) and len(find) > 2 and find[0] == find[-1] == "/"
    told = {"find": find[1:-1] if pattern else find, "to": to} if between else {"to": text}
    return _checked(
        lambda: Rename.model_validate({**told, "pattern": pattern, "keep_good": keep, "digits": digits}), "--rename"
    )


def _checked(make: Callable[[], _Checked], where: str) -> _Checked:
    try:
        return make()
    except ValidationError as error:
        first = error.errors()[0]
        at = ".".join(map(str, first["loc"]))
        raise SettingsError(
            f"{where}: {at + ': ' if at else ''}{first['msg'].removeprefix('Value error, ')}."
        ) from error
