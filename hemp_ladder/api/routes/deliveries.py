"""Deliveries: asked for, stopped, looked at, downloaded whole or file by file."""

import re
import zipfile
from collections.abc import Iterator
from contextlib import ExitStack
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response, StreamingResponse
from sqlalchemy import select

from hemp_ladder.api import overview
from hemp_ladder.api.downloads import blob_answer, disposition
from hemp_ladder.api.routes.common import Id
from hemp_ladder.api.views import DeliveryView, NewDelivery
from hemp_ladder.store import blobs
from hemp_ladder.store.database import session
from hemp_ladder.store.tables import DeliveryRow, Job
from hemp_ladder.work import actions, sources
from hemp_ladder.work.folders import working_folder
from hemp_ladder.work.sources import NothingThere

router = APIRouter()
_ZIP: dict[int | str, dict[str, object]] = {200: {"content": {"application/zip": {}}}}


@router.post("/jobs/{job_id}/deliveries", status_code=201)
def create_delivery(job_id: Id, new: NewDelivery | None = None) -> DeliveryView:
    """Ship what is in force, to the target in force unless another is given."""
    with session() as s:
        row = actions.ship(s, job_id, new.target if new else None, new.beside if new else None)
        return overview.delivery_view(row, sources.job_of(s, job_id), sources.models_of(sources.sources_of(s, job_id)))


@router.get("/jobs/{job_id}/deliveries")
def list_deliveries(
    job_id: Id,
    before: Annotated[int | None, Query(ge=1, le=(1 << 31) - 1, description="only those with lower numbers")] = None,
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> list[DeliveryView]:
    """All deliveries of a job, newest first, a page at a time."""
    with session() as s:
        job, models = sources.job_of(s, job_id), sources.models_of(sources.sources_of(s, job_id))
        rows = select(DeliveryRow).where(DeliveryRow.job_id == job_id).order_by(DeliveryRow.id.desc()).limit(limit)
        if before is not None:
            rows = rows.where(DeliveryRow.id < before)
        return [overview.delivery_view(row, job, models) for row in s.scalars(rows)]


@router.get("/deliveries/{delivery_id}")
def get_delivery(delivery_id: Id) -> DeliveryView:
    """One delivery, however old."""
    with session() as s:
        row = _row(s.get(DeliveryRow, delivery_id))
        job = s.get_one(Job, row.job_id)
        return overview.delivery_view(row, job, sources.models_of(sources.sources_of(s, job.id)))


@router.post("/deliveries/{delivery_id}/cancel", status_code=204)
def cancel_delivery(delivery_id: Id) -> None:
    with session() as s:
        actions.cancel_delivery(s, delivery_id)


@router.get("/deliveries/{delivery_id}/bundle", response_class=Response, responses=_ZIP)
def download(delivery_id: Id, request: Request) -> Response:
    """The delivery's files and receipt as one ZIP."""
    with session() as s:
        row = _done(s.get(DeliveryRow, delivery_id))
        shown = re.sub(r"[^A-Za-z0-9_-]+", "-", s.get_one(Job, row.job_id).name).strip("-")[:60] or "delivery"
        name = row.bundle
    return blob_answer(request, f"deliveries/{name}", "application/zip", f"{shown}.zip")


@router.get("/deliveries/{delivery_id}/files/{name}", response_class=StreamingResponse)
def download_file(delivery_id: Id, name: str) -> Response:
    """One file of the delivery, or its receipt, by its name."""
    with session() as s:
        bundle = _done(s.get(DeliveryRow, delivery_id)).bundle
    with ExitStack() as stack:
        # Laid down as a file: a delivery can be larger than memory.
        path = stack.enter_context(working_folder()) / "bundle.zip"
        blobs.fetch(f"deliveries/{bundle}", path)
        archive = stack.enter_context(zipfile.ZipFile(path))
        try:
            entry = archive.getinfo(name)
        except KeyError as error:
            raise NothingThere(f"The delivery holds no file “{name[:80]}”.") from error
        held = stack.pop_all()

    def chunks() -> Iterator[bytes]:
        with held, archive.open(entry) as file:
            while chunk := file.read(1 << 20):
                yield chunk

    return StreamingResponse(
        chunks(),
        media_type="application/octet-stream",
        headers={"Content-Disposition": disposition(name), "Content-Length": str(entry.file_size)},
    )


def _row(row: DeliveryRow | None) -> DeliveryRow:
    if row is None:
        raise NothingThere("There is no such delivery.")
    return row


def _done(row: DeliveryRow | None) -> DeliveryRow:
    if row is None or row.bundle is None:
        raise NothingThere("There is no such delivery, or it is not done.")
    return row
