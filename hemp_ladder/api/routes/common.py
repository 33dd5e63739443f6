"""What the resources share: numbers of rows, files that were uploaded, models that are read."""

from typing import Annotated, Any

from fastapi import Path, Request
from fastapi.responses import Response
from sqlalchemy.orm import Session

from hemp_ladder.api.views import FileIn, Problem
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.store import blobs
from hemp_ladder.store.database import session
from hemp_ladder.work import sources, studying
from hemp_ladder.work.fitting import plan_now
from hemp_ladder.work.plans import Models
from hemp_ladder.work.sources import NothingThere

#: The number of a row, as the database holds it.
Id = Annotated[int, Path(ge=1, le=(1 << 31) - 1)]
#: The number of a part among those of a job.
PartNumber = Annotated[int, Path(ge=0, le=(1 << 31) - 1)]
SOON: dict[int | str, dict[str, Any]] = {202: {"description": "It is being worked out; ask again in a moment"}}
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


def studied(job_id: int, part: int, what: str, request: Request) -> Response:
    """A study of a part, as JSON; 202 while it is worked out. Raises NothingThere for a part without a surface."""
    with session() as s:
        models_of_job(s, job_id)
        now = plan_now(s, job_id)[1]
        subject = studying.subject_of(now, part, what) if part < len(now.model.parts) else None
        if subject is None:
            raise NothingThere("There is no such part, or it has no surface.")
        tag = f'"{subject.blob.rpartition("/")[2]}"'
        headers = {"ETag": tag, "Cache-Control": "private, no-cache"}
        if request.headers.get("if-none-match") == tag:
            return Response(status_code=304, headers=headers)
        found = studying.study_there(subject)
        if found is None:
            studying.want_study(s, job_id, subject)
            return Response(status_code=202, headers={"Retry-After": "1"})
    return Response(found, media_type="application/json", headers=headers)
