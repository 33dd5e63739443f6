"""Sets of rules: what of one job's table can be used in another, as a document of its own."""

from pydantic import Field

from hemp_ladder.core.refs import without_refs
from hemp_ladder.core.settings import MOST, Settings
from hemp_ladder.core.sort.order.settings import OrderSettings, Rename
from hemp_ladder.core.sort.settings import OwnMaterial, Rule, SortSettings


class RuleSet(Settings):
    """Rules with the materials of their own that they give; and, where they are told, names and levels of the order."""

    rules: tuple[Rule, ...] = Field((), max_length=MOST)
    materials: tuple[OwnMaterial, ...] = Field((), max_length=1000)
    keep_source: bool | None = None
    names: tuple[Rename, ...] = Field((), max_length=500)
    order: OrderSettings | None = None


def set_of(settings: SortSettings) -> RuleSet:
    """What of a table speaks of no job's own parts and sources."""
    plain = without_refs(settings)
    given = {rule.material for rule in plain.rules}
    return RuleSet(
        rules=plain.rules, materials=tuple(item for item in plain.materials if item.id in given),
        keep_source=settings.keep_source,
    )  # fmt: skip


def with_set(settings: SortSettings, given: RuleSet) -> SortSettings:
    """A table with a set behind its own rules, and with the materials that those give where it has none of that id.
    Raises ValidationError where both together are too many."""
    known, there = {item.id for item in settings.materials}, set(settings.rules)
    changes: dict[str, object] = {
        "rules": (*settings.rules, *(rule for rule in given.rules if rule not in there)),
        "materials": (*settings.materials, *(item for item in given.materials if item.id not in known)),
    }
    if given.keep_source is not None:
        changes["keep_source"] = given.keep_source
    if given.names:
        changes["names"] = (*settings.names, *given.names)
    if given.order is not None:
        changes["order"] = given.order
    # Both together may be more than a job can hold.
    return SortSettings.model_validate(settings.model_copy(update=changes).model_dump())
