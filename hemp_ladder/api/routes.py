"""The resources under `/api`."""

import asyncio
import hashlib
import re
import tempfile
from collections.abc import AsyncIterator, Iterator
from pathlib import Path
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import JSONResponse, Response, StreamingResponse
from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from hemp_ladder.api import choosing, outlines, overview, result, structure
from hemp_ladder.api.events import Bell
from hemp_ladder.api.large import json_bytes, packed_answer, packed_json
from hemp_ladder.api.problems import problem
from hemp_ladder.api.result_views import ResultView
from hemp_ladder.api.views import (
    DecisionsIn,
    DeliveryView,
    DetailsView,
    FileIn,
    HistoryLine,
    JobLine,
    JobView,
    LengthView,
    LibraryView,
    NewJob,
    NewSource,
    OfferIn,
    OutlinesView,
    PlanView,
    StructureView,
    TallyView,
    Uploaded,
)
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.findings import Offer
from hemp_ladder.core.lengths import read_length
from hemp_ladder.core.ship.names import file_stem
from hemp_ladder.core.units import say_metric, unit
from hemp_ladder.store import blobs
from hemp_ladder.store.config import upload_limit
from hemp_ladder.store.database import session
from hemp_ladder.store.tables import DeliveryRow, Job
from hemp_ladder.work import actions
from hemp_ladder.work.actions import NothingThere
from hemp_ladder.work.plans import Models

router = APIRouter(prefix="/api")
_FOREVER = {"Cache-Control": "private, max-age=31536000, immutable"}


@router.put("/uploads", response_model=Uploaded)
async def upload(name: str, request: Request) -> Response | Uploaded:
    """Take one file as the raw body. It is kept under its SHA-256; the same file twice is kept once.

    What breaks off leaves nothing behind: the bytes go to a temporary file first.
    """
    limit = upload_limit()
    if int(request.headers.get("content-length") or 0) > limit:
        return _too_large(limit)
    digest, size = hashlib.sha256(), 0
    with tempfile.NamedTemporaryFile() as file:
        async for chunk in request.stream():
            size += len(chunk)
            if size > limit:
                return _too_large(limit)
            digest.update(chunk)
            await asyncio.to_thread(file.write, chunk)
        file.flush()
        sha256 = digest.hexdigest()
        if not await asyncio.to_thread(blobs.exists, f"sources/{sha256}"):
            await asyncio.to_thread(blobs.put_file, f"sources/{sha256}", Path(file.name))
    return Uploaded(name=name[:400], sha256=sha256, bytes=size)


def _too_large(limit: int) -> Response:
    size = f"{limit / (1 << 20):,.0f} MB"
    return problem(413, "too-large", f"The file is larger than {size}.", "Ask for it in pieces, or raise the limit.")


@router.get("/jobs")
def list_jobs() -> list[JobLine]:
    with session() as s:
        return overview.job_lines(s)


@router.post("/jobs", status_code=201)
def create_job(new: NewJob) -> JobView:
    """Make a job of files that were uploaded before."""
    files = _uploaded(new.files)
    with session() as s:
        job = actions.create_job(s, new.name, files)
        s.flush()
        return overview.job_view(s, job.id)


def _uploaded(files: list[FileIn]) -> list[dict[str, Any]]:
    for item in files:
        if not blobs.exists(f"sources/{item.sha256}"):
            raise SettingsError(f"The file “{item.name[:80]}” was not uploaded.", "Upload it first.")
    return [{"name": i.name, "sha256": i.sha256, "bytes": blobs.size(f"sources/{i.sha256}")} for i in files]


@router.get("/jobs/{job_id}")
def get_job(job_id: int) -> JobView:
    with session() as s:
        return overview.job_view(s, job_id)


@router.delete("/jobs/{job_id}", status_code=204)
def delete_job(job_id: int) -> None:
    """Remove the job from the list. Blobs are shared between jobs and stay."""
    with session() as s:
        actions.job_of(s, job_id)
        s.execute(update(Job).where(Job.id == job_id).values(head_id=None))
        s.execute(delete(Job).where(Job.id == job_id))


@router.post("/jobs/{job_id}/sources", status_code=201)
def add_source(job_id: int, new: NewSource) -> JobView:
    """One more source beside those that are there, of files that were uploaded before."""
    files = _uploaded(new.files)
    with session() as s:
        actions.add_source(s, job_id, files)
        s.flush()
        return overview.job_view(s, job_id)


@router.put("/jobs/{job_id}/sources/{ref}")
def replace_source(job_id: int, ref: str, new: NewSource) -> JobView:
    """A new revision of one source; decisions stay."""
    files = _uploaded(new.files)
    with session() as s:
        actions.replace_source(s, job_id, ref, files)
        s.flush()
        return overview.job_view(s, job_id)


@router.get("/jobs/{job_id}/structure", response_model=StructureView)
def get_structure(job_id: int, request: Request) -> Response:
    """The tree and parts: first the tree alone, where a source tells it early, then all."""
    with session() as s:
        models = _models(s, job_id, skeletons=True)
    return packed_answer(structure.structure(models), request)


@router.get("/jobs/{job_id}/sources/{ref}/clean")
def get_clean(job_id: int, ref: str) -> Response:
    """A drawing without what is foreign to its format, as a file to save."""
    with session() as s:
        models = _models(s, job_id)
    key = next((key for name, _, key in models if name == ref), None)
    try:
        data = blobs.get(f"clean/{key}")
    except KeyError as error:
        raise NothingThere("There is no cleaned file of this source: nothing in it was foreign.") from error
    name = f"{file_stem(ref, set())}-clean.svg"
    return Response(data, media_type="image/svg+xml", headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.get("/jobs/{job_id}/outlines", response_model=OutlinesView)
def get_outlines(job_id: int, request: Request) -> Response:
    """What was drawn, on the plan: outlines with what becomes of each."""
    with session() as s:
        _models(s, job_id)
        return packed_answer(packed_json(outlines.outlines_view(s, job_id)), request)


@router.get("/jobs/{job_id}/details")
def get_details(job_id: int, node: int) -> DetailsView:
    """The property sets of one node of the structure."""
    with session() as s:
        models = _models(s, job_id, skeletons=True)
    return structure.details(models, node)


@router.get("/jobs/{job_id}/result", response_model=ResultView)
def get_result(job_id: int) -> Response:
    """What the decisions in force come to, over the meshes made so far."""
    with session() as s:
        _models(s, job_id)
        return Response(json_bytes(result.result(s, job_id)), media_type="application/json")


@router.get("/jobs/{job_id}/tallies")
def get_tallies(job_id: int) -> list[TallyView]:
    """What each layer, class, storey and group holds and would add."""
    with session() as s:
        _models(s, job_id)
        return choosing.tallies(s, job_id)


@router.get("/jobs/{job_id}/plan")
def get_plan(job_id: int) -> PlanView:
    """Outlines on the plan, to draw a polygon over."""
    with session() as s:
        _models(s, job_id)
        return choosing.plan_view(s, job_id)


def _models(s: Session, job_id: int, skeletons: bool = False) -> Models:
    actions.job_of(s, job_id)
    models = actions.models_of(actions.sources_of(s, job_id), skeletons)
    if not models:
        raise NothingThere("No source is read yet.", "Wait until Receive is done.")
    return models


@router.post("/jobs/{job_id}/offers")
def take_offer(job_id: int, taken: OfferIn) -> JobView:
    """Take the remedy that a finding offers: a decision like any other, which undo takes back."""
    with session() as s:
        offer = Offer(taken.label, taken.does, taken.values)
        actions.take(s, job_id, offer, taken.source, taken.parts)
        return overview.job_view(s, job_id)


@router.put("/jobs/{job_id}/decisions")
def put_decisions(job_id: int, new: DecisionsIn) -> JobView:
    """Put decisions in force; the meshes they lack are queued."""
    with session() as s:
        actions.decide(s, job_id, new.decisions, new.label, new.continues)
        return overview.job_view(s, job_id)


@router.post("/jobs/{job_id}/undo")
def undo(job_id: int) -> JobView:
    with session() as s:
        actions.undo(s, job_id)
        return overview.job_view(s, job_id)


@router.post("/jobs/{job_id}/redo")
def redo(job_id: int) -> JobView:
    with session() as s:
        actions.redo(s, job_id)
        return overview.job_view(s, job_id)


@router.get("/jobs/{job_id}/history")
def get_history(job_id: int) -> list[HistoryLine]:
    with session() as s:
        return overview.history(s, job_id)


@router.post("/jobs/{job_id}/cancel")
def cancel(job_id: int) -> JobView:
    """Stop reading and meshing."""
    with session() as s:
        actions.job_of(s, job_id)
        actions.cancel_climb(s, job_id)
        return overview.job_view(s, job_id)


@router.post("/jobs/{job_id}/resume")
def resume(job_id: int) -> JobView:
    """Take up again what was cancelled."""
    with session() as s:
        actions.resume(s, job_id)
        return overview.job_view(s, job_id)


@router.get("/jobs/{job_id}/events")
async def events(job_id: int, request: Request) -> StreamingResponse:
    """Server-sent events: the job whenever it changes. Subscribes first, then sends how it stands."""
    bell: Bell = request.app.state.bell

    def snapshot() -> str:
        with session() as s:
            return overview.job_view(s, job_id).model_dump_json()

    async def stream() -> AsyncIterator[str]:
        with bell.listen(job_id) as rung:
            while True:
                try:
                    yield f"event: job\ndata: {await asyncio.to_thread(snapshot)}\n\n"
                except NothingThere:
                    return
                while not rung.is_set():
                    try:
                        await asyncio.wait_for(rung.wait(), 15)
                    except TimeoutError:
                        yield ": still here\n\n"
                rung.clear()
                await asyncio.sleep(0.1)

    with session() as s:
        actions.job_of(s, job_id)
    return StreamingResponse(stream(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})


@router.post("/jobs/{job_id}/deliveries", status_code=201)
def create_delivery(job_id: int) -> DeliveryView:
    """Ship what is in force to its target."""
    with session() as s:
        row = actions.ship(s, job_id)
        return overview.delivery_view(row, actions.job_of(s, job_id), actions.models_of(actions.sources_of(s, job_id)))


@router.post("/deliveries/{delivery_id}/cancel", status_code=204)
def cancel_delivery(delivery_id: int) -> None:
    with session() as s:
        actions.cancel_delivery(s, delivery_id)


@router.get("/deliveries/{delivery_id}/bundle", response_class=StreamingResponse)
def download(delivery_id: int) -> Response:
    """The delivery's files and receipt as one ZIP."""
    with session() as s:
        row = s.get(DeliveryRow, delivery_id)
        if row is None or row.bundle is None:
            raise NothingThere("There is no such delivery, or it is not done.")
        name, size = row.bundle, row.bundle_bytes
        job = s.scalars(select(Job).where(Job.id == row.job_id)).one()
        shown = re.sub(r"[^A-Za-z0-9_-]+", "-", job.name).strip("-")[:60] or "delivery"
    return StreamingResponse(
        blobs.stream(f"deliveries/{name}"),
        media_type="application/zip",
        headers={"Content-Disposition": f'attachment; filename="{shown}.zip"', "Content-Length": str(size)},
    )


@router.get("/packs/{name}", response_class=StreamingResponse)
def pack(name: str) -> Response:
    """Meshes by content: a GLB that never changes under its name."""
    if not re.fullmatch(r"[0-9a-f]{64}\.glb", name):
        raise NothingThere("There is no such pack.")
    try:
        chunks: Iterator[bytes] = blobs.stream(f"packs/{name}")
    except KeyError as error:
        raise NothingThere("There is no such pack.") from error
    return StreamingResponse(chunks, media_type="model/gltf-binary", headers=_FOREVER)


@router.get("/library")
def get_library() -> LibraryView:
    """The materials that rules can give."""
    return overview.library()


@router.get("/lengths")
def get_length(
    text: Annotated[str, Query(max_length=200)],
    bare: Annotated[str | None, Query(max_length=20, description="unit of a number without one")] = None,
    signed: bool = False,
) -> LengthView:
    """A typed length as it is read everywhere: `13' 1 15/16"`, `1 850`, `2m + 35cm`. Where it is none, the problem
    says which characters were not understood."""
    reading = read_length(text, unit(bare).code if bare else None, signed)
    return LengthView(
        metres=float(reading.metres), said=say_metric(float(reading.metres)),
        other=None if reading.other is None else float(reading.other),
        other_said=None if reading.other is None else say_metric(float(reading.other)),
    )  # fmt: skip


@router.get("/health", include_in_schema=False)
def health() -> JSONResponse:
    with session() as s:
        s.execute(select(1))
    return JSONResponse({"ok": True})
