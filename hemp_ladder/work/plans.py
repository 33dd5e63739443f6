"""The plan of a job's models under decisions, worked out once a decision, however many ask for it."""

from hemp_ladder.core.climb import Plan, plan, replaced
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.model.references import bind
from hemp_ladder.store import model_blob
from hemp_ladder.store.recent import recent

#: The models of a job: (ref, name, model key) of each source.
Models = tuple[tuple[str, str, str], ...]


def planned(models: Models, decisions: Decisions) -> Plan:
    """The last few stay in memory, whatever the target is, which plays no part in them. Raises SettingsError for decisions
    that make no sense of the models."""
    known = _planned(models, decisions.model_dump_json(exclude={"ship"}))
    ship = bind(decisions.ship, known.model.parts)
    if known.decisions.ship == ship:
        return known
    known.wanted()  # what it keeps of itself is kept once
    return replaced(known, decisions=known.decisions.model_copy(update={"ship": ship}))


def forget(models: Models, decisions: Decisions) -> None:
    """Have it worked out again when it is next asked for: for measuring."""
    _planned.forget(models, decisions.model_dump_json(exclude={"ship"}))  # type: ignore[attr-defined]


@recent(16, model_blob.has_skeleton)
def _planned(models: Models, decisions: str) -> Plan:
    return plan(model_blob.load_joined(models), Decisions.model_validate_json(decisions))
