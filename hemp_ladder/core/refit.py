"""A climb's result as the ways to fit see it: with the outermost points of what was made."""

from collections.abc import Callable

from hemp_ladder.core.climb import Plan, Result
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.fit.hulls import hulls_of
from hemp_ladder.core.fit.standing import Standing
from hemp_ladder.core.fit.ways import Way, fit_by
from hemp_ladder.core.mesh.mesh import Mesh


def standing_of(planned: Plan, mesh_of: Callable[[int], Mesh | None]) -> Standing:
    """What entered a job; `mesh_of` gives the mesh of a part by index where it is made."""
    return Standing(planned.model, planned.decisions.fit, hulls_of(planned.fitted, planned.taken.placements, mesh_of))


def fitted_by(decisions: Decisions, standing: Standing, way: Way) -> Decisions:
    """The decisions after a way. A polygon that says what enters goes along when the origin moves."""
    settings = fit_by(standing, way)
    after = Standing(standing.model, settings)
    region = decisions.receive.region
    update = {"fit": settings}
    if region is not None:
        x, y = (float(a - b) for a, b in zip(standing.fitted.offset[:2], after.fitted.offset[:2], strict=True))
        polygon = tuple((px + x, py + y) for px, py in region.polygon)
        receive = decisions.receive.model_copy(update={"region": region.model_copy(update={"polygon": polygon})})
        update["receive"] = receive  # type: ignore[assignment]
    return decisions.model_copy(update=update)


def standing_after(result: Result, decisions: Decisions) -> Standing:
    """Of a whole result, for the command line."""
    return Standing(result.model, decisions.fit, hulls_of(result.fitted, result.sorted.placements, result.mesh_of))
