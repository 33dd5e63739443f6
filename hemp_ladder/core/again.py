"""Steps again: what a run of decisions changed, as a document of its own that can be done once more, on other parts or in
another job."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from pydantic import BaseModel, Field, ValidationError

from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.fit.settings import OwnLookout
from hemp_ladder.core.model.model import Part
from hemp_ladder.core.model.references import bind
from hemp_ladder.core.settings import MOST, Settings

#: What a run does not take along: what is locked is a matter of the moment.
_NOT_TAKEN = ("locked",)
#: Fields that name one part by its shape, and mean nothing on another.
_OF_ONE_SHAPE = ("part", "of")
#: The one list that may not be there: the sources' cameras stand for it.
_LOOKOUTS = ("fit", "lookouts")


class Change(Settings):
    """What becomes of one setting: it is `set`; `entries` of a list or `items` of a set come and go; or rows of a `table` do.

    `added` come before what is there where `first` holds, else behind; of a table `added` are pairs.
    """

    path: tuple[str, ...] = Field(min_length=2, max_length=8)
    does: Literal["set", "entries", "items", "table"]
    value: bool | Any = None
    added: tuple[Any, ...] = Field((), max_length=MOST)
    gone: tuple[Any, ...] = Field((), max_length=MOST)
    first: bool = False


class Run(Settings):
    """A run of decisions: its changes in the order of the climb, and in words."""

    changes: tuple[Change, ...] = Field(max_length=1000)
    lines: tuple[str, ...] = Field((), max_length=50)


def run_of(before: Decisions, after: Decisions, lines: Sequence[str] = ()) -> Run:
    """What lies between two states. Raises SettingsError where nothing does."""
    changes = tuple(_between((), before, after))
    if not changes:
        raise SettingsError("Nothing changed between those two.", "Choose decisions that changed something.")
    return Run(changes=changes, lines=tuple(lines))


def _between(path: tuple[str, ...], before: BaseModel, after: BaseModel) -> Iterator[Change]:
    for name in type(before).model_fields:
        was, now = getattr(before, name), getattr(after, name)
        here = (*path, name)
        if was == now or name in _NOT_TAKEN:
            continue
        if isinstance(was, BaseModel) and type(was) is type(now):
            yield from _between(here, was, now)
        elif isinstance(was, frozenset) and isinstance(now, frozenset):
            yield Change(path=here, does="items", added=tuple(sorted(now - was)), gone=tuple(sorted(was - now)))
        elif isinstance(was, dict) and isinstance(now, dict):
            put = [(key, _plain(value)) for key, value in now.items() if was.get(key) != value]
            yield Change(
                path=here, does="table", added=tuple(put), gone=tuple(key for key in was if key not in now)
            )  # fmt: skip
        elif (
            isinstance(was, tuple)
            and isinstance(now, tuple)
            and any(isinstance(item, BaseModel) for item in (*was, *now))
        ):
            there, then = set(map(repr, was)), set(map(repr, now))
            added = [item for item in now if repr(item) not in there]
            kept = next((at for at, item in enumerate(now) if repr(item) in there), len(now))
            yield Change(
                path=here, does="entries", added=tuple(map(_plain, added)),
                gone=tuple(_plain(item) for item in was if repr(item) not in then),
                first=bool(added) and (now.index(added[0]) < kept if kept < len(now) else name == "exceptions"),
            )  # fmt: skip
        else:
            yield Change(path=here, does="set", value=_plain(now))


def _plain(value: Any) -> Any:
    if isinstance(value, BaseModel):
        return value.model_dump(mode="json")
    if isinstance(value, tuple | list):
        return [_plain(item) for item in value]
    if isinstance(value, dict):
        return {key: _plain(item) for key, item in value.items()}
    return sorted(value) if isinstance(value, frozenset) else value


@dataclass(frozen=True)
class Done:
    """The decisions after a run was done again, and how many of its entries could not be: they belong to one shape, or to a
    source that is not there."""

    decisions: Decisions
    left_out: int


def done_again(
    now: Decisions, run: Run, on: Sequence[str] | None, parts: Sequence[Part], sources: Sequence[str],
    cameras: Sequence[OwnLookout] = (),
) -> Done:  # fmt: skip
    """Do a run once more. `on` are the references of the parts that it is for instead of those it was for; None: those, as
    far as `parts` has any that are called so or look so. `sources` are what the job calls its own, `cameras` theirs:
    lookouts of the run come beside them where nobody decided of lookouts here. Raises SettingsError where what comes of it
    makes no sense."""
    document = now.model_dump(mode="json")
    if document["fit"]["lookouts"] is None and any((c.path, c.does) == (_LOOKOUTS, "entries") for c in run.changes):
        document["fit"]["lookouts"] = [camera.model_dump(mode="json") for camera in cameras]
    aimed = _Aimed(None if on is None else list(on), set(sources))
    for change in run.changes:
        holder: Any = document
        for name in change.path[:-1]:
            holder = holder.get(name) if isinstance(holder, dict) else None
        name = change.path[-1]
        if not isinstance(holder, dict) or name not in holder:
            raise SettingsError(f"There is no setting “{'.'.join(change.path)[:80]}” any more.")
        holder[name] = _changed(holder[name], change, aimed)
    try:
        decided = Decisions.model_validate(document)
    except ValidationError as error:
        raise SettingsError(f"Done again, these steps make no sense here: {error.errors()[0]['msg']}.") from error
    return Done(bind(decided, parts), aimed.left_out)


def _changed(there: Any, change: Change, aimed: "_Aimed") -> Any:
    if change.does == "set":
        return change.value
    if change.does == "table":
        table = {key: value for key, value in there.items() if key not in change.gone}
        return table | {key: value for key, value in change.added if aimed.has_source(change.path, key)}
    if change.does == "items":
        if change.path[-1] in ("flipped", "into_mesh_parts") and aimed.on is not None and change.added:
            return sorted({*there, *aimed.on})
        return sorted({*there, *change.added} - set(change.gone))
    fresh = [entry for given in change.added for entry in aimed.entries(given) if entry not in there]
    ids = {entry["id"] for entry in fresh if isinstance(entry, dict) and "id" in entry}
    names = {entry["name"] for entry in fresh if change.path[-1] in ("selections", "levels") and "name" in entry}
    gone = change.gone if aimed.on is None else [item for item in change.gone if not _names_parts(item)]
    rest = [
        entry for entry in there
        if entry not in gone and entry.get("id", "") not in ids
        and entry.get("name", "") not in names
    ]  # fmt: skip
    return [*fresh, *rest] if change.first else [*rest, *fresh]


def _names_parts(entry: Any) -> bool:
    if not isinstance(entry, dict):
        return False
    whom = entry.get("whom", entry)
    return bool(whom.get("parts")) or whom.get("by") in ("part", "placement") or any(k in whom for k in _OF_ONE_SHAPE)


class _Aimed:
    """Entries turned to other parts."""

    def __init__(self, on: list[str] | None, sources: set[str]) -> None:
        self.on, self.sources, self.left_out = on, sources, 0

    def has_source(self, path: tuple[str, ...], key: str) -> bool:
        """Whether a row is to be taken: rows by source only where there is that source."""
        if path[-1] != "sources" or key in self.sources:
            return True
        self.left_out += 1
        return False

    def entries(self, given: Any) -> list[Any]:
        """What an entry becomes: itself, one or several for other parts, or nothing."""
        if not isinstance(given, dict):
            return [given]
        whom = given.get("whom")
        if isinstance(whom, dict):
            return [{**given, "whom": told} for told in self.entries(whom)]
        source = given.get("source") or (given.get("within") or {}).get("source")
        if isinstance(source, str) and source not in self.sources:
            self.left_out += 1
            return []
        if self.on is None or not _names_parts(given):
            return [given]
        if any(isinstance(given.get(name), str) for name in _OF_ONE_SHAPE):
            self.left_out += 1
            return []
        if given.get("parts"):
            return [{**given, "parts": self.on}]
        if given.get("placements"):
            return [{**given, "placements": [], "parts": self.on}]
        if isinstance(given.get("match"), str):
            return [{**given, "by": "part", "match": ref} for ref in self.on]
        return [{**given, "by": "part", "match": self.on}]
