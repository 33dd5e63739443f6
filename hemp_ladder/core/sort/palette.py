"""The palette of a job: the house's library, what the sources brought, and the job's own."""

from dataclasses import replace

from hemp_ladder.core.model.join import Joined
from hemp_ladder.core.model.material import UNDECIDED, Material, Palette
from hemp_ladder.core.model.texture import Texture
from hemp_ladder.core.sort.library import LIBRARY
from hemp_ladder.core.sort.settings import SortSettings


def palette_of(model: Joined, settings: SortSettings) -> Palette:
    """Every material that a rule may give, by id, and the undecided one. The job's own hide others of the same id; none
    is shinier than the job lets it be."""
    own = {item.id: item.material for item in settings.materials}
    found = {**LIBRARY, **model.materials, **own, UNDECIDED.id: UNDECIDED}
    if settings.least_roughness > 0:
        found = {id_: _tamed(material, settings.least_roughness) for id_, material in found.items()}
    return found


def _tamed(material: Material, least: float) -> Material:
    finish = material.finish
    if finish.least_roughness >= least or material.id == UNDECIDED.id:
        return material
    return replace(material, finish=replace(finish, least_roughness=least))


def stands_for(settings: SortSettings, palette: Palette, id_: str) -> str:
    """The material that is worn where this one would be: the end of a row of replacements, itself where there is none.
    A circle ends where it closes, and one that is no more gives way to nothing."""
    seen = {id_}
    while (next_ := settings.replaced.get(id_)) is not None and next_ in palette and next_ not in seen:
        id_ = next_
        seen.add(id_)
    return id_


def pictures_of(model: Joined, settings: SortSettings) -> dict[str, Texture]:
    """All pictures that materials of the job may wear, by SHA-256."""
    given = [
        Texture(item.sha256, item.name, item.width, item.height, None, item.bytes, item.clear, item.bluish, item.mean)
        for item in settings.pictures
    ]
    return {texture.sha256: texture for texture in [*given, *model.textures]}


def unknown_materials(model: Joined, settings: SortSettings) -> list[str]:
    """Ids that rules give and the palette does not hold."""
    palette = palette_of(model, settings)
    return list(dict.fromkeys(rule.material for rule in settings.rules if rule.material not in palette))
