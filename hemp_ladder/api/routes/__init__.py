"""The resources under `/api`, a room each."""

from fastapi import APIRouter

from hemp_ladder.api.routes import (
    again,
    candidates,
    decisions,
    deliveries,
    facet,
    fit,
    jobs,
    library,
    maps,
    mend,
    pictures,
    results,
    shelf,
    sort,
    sources,
    trim,
    uploads,
)
from hemp_ladder.api.routes.common import PROBLEMS

router = APIRouter(prefix="/api", responses=PROBLEMS)
for _room in (
    uploads,
    jobs,
    pictures,
    sources,
    candidates,
    results,
    facet,
    fit,
    mend,
    trim,
    sort,
    decisions,
    again,
    deliveries,
    maps,
    shelf,
    library,
):
    router.include_router(_room.router)
