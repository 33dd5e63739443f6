"""Sort: the board of rules, names, leftovers, sets of rules, and what a shipped mesh is."""

from typing import Annotated

from fastapi import APIRouter, Path, Query
from fastapi.responses import Response

from hemp_ladder.api import overview, sorting
from hemp_ladder.api.routes.common import SOON, Id, models_of_job
from hemp_ladder.api.sort_views import (
    AssignIn,
    CopiesView,
    DropIn,
    JoinView,
    LeftoverView,
    NamesIn,
    NamesView,
    NodesIn,
    RuleSetIn,
    RuleSetView,
    RulesView,
    SelectionView,
    ShareIn,
    WhyView,
    WithoutView,
)  # fmt: skip
from hemp_ladder.api.views import JobView
from hemp_ladder.core.sort.leftovers import TINY
from hemp_ladder.core.sort.settings import By
from hemp_ladder.store.database import session
from hemp_ladder.work import kept, sharing
from hemp_ladder.work import sorting as work

router = APIRouter()
Number = Annotated[int, Path(ge=0, le=(1 << 31) - 1)]


@router.get("/jobs/{job_id}/sort/rules")
def get_rules(job_id: Id, by: By = "layer") -> RulesView:
    """What each rule decides, and every value of a kind with what it wears."""
    with session() as s:
        models_of_job(s, job_id, skeletons=True)
        return sorting.rules_view(s, job_id, by)


@router.get("/jobs/{job_id}/sort/rules/{number}/without")
def get_without(job_id: Id, number: Number) -> WithoutView:
    """What if a rule were gone."""
    with session() as s:
        return sorting.without(s, job_id, number)


@router.get("/jobs/{job_id}/sort/why/{node}")
def get_why(job_id: Id, node: Number) -> WhyView:
    """Why a placement wears what it does."""
    with session() as s:
        return sorting.why(s, job_id, node)


@router.post("/jobs/{job_id}/sort/assign")
def post_assign(job_id: Id, given: AssignIn) -> JobView:
    """Give what has some values a material: a decision like any other."""
    with session() as s:
        work.assign(s, job_id, given.by, given.values, given.material)
        return overview.job_view(s, job_id)


@router.post("/jobs/{job_id}/sort/names")
def post_names(job_id: Id, given: NamesIn) -> NamesView:
    """What names would become, without deciding anything."""
    with session() as s:
        models_of_job(s, job_id, skeletons=True)
        return sorting.names_view(s, job_id, given.steps)


@router.get("/jobs/{job_id}/sort/leftovers")
def get_leftovers(job_id: Id, tiny: Annotated[float, Query(gt=0, le=1e6)] = TINY) -> list[LeftoverView]:
    """What came along and nobody wants in a picture; `tiny` in metres."""
    with session() as s:
        models_of_job(s, job_id, skeletons=True)
        return sorting.leftover_views(s, job_id, tiny)


@router.post("/jobs/{job_id}/sort/leftovers")
def post_leftovers(job_id: Id, given: DropIn) -> JobView:
    """Leave leftovers of these kinds out."""
    with session() as s:
        models_of_job(s, job_id)
        work.drop(s, job_id, given.kinds, given.tiny)
        return overview.job_view(s, job_id)


@router.get("/jobs/{job_id}/sort/joins")
def get_joins(job_id: Id) -> list[JoinView]:
    """What every way of joining meshes gives."""
    with session() as s:
        models_of_job(s, job_id, skeletons=True)
        return sorting.joins(s, job_id)


@router.get("/jobs/{job_id}/sort/copies", response_model=CopiesView, responses=SOON)
def get_copies(job_id: Id, tolerance: Annotated[float, Query(gt=0, le=1)] = 1e-5) -> Response:
    """Parts that are copies of others up to a move, a turn or a mirror, within a tolerance in metres; 202 while they are
    looked for."""
    with session() as s:
        models_of_job(s, job_id)
        found = sorting.copies_view(s, job_id, tolerance)
    if found is None:
        return Response(status_code=202, headers={"Retry-After": "1"})
    return Response(found.model_dump_json(), media_type="application/json")


@router.post("/jobs/{job_id}/sort/copies")
def post_copies(job_id: Id, given: ShareIn) -> JobView:
    """Have copies that were found share their shapes."""
    with session() as s:
        models_of_job(s, job_id)
        sharing.share(s, job_id, given.tolerance)
        return overview.job_view(s, job_id)


@router.get("/jobs/{job_id}/sort/selections")
def get_selections(job_id: Id) -> list[SelectionView]:
    """Selections that are kept, by the numbers that parts and nodes have now."""
    with session() as s:
        return sorting.selection_views(s, job_id)


@router.post("/jobs/{job_id}/sort/placements")
def post_placements(job_id: Id, given: NodesIn) -> list[str]:
    """What decisions call placements, given by their nodes."""
    with session() as s:
        return sorting.placement_refs(s, job_id, given.nodes)


@router.get("/rule-sets")
def get_rule_sets() -> list[RuleSetView]:
    with session() as s:
        return [
            RuleSetView(number=n, name=name, rules=len(item.rules), names=len(item.names), order=item.order is not None)
            for n, name, item in work.rule_sets(s)
        ]


@router.post("/jobs/{job_id}/rule-sets")
def keep_rule_set(job_id: Id, given: RuleSetIn) -> list[RuleSetView]:
    """Keep the rules of a job for others; a set of that name gives way."""
    with session() as s:
        work.keep_rules(s, job_id, given.name, given.names, given.order)
    return get_rule_sets()


@router.post("/jobs/{job_id}/rule-sets/{number}")
def use_rule_set(job_id: Id, number: Id) -> JobView:
    """Put a kept set behind the job's own rules."""
    with session() as s:
        work.use_rules(s, job_id, number)
        return overview.job_view(s, job_id)


@router.delete("/rule-sets/{number}", status_code=204)
def forget_rule_set(number: Id) -> None:
    with session() as s:
        kept.forget(s, work.RULES, number)
