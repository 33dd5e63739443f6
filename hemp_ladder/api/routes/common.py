"""What the resources share: numbers of rows, files that were uploaded, models that are read."""

from typing import Annotated, Any

from fastapi import Path
from sqlalchemy.orm import Session

from hemp_ladder.api.views import FileIn, Problem
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.store import blobs
from hemp_ladder.work import sources
from hemp_ladder.work.plans import Models
from hemp_ladder.work.sources import NothingThere

#: The number of a row, as the database holds it.
Id = Annotated[int, Path(ge=1, le=(1 << 31) - 1)]
#: Every refusal and every fault is a problem document.
PROBLEMS: dict[int | str, dict[str, Any]] = {
    "default": {
        "model": Problem,
        "description": "What went wrong, in a sentence, and what to do (RFC 9457), as application/problem+json",
    }
}


def uploaded(files: list[FileIn]) -> list[dict[str, Any]]:
    """The files as rows hold them. Raises SettingsError for one that was not uploaded."""
    for item in files:
        if not blobs.exists(f"sources/{item.sha256}"):
            raise SettingsError(f"The file “{item.name[:80]}” was not uploaded.", "Upload it first.")
    return [{"name": i.name, "sha256": i.sha256, "bytes": blobs.size(f"sources/{i.sha256}")} for i in files]


def models_of_job(s: Session, job_id: int, skeletons: bool = False) -> Models:
    """The models of a job's sources. Raises NothingThere while none is read."""
    sources.job_of(s, job_id)
    models = sources.models_of(sources.sources_of(s, job_id), skeletons)
    if not models:
        raise NothingThere("No source is read yet.", "Wait until Receive is done.")
    return models
