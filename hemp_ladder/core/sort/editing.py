"""Changes to materials, wherever those come from: what was a source's or the house's becomes the job's own, under its id."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import chain, count
from typing import Any

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.model.finish import Map, Slot, counted
from hemp_ladder.core.model.join import Joined
from hemp_ladder.core.model.material import Material
from hemp_ladder.core.sort.library import LIBRARY
from hemp_ladder.core.sort.settings import OwnMaterial, SortSettings, as_own


def material_of(model: Joined, settings: SortSettings, id_: str) -> Material:
    """A material as it stands, before what the job says of all. Raises SettingsError where there is none."""
    own = next((item for item in settings.materials if item.id == id_), None)
    found = own.material if own else model.materials.get(id_) or LIBRARY.get(id_)
    if found is None:
        raise SettingsError(f"There is no material “{id_[:60]}” any more.")
    return found


def changed(model: Joined, settings: SortSettings, id_: str, changes: Mapping[str, Any]) -> SortSettings:
    """With other values for a material; `changes` as `OwnMaterial` has them. Raises SettingsError and ValidationError."""
    own = as_own(material_of(model, settings, id_))
    return with_own(settings, OwnMaterial.model_validate({**own.model_dump(), **changes, "id": id_}))


def with_own(settings: SortSettings, own: OwnMaterial) -> SortSettings:
    """With this material in the place of the one that has its id, else behind the others."""
    rest = [item for item in settings.materials if item.id != own.id]
    if len(rest) == len(settings.materials):
        return settings.model_copy(update={"materials": (*rest, own)})
    materials = tuple(own if item.id == own.id else item for item in settings.materials)
    return settings.model_copy(update={"materials": materials})


def copied(model: Joined, settings: SortSettings, id_: str, name: str) -> SortSettings:
    """With a copy of a material under another name, the job's own."""
    own = as_own(material_of(model, settings, id_))
    return with_own(settings, own.model_copy(update={"id": free_id(settings, name), "name": name}))


def free_id(settings: SortSettings, name: str) -> str:
    """An id of the job's own for a name, that nothing has."""
    stem = "own:" + (re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40] or "material")
    taken = {item.id for item in settings.materials}
    return next(id_ for id_ in chain([stem], (f"{stem}-{n}" for n in count(2))) if id_ not in taken)


def as_it_came(settings: SortSettings, id_: str) -> SortSettings:
    """Without what the job changed of a material. Raises SettingsError for one of its own that is still given."""
    if id_.startswith("own:") and any(id_ == rule.material for rule in settings.rules):
        raise SettingsError("Rules give that material.", "Have them give another one first.")
    rest = tuple(item for item in settings.materials if item.id != id_)
    replaced = {old: new for old, new in settings.replaced.items() if id_ not in (old, new)}
    return settings.model_copy(
        update={"materials": rest, "replaced": replaced if id_.startswith("own:") else settings.replaced}
    )


def wearing(
    model: Joined, settings: SortSettings, id_: str, maps: Mapping[Slot, Map | None], sole: bool = True
) -> SortSettings:
    """With these pictures in these slots, None for an empty one. `sole`: a number that a map is multiplied with, and which
    was chosen for a surface without it, gives way."""
    material = material_of(model, settings, id_)
    finish = material.finish
    for slot, worn in maps.items():
        if sole and worn is not None and finish.map(slot) is None:
            finish = counted(finish, slot)
        finish = finish.wearing(slot, worn)
    return with_own(settings, as_own(replace(material, finish=finish)))


def with_guesses(model: Joined, settings: SortSettings, ids: Sequence[str]) -> SortSettings:
    """With the pictures that by their names belong to these materials of sources, in slots that are empty."""
    for id_ in ids:
        guessed = model.guesses.get(id_.removeprefix("look:"), {})
        finish = material_of(model, settings, id_).finish
        wanted: dict[Slot, Map | None] = {slot: worn for slot, worn in guessed.items() if finish.map(slot) is None}
        if wanted:
            settings = wearing(model, settings, id_, wanted)
    return settings
