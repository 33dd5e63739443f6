"""References from decisions to parts and sources: types of their own, so that they can be found, replaced, left out.

A field that may name a part among other things says so by its sibling: where
`by` is "part" or "placement", `match` is a reference, and where it holds
several words and `by` is "source" those are; where `by` is "parts", `parts`
are what it is about, and nothing is left of it without them.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Any, TypeVar, get_args, get_origin

from pydantic import BaseModel


@dataclass(frozen=True)
class Names:
    """Marks text that names a thing of one job: "part", "placement" or "source"."""

    what: str


PartRef = Annotated[str, Names("part")]
SourceRef = Annotated[str, Names("source")]
PlacementRef = Annotated[str, Names("placement")]
#: What a `match` holds, by its sibling and whether it holds several words.
_MATCHED: dict[tuple[str, bool], Any] = {
    ("part", False): PartRef, ("part", True): tuple[PartRef, ...],
    ("placement", False): PlacementRef, ("placement", True): tuple[PlacementRef, ...],
    ("source", True): tuple[SourceRef, ...],
}  # fmt: skip

_Model = TypeVar("_Model", bound=BaseModel)
#: Takes what is named and its reference; gives the reference to put in its place, None to leave its bearer out.
Renamer = Callable[[str, str], str | None]


def refs_in(settings: BaseModel) -> set[tuple[str, str]]:
    """All references in settings, as ("part", "placement" or "source", reference)."""
    found: set[tuple[str, str]] = set()

    def note(what: str, ref: str) -> str:
        found.add((what, ref))
        return ref

    renamed(settings, note)
    return found


def rebound(settings: _Model, parts: Mapping[str, str]) -> _Model:
    """The settings with parts called by other names, given by the old ones; names that are not given stay."""
    return renamed(settings, lambda what, ref: parts.get(ref, ref) if what == "part" else ref)


def without_refs(settings: _Model) -> _Model:
    """What of the settings speaks of no job's own parts and sources: what a recipe holds."""
    return renamed(settings, lambda what, ref: None)


def renamed(settings: _Model, rename: Renamer) -> _Model:
    """The settings with every reference replaced; an entry of a list or table that loses its reference goes with it.

    The very same settings where nothing changed.
    """
    told: dict[str, Any] = {}
    for name, annotation in _bearing(type(settings)):
        value = getattr(settings, name)
        if name == "match":
            annotation = _MATCHED.get((str(getattr(settings, "by", None)), isinstance(value, tuple)))
            if annotation is None:
                continue
        new = _renamed(value, annotation, rename)
        if new is value:
            continue
        if name == "parts" and not new and value and (getattr(settings, "by", "parts") == "parts"):
            raise _Lost
        if name == "match" and new == ():
            raise _Lost
        if new is _GONE:
            info = type(settings).model_fields[name]
            if info.is_required() or name == "match":
                raise _Lost
            new = info.get_default(call_default_factory=True)
        told[name] = new
    return settings.model_copy(update=told) if told else settings


@lru_cache(maxsize=1000)
def _bearing(settings: type[BaseModel]) -> tuple[tuple[str, Any], ...]:
    """The fields that may bear references, with their types."""
    found = []
    for name, info in settings.model_fields.items():
        annotation = Annotated[info.annotation, *info.metadata] if info.metadata else info.annotation
        if (name == "match" and "by" in settings.model_fields) or _may_bear(annotation):
            found.append((name, annotation))
    return tuple(found)


def _may_bear(annotation: Any) -> bool:
    if _mark(annotation) is not None:
        return True
    bare = _bare(annotation)
    if isinstance(bare, type) and issubclass(bare, BaseModel):
        return bool(_bearing(bare))
    return any(_may_bear(item) for item in get_args(bare))


class _Lost(Exception):
    """Settings that cannot be without the reference they lost."""


_GONE = object()


def _renamed(value: Any, annotation: Any, rename: Renamer) -> Any:
    mark = _mark(annotation)
    if mark is not None and isinstance(value, str):
        new = rename(mark, value)
        return _GONE if new is None else value if new == value else new
    if isinstance(value, BaseModel):
        try:
            return renamed(value, rename)
        except _Lost:
            return _GONE
    if isinstance(value, dict):
        key, item = (get_args(_bare(annotation)) or (Any, Any))[:2]
        pairs = [(_renamed(k, key, rename), _renamed(v, item, rename)) for k, v in value.items()]
        if all(k is old and v is value[old] for (k, v), old in zip(pairs, value, strict=True)):
            return value
        return {k: v for k, v in pairs if k is not _GONE and v is not _GONE}
    if isinstance(value, tuple | frozenset):
        item = (get_args(_bare(annotation)) or (Any,))[0]
        news = [_renamed(old, item, rename) for old in value]
        if all(new is old for new, old in zip(news, value, strict=True)):
            return value
        return type(value)(new for new in news if new is not _GONE)
    return value


def _bare(annotation: Any) -> Any:
    return get_args(annotation)[0] if get_origin(annotation) is Annotated else annotation


@lru_cache(maxsize=1000)
def _mark(annotation: Any) -> str | None:
    """What text of this type names; also where it may be None."""
    if get_origin(annotation) is Annotated:
        marks = [item.what for item in annotation.__metadata__ if isinstance(item, Names)]
        return marks[0] if marks else _mark(get_args(annotation)[0])
    return (
        next((mark for item in get_args(annotation) if (mark := _mark(item))), None)
        if _may_be_none(annotation)
        else None
    )


def _may_be_none(annotation: Any) -> bool:
    return type(None) in get_args(annotation)
