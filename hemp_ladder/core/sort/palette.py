"""The palette of a job: the house's library, what the sources brought, and the job's own."""

from hemp_ladder.core.model.join import Joined
from hemp_ladder.core.model.material import UNDECIDED, Material, Palette
from hemp_ladder.core.model.model import Colour
from hemp_ladder.core.sort.library import LIBRARY
from hemp_ladder.core.sort.settings import SortSettings


def palette_of(model: Joined, settings: SortSettings) -> Palette:
    """Every material that a rule may give, by id, and the undecided one. The job's own hide others of the same id."""
    own = {
        item.id: Material(item.id, item.name, Colour.from_hex(item.colour), item.metalness, item.roughness)
        for item in settings.materials
    }
    return {**LIBRARY, **model.materials, **own, UNDECIDED.id: UNDECIDED}


def unknown_materials(model: Joined, settings: SortSettings) -> list[str]:
    """Ids that rules give and the palette does not hold."""
    palette = palette_of(model, settings)
    return list(dict.fromkeys(rule.material for rule in settings.rules if rule.material not in palette))
