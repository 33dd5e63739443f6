"""Remedies that change materials, as findings offer them and boards take them: settings of Sort before and after."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.model.finish import SLOTS, Map, Slot
from hemp_ladder.core.model.join import Joined
from hemp_ladder.core.model.material import look_id
from hemp_ladder.core.sort.editing import as_it_came, changed, copied, material_of, wearing, with_guesses
from hemp_ladder.core.sort.palette import pictures_of
from hemp_ladder.core.sort.settings import MapSettings, SortSettings

Ids = Sequence[str]
Values = Mapping[str, Any]
#: Takes the model, the settings, ids of materials and further values. Raises SettingsError, KeyError for a value that lacks.
Change = Callable[[Joined, SortSettings, Ids, Values], SortSettings]


def named(model: Joined, source: str, values: Values) -> list[str]:
    """Ids of the materials that values name: by `material` and `materials`, or by `style` and `styles` as a source calls its
    looks, which the job may call otherwise."""
    styles = [*values.get("styles", ()), *([values["style"]] if "style" in values else [])]
    ids = [*values.get("materials", ()), *([values["material"]] if "material" in values else [])]
    for style in styles:
        apart = look_id(f"{style} @{source}")
        ids.append(apart if apart in model.materials else look_id(style))
    return ids


def _take_maps(model: Joined, settings: SortSettings, ids: Ids, values: Values) -> SortSettings:
    return with_guesses(model, settings, ids)


def _opacity(model: Joined, settings: SortSettings, ids: Ids, values: Values) -> SortSettings:
    """By the opacity of the picture that the colour comes from, or by a value for all of it."""
    for id_ in ids:
        finish = material_of(model, settings, id_).finish
        changes: dict[str, Any] = {name: values[name] for name in ("mode", "transmission", "cutoff") if name in values}
        if "value" in values:
            changes["colour"] = replace(finish.colour, alpha=float(values["value"])).hex
        if "transmission" in values:
            changes |= {"roughness": min(finish.roughness, 0.1), "metalness": 0.0}
        settings = changed(model, settings, id_, changes)
        base = finish.map("base colour")
        if base is not None and values.get("inverted"):
            turned = replace(base, channel="a", inverted=True)
            settings = wearing(model, settings, id_, {"opacity": turned}, sole=False)
    return settings


def _wear(model: Joined, settings: SortSettings, ids: Ids, values: Values) -> SortSettings:
    """Put a picture into a slot, move the one that is there to another, or turn its numbers over."""
    slot = values["slot"]
    if slot not in SLOTS:
        raise SettingsError(f"There is no slot called “{str(slot)[:40]}”.")
    for id_ in ids:
        now = material_of(model, settings, id_).finish.map(slot)
        if "picture" in values:
            if values["picture"] not in pictures_of(model, settings):
                raise SettingsError("The job has no such picture.", "Give it to the job first.")
            worn = MapSettings.model_validate(
                {name: values[name] for name in ("picture", "channel", "inverted", "uv") if name in values}
            )
            placed = now or Map("")
            new = Map(worn.picture, worn.channel, worn.inverted, worn.uv, placed.offset, placed.scale, placed.turn)
            settings = wearing(model, settings, id_, {slot: new})
        elif now is not None and "to" in values:
            to = {values["to"]: now} if values["to"] else {}
            settings = wearing(model, settings, id_, {slot: None, **to})
        elif now is not None:
            turned = replace(now, inverted=bool(values.get("inverted", now.inverted)))
            settings = wearing(model, settings, id_, {slot: turned})
    return settings


def _tame(model: Joined, settings: SortSettings, ids: Ids, values: Values) -> SortSettings:
    """At most so shiny."""
    for id_ in ids:
        settings = changed(model, settings, id_, {"least_roughness": float(values["least"])})
    return settings


def _tile(model: Joined, settings: SortSettings, ids: Ids, values: Values) -> SortSettings:
    """Lay all pictures so many times as large as they came."""
    times = float(values["times"])
    for id_ in ids:
        came = model.materials.get(id_) or material_of(model, settings, id_)
        maps: dict[Slot, Map | None] = {
            slot: replace(worn, scale=(worn.scale[0] / times, worn.scale[1] / times)) for slot, worn in came.finish.maps
        }
        settings = wearing(model, settings, id_, maps, sole=False)
    return settings


def _edit(model: Joined, settings: SortSettings, ids: Ids, values: Values) -> SortSettings:
    for id_ in ids:
        settings = changed(model, settings, id_, values["changes"])
    return settings


def _copy(model: Joined, settings: SortSettings, ids: Ids, values: Values) -> SortSettings:
    for id_ in ids:
        settings = copied(model, settings, id_, str(values["name"])[:200])
    return settings


def _reset(model: Joined, settings: SortSettings, ids: Ids, values: Values) -> SortSettings:
    for id_ in ids:
        settings = as_it_came(settings, id_)
    return settings


def _replace(model: Joined, settings: SortSettings, ids: Ids, values: Values) -> SortSettings:
    """One material in the place of others, everywhere."""
    to = str(values["to"])
    given = {**settings.replaced, **{id_: to for id_ in ids if id_ != to}}
    given.pop(to, None)
    return settings.model_copy(update={"replaced": given})


CHANGES: dict[str, Change] = {
    "take-maps": _take_maps,
    "opacity": _opacity,
    "wear": _wear,
    "tame": _tame,
    "tile": _tile,
    "edit-material": _edit,
    "copy-material": _copy,
    "reset-material": _reset,
    "replace-material": _replace,
}
