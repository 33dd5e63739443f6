"""Purposes of the house's own: how fine facets are, kept by a name for other jobs."""

from sqlalchemy.orm import Session

from hemp_ladder.core.facet.settings import FacetSettings
from hemp_ladder.work.actions import decisions_of
from hemp_ladder.work.kept import keep, kept
from hemp_ladder.work.sources import job_of

KIND = "purposes"


def purposes(session: Session) -> list[tuple[int, str, FacetSettings]]:
    """All that are kept, by name."""
    return [(row.id, row.name, FacetSettings.model_validate(row.document)) for row in kept(session, KIND)]


def keep_purpose(session: Session, job_id: int, name: str) -> None:
    """Keep what a job wants of all parts; one of that name gives way."""
    _, decisions = decisions_of(session, job_of(session, job_id))
    plain = decisions.facet.model_copy(update={"exceptions": ()})
    keep(session, KIND, name, plain.model_dump(mode="json"))
