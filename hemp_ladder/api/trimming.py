"""What Trim comes to, and grades of parts, worked out over whatever meshes are there."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy.orm import Session

from hemp_ladder.api.trim_views import CostsView, GoalIn, GradePart, GradesView, GradeView, LevelView, TrimTold
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.climb import Plan
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.fit.lookouts import lookouts_of
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.ship.costs import cost_of, excess
from hemp_ladder.core.trim.goal import Goal
from hemp_ladder.core.trim.lost import LOST, lost
from hemp_ladder.core.trim.pixels import Seen, pixels_per_metre
from hemp_ladder.core.trim.settings import Level
from hemp_ladder.store import meshes
from hemp_ladder.store.meshes import Stored
from hemp_ladder.work.fitting import plan_now
from hemp_ladder.work.trimming import Aim, graded, load_of, step_for, want_grades


def apart(known: Figures | None) -> float:
    """The largest distance that was measured between a trimmed mesh and the full one, in source coordinates."""
    told = known.trimmed if known is not None else {}
    return max(told["there"], told["back"]) if told else 0.0


def pixels_of(now: Plan) -> NDArray[np.float64] | None:
    """For every part, how many pixels a metre of it is wide in the picture of the lookout that is chosen, at its nearest
    placement; None where none is."""
    wanted = now.decisions.trim.view
    view = next((item for item in lookouts_of(now.fitted, now.decisions.fit) if item.name == wanted.lookout), None)
    if view is None or not wanted.lookout:
        return None
    world = now.fitted.placements()[now.sorted.placements]
    parts = now.sorted.parts
    boxes = np.array([part.box for part in now.model.parts], float).reshape(-1, 2, 3)
    middles = boxes.mean(axis=1)[parts]
    placed = np.einsum("pij,pj->pi", world[:, :3, :3], middles) + world[:, :3, 3]
    sizes = np.linalg.norm(boxes[:, 1] - boxes[:, 0], axis=1)[parts] / 2
    stretch = np.linalg.norm(world[:, :3, :3], axis=1).max(axis=1)
    seen = Seen(view.eye, view.way, view.tall, view.wide, view.reach)
    found = np.zeros(len(boxes))
    np.maximum.at(found, parts, pixels_per_metre(seen, wanted.width, placed, sizes * stretch))
    return found


def told(
    now: Plan, figures: Mapping[str, Figures], times: Sequence[int], pixels: NDArray[np.float64] | None
) -> TrimTold:
    """What Trim comes to at the full level and at lighter ones."""
    target, trim = now.decisions.ship.target, now.decisions.trim
    costs = cost_of(load_of(now, figures, now.chains), target)
    deviation, worst, gone, before = _level(now, now.chains, figures, times)
    levels = []
    for level in trim.levels:
        chains = now.levels[level.name]
        off, where, bad, _ = _level(now, chains, figures, times)
        made = all(chain is None or not n or chain.key in figures for chain, n in zip(chains, times, strict=True))
        weighs = cost_of(load_of(now, figures, chains), target)
        stayed = _stayed(level, chains, figures, times)
        levels.append(LevelView(
            name=level.name, triangles=weighs.triangles if made else None, bytes=weighs.bytes, deviation=off,
            worst=where, lost=len(bad) if level.steps and level.steps[0].does == "reduce" else 0,
            stayed=len(stayed), why=stayed[0] if stayed else "",
        ))  # fmt: skip
    return TrimTold(
        before=before, joined=_joined(now, figures, times), deviation=deviation, worst=worst, lost=gone, levels=levels,
        pixels=_in_pixels(now, now.chains, figures, pixels), costs=CostsView(**asdict(costs)),
        over={str(gauge): much for gauge, much in excess(costs, trim.limit).items()},
    )  # fmt: skip


def _level(
    now: Plan, chains: Sequence[Chain | None], figures: Mapping[str, Figures], times: Sequence[int]
) -> tuple[float, int | None, list[int], int]:
    """Of a level: the largest deviation in metres, whose it is, which parts lost their shape, and the triangles before."""
    worst, where, gone, before = 0.0, None, [], 0
    for part, (chain, count) in enumerate(zip(chains, times, strict=True)):
        known = figures.get(chain.key) if chain is not None and count else None
        if known is None:
            continue
        before += count * int(known.trimmed.get("triangles", known.triangles))
        if known.trimmed:
            off = apart(known) * float(now.fitted.scale_of(part))
            if off >= worst:
                worst, where = off, part
            if lost(known.trimmed, now.decisions.trim.lost):
                gone.append(part)
    return worst, where, gone, before


def _stayed(
    level: Level, chains: Sequence[Chain | None], figures: Mapping[str, Figures], times: Sequence[int]
) -> list[str]:
    """Why parts stay as they are at a level, one sentence for each."""
    name = level.steps[0].name() if level.steps else ""
    known = [figures.get(chain.key) for chain, n in zip(chains, times, strict=True) if chain is not None and n]
    return [item.refused[name] for item in known if item is not None and name in item.refused]


def _joined(now: Plan, figures: Mapping[str, Figures], times: Sequence[int]) -> int:
    known = [figures.get(chain.key) for chain, n in zip(now.chains, times, strict=True) if chain is not None and n]
    return int(sum(item.trimmed.get("joined", 0) for item in known if item is not None))


def _in_pixels(
    now: Plan, chains: Sequence[Chain | None], figures: Mapping[str, Figures], pixels: NDArray[np.float64] | None
) -> float | None:
    if pixels is None:
        return None
    wide = [
        apart(figures.get(chain.key)) * float(now.fitted.scale_of(part)) * float(pixels[part])
        for part, chain in enumerate(chains) if chain is not None
    ]  # fmt: skip
    return max(wide, default=0.0)


def grades(session: Session, job_id: int, parts: Sequence[int], goals: Sequence[GoalIn]) -> GradesView:
    """Parts, by index, as they are and at each goal. What is not there is queued; ask again. Raises SettingsError for parts
    that do not stand, and for goals that make no sense."""
    now = plan_now(session, job_id)[1]
    chosen = [part for part in dict.fromkeys(parts) if part < len(now.chains) and now.chains[part] is not None]
    if not chosen:
        raise SettingsError("None of these parts stands in the job.", "Choose others.")
    aims: list[GoalIn | None] = [None, *goals]
    rows: list[dict[int, Chain]] = []
    for aim in aims:
        step = step_for(session, now, chosen, Aim(Goal(aim.by, aim.value))) if aim is not None else None
        rows.append({part: chain for part in chosen if (chain := graded(now, part, step)) is not None})
    wanted = {chain.key: chain for row in rows for chain in row.values()}
    there = meshes.stored(session, wanted)
    failed = meshes.failures_of(session, wanted)
    missing = [chain for key, chain in wanted.items() if key not in there and key not in failed]
    if missing:
        want_grades(session, job_id, missing)
    pixels = pixels_of(now)
    return GradesView(grades=[
        _grade(now, aim, row, there, failed, pixels) for aim, row in zip(aims, rows, strict=True)
    ])  # fmt: skip


def _grade(
    now: Plan, aim: GoalIn | None, row: Mapping[int, Chain], there: Mapping[str, Stored], failed: Mapping[str, str],
    pixels: NDArray[np.float64] | None,
) -> GradeView:  # fmt: skip
    parts = [
        _grade_part(now, part, chain, there.get(chain.key), failed.get(chain.key), pixels)
        for part, chain in row.items()
    ]
    chains = [row.get(part) for part in range(len(now.chains))]
    costs = cost_of(load_of(now, {key: item.figures for key, item in there.items()}, chains), now.decisions.ship.target)
    worst = max(parts, key=lambda item: item.deviation or 0.0)
    wide = [item.pixels for item in parts if item.pixels is not None]
    return GradeView(
        goal=aim, parts=parts, ready=all(item.triangles is not None or item.note for item in parts),
        triangles=costs.triangles, bytes=costs.bytes - costs.picture_bytes, deviation=worst.deviation or 0.0,
        worst=worst.part if worst.deviation else None, pixels=max(wide) if wide else None,
    )  # fmt: skip


def _grade_part(
    now: Plan, part: int, chain: Chain, found: Stored | None, failure: str | None, pixels: NDArray[np.float64] | None
) -> GradePart:
    if found is None:
        return GradePart(part=part, note=failure or "")
    known, scale = found.figures, float(now.fitted.scale_of(part))
    off = apart(known) * scale
    values: dict[str, Any] = {}
    if pixels is not None:
        values["pixels"] = off * float(pixels[part])
    return GradePart(
        part=part, mesh=chain.key, pack=found.pack if known.triangles else None, triangles=known.triangles,
        vertices=known.vertices, deviation=off, note=known.refused.get("reduce", ""),
        lost=[LOST[name] for name in lost(known.trimmed, now.decisions.trim.lost)] if known.trimmed else [], **values,
    )  # fmt: skip
