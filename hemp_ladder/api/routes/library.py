"""What is the same for every job; packs of meshes; typed lengths; whether the house is well."""

import logging
import re
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import JSONResponse, Response
from sqlalchemy import select

from hemp_ladder.api import overview
from hemp_ladder.api.downloads import blob_answer
from hemp_ladder.api.library_views import LibraryView
from hemp_ladder.api.views import FaultIn, LengthView
from hemp_ladder.core.lengths import read_length
from hemp_ladder.core.units import say_metric, unit
from hemp_ladder.store.database import session
from hemp_ladder.work.sources import NothingThere

router = APIRouter()
_log = logging.getLogger("uvicorn.error")
_GLB: dict[int | str, dict[str, object]] = {200: {"content": {"model/gltf-binary": {}}}}


@router.get("/packs/{name}", response_class=Response, responses=_GLB)
def pack(name: str, request: Request) -> Response:
    """Meshes by content: a GLB that never changes under its name."""
    if not re.fullmatch(r"[0-9a-f]{64}\.glb", name):
        raise NothingThere("There is no such pack.")
    return blob_answer(request, f"packs/{name}", "model/gltf-binary")


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


@router.post("/faults", status_code=204)
def note_fault(fault: FaultIn) -> None:
    """A fault that happened in a browser, for the log."""
    _log.error("in a browser, %s: %s %s", fault.where, fault.message, " ".join(fault.stack.split())[:2000])


@router.get("/health", include_in_schema=False)
def health() -> JSONResponse:
    with session() as s:
        s.execute(select(1))
    return JSONResponse({"ok": True})
