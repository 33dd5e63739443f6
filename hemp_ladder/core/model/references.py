"""What decisions call parts: by names along the path and by geometry, so that nothing else in the file changes it.

A reference is the part's name and eight digits: four of a hash of the names
from the root to its first place, four of its geometry's key. Another part of
the same name inserted before it changes neither. Where a reference is held
against a model it does not come from, as after a new revision, it finds the
part that is the same but for its place, or else the one in its place.
"""

import hashlib
import re
from collections import defaultdict
from collections.abc import Mapping, Sequence
from typing import TypeVar

from pydantic import BaseModel

from hemp_ladder.core.model.labels import plain
from hemp_ladder.core.model.model import Model, Part
from hemp_ladder.core.refs import rebound, refs_in

_DIGITS = 4
#: Between what a part is called and the digits of a shell that was taken out of it.
_SHELL = " / shell "
_FORM = re.compile(r"^(?P<name>.*) ·(?P<path>[0-9a-f]{4})(?P<key>[0-9a-f]{4})(?P<rest>( \(\d+\))?( @.*)?)$", re.DOTALL)
_Settings = TypeVar("_Settings", bound=BaseModel)


def name_parts(model: Model) -> Model:
    """The model, each of its parts with the reference that decisions call it by.

    Parts that are alike in name, path and geometry are numbered in their
    order: which is which makes no difference.
    """
    paths = _paths(model)
    counts: dict[str, int] = defaultdict(int)
    for index, part in enumerate(model.parts):
        ref = f"{plain(part.name or part.label)} ·{paths.get(index, '0' * _DIGITS)}{part.key[:_DIGITS]:0>4}"
        counts[ref] += 1
        part.stable = ref if counts[ref] == 1 else f"{ref} ({counts[ref]})"
    return model


def _paths(model: Model) -> dict[int, str]:
    """For each part a hash of the names from the root to the first place where it stands."""
    found: dict[int, str] = {}
    digests: list[bytes] = []
    for node in model.nodes:
        above = digests[node.parent] if node.parent >= 0 else b""
        digest = hashlib.sha256(above + node.name.encode("utf-8", "surrogatepass")).digest()
        digests.append(digest)
        if node.part >= 0:
            found.setdefault(node.part, digest.hex()[:_DIGITS])
    return found


def shell_ref(ref: str, at: tuple[float, float, float]) -> str:
    """What decisions call a shell that was taken out of the part called `ref`: by the point that it was picked at."""
    return f"{ref}{_SHELL}{hashlib.sha256(repr(at).encode()).hexdigest()[: 2 * _DIGITS]}"


def bind(settings: _Settings, parts: Sequence[Part]) -> _Settings:
    """The settings with every reference to a part as the model has it now; those that find none stay as they are."""
    wanted = {ref for what, ref in refs_in(settings) if what == "part"}
    strange = wanted - {part.ref for part in parts} if wanted else wanted
    if not strange:
        return settings
    found = resolve(strange, parts)
    return rebound(settings, found) if found else settings


def resolve(refs: set[str], parts: Sequence[Part]) -> Mapping[str, str]:
    """For references that are none of the parts' own, those of the parts that they mean, where there is one such part.

    By name and geometry, then by name and path; else by the label that
    people read, which is what decisions were written by hand with.
    """
    by_key: dict[tuple[str, str], list[str]] = defaultdict(list)
    by_path: dict[tuple[str, str], list[str]] = defaultdict(list)
    by_label: dict[str, str] = {}
    for part in parts:
        told = _FORM.match(part.ref)
        if told:
            by_key[told["name"], told["key"]].append(part.ref)
            by_path[told["name"], told["path"]].append(part.ref)
        by_label.setdefault(part.label, part.ref)
    found = {}
    for ref in refs:
        if _SHELL in ref:
            # A shell goes where the part goes that it was taken out of.
            whole, _, digits = ref.rpartition(_SHELL)
            there = next(iter(resolve({whole}, parts).values()), None)
            if there is not None:
                found[ref] = f"{there}{_SHELL}{digits}"
            continue
        told = _FORM.match(ref)
        if told:
            for table, digits in ((by_key, told["key"]), (by_path, told["path"])):
                alike = table.get((told["name"], digits), ())
                if len(alike) == 1:
                    found[ref] = alike[0]
                    break
        elif ref in by_label:
            found[ref] = by_label[ref]
    return found
