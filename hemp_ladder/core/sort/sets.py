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


def set_of(settings: SortSettings, names: bool = False, order: bool = False) -> RuleSet:
    """What of a table speaks of no job's own parts, placements and sources; with `names` and the `order` where wanted."""
    plain = without_refs(settings)
    given = {rule.material for rule in plain.rules}
    return RuleSet(
        rules=plain.rules, materials=tuple(item for item in plain.materials if item.id in given),
        keep_source=settings.keep_source, names=plain.names if names else (),
        order=_of_no_tree(plain.order) if order and not plain.order.plain else None,
    )  # fmt: skip


def _of_no_tree(order: OrderSettings) -> OrderSettings:
    """Without what is said of single groups of one source's tree."""

    def own(id_: str) -> bool:
        return not id_.startswith("at:")

    return order.model_copy(
        update={
            "groups": tuple(
                item if own(item.parent) else item.model_copy(update={"parent": ""}) for item in order.groups
            ),
            "gathered": tuple(item for item in order.gathered if own(item.into)),
            "called": {id_: name for id_, name in order.called.items() if own(id_)},
            "under": {id_: into for id_, into in order.under.items() if own(id_) and own(into)},
            "opened": tuple(id_ for id_ in order.opened if own(id_)),
        }
    )


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
