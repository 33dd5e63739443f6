"""The decisions in force, worked out over whatever meshes are there."""

import base64
from collections import Counter
from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import select
from sqlalchemy.orm import Session

from hemp_ladder.api import trimming
from hemp_ladder.api.overview import climb_view, finding_view, material_view
from hemp_ladder.api.result_part import MEANT, part_result
from hemp_ladder.api.result_views import (
    AddedNode,
    DrawnView,
    DressView,
    FittedView,
    LookoutView,
    Measured,
    ResultNews,
    ResultView,
    TreeView,
)  # fmt: skip
from hemp_ladder.api.rungs import facet_rung, fit_rung, mend_rung, sort_rung, trim_rung
from hemp_ladder.api.structure import part_view
from hemp_ladder.api.views import Known
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.climb import Plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.facet.review import review_meshes
from hemp_ladder.core.findings import Finding
from hemp_ladder.core.fit import FitSettings, SourceFit, climb_fit, moved_box
from hemp_ladder.core.fit.lookouts import lookouts_of
from hemp_ladder.core.keys import joined_key
from hemp_ladder.core.mend.review import review_mend
from hemp_ladder.core.mesh.figures import Figures, effects_in_all
from hemp_ladder.core.model.material import UNDECIDED
from hemp_ladder.core.ship.costs import review_limit
from hemp_ladder.core.ship.naming import review_names
from hemp_ladder.core.sort import BY_NOTHING, BY_SOURCE, Dress, Rule, Sorted
from hemp_ladder.core.sort.alike import alike
from hemp_ladder.core.sort.apart import colours_apart
from hemp_ladder.core.sort.board import said
from hemp_ladder.core.sort.order.climb import first_names
from hemp_ladder.core.sort.order.names import says_nothing
from hemp_ladder.core.sort.palette import pictures_of
from hemp_ladder.core.trim.review import review_trim
from hemp_ladder.store import meshes, model_blob
from hemp_ladder.store.meshes import Stored
from hemp_ladder.store.tables import DecisionsRow
from hemp_ladder.work.actions import Conflict, decisions_of
from hemp_ladder.work.plans import Models, planned
from hemp_ladder.work.sources import job_of, models_of, sources_of
from hemp_ladder.work.trimming import load_of

#: Bytes a vertex and a triangle take in a GLB: position and normal, and three indices.
_VERTEX_BYTES, _TRIANGLE_BYTES = 24, 9


def result(session: Session, job_id: int) -> ResultView:
    """What the job comes to now. There must be a source that is read."""
    job = job_of(session, job_id)
    row, given = decisions_of(session, job)
    models = models_of(sources_of(session, job_id), skeletons=True)
    now = planned(models, given)
    decisions = now.decisions
    # Asked before the meshes: what comes in between is counted, though not said to be there; not the other way round.
    climb = climb_view(session, job, models, decisions)
    there = mesh_rows(session, now)
    failed = meshes.failures_of(session, now.wanted())
    before, triangles_before = _before(session, row, models, now)
    figures = {key: mesh.figures for key, mesh in there.items()}
    pixels = trimming.pixels_of(now)
    parts = [
        part_result(index, decisions, now, there, figures, failed, before.get(index), pixels)
        for index in range(len(now.model.parts))
    ]
    times = np.bincount(now.sorted.parts, minlength=len(parts)).tolist()
    box = now.taken.box(_boxes(now, figures))
    joined = model_blob.load_joined(models)
    noticed = [
        *review_meshes(now.fitted, now.chains, now.flipped, figures, times, failed),
        *review_mend(now.fitted, now.chains, figures, times),
        *review_trim(now.fitted, now.levels, figures, times, decisions.trim.lost),
        *review_limit(
            load_of(now, figures, now.chains), decisions.ship.target, decisions.trim.limit,
            [part.label for part in now.model.parts], [item.before_trim is not None for item in parts],
        ),
        *_unfit_names(now),
    ]  # fmt: skip
    used = [(part, count) for part, count in zip(parts, times, strict=True) if count and part.triangles is not None]
    unique = {part.mesh: part for part, _ in used}.values()
    # Pieces of a polygon come first behind the structure's parts, then shells and joined parts with nodes of their own.
    pieces = sum(1 for part in now.model.parts[len(joined.parts) :] if part.cut is not None and part.shells is None)
    behind = len(joined.parts) + pieces
    cut_nodes = [i for i, node in enumerate(now.model.nodes[: len(joined.nodes)]) if node.part >= len(joined.parts)]
    size = (box[1] - box[0]).tolist()
    rules, used_materials, loose = decisions.sort.rules, now.sorted.materials(), now.sorted.loose_parts()
    apart = colours_apart(used_materials, now.sorted.palette)
    standing = [
        (i, p) for i, (p, count) in enumerate(zip(parts, times, strict=True)) if count and p.triangles is not None
    ]
    inside_out = [i for i, p in standing if p.watertight and p.inside_out != p.flipped]
    open_parts = [i for i, p in standing if not p.watertight]
    damaged = sum(1 for _, p in standing if not MEANT.issuperset(p.flaws))
    failed_parts = sum(1 for p, count in zip(parts, times, strict=True) if count and (p.failed_faces or p.failure))
    triangles = sum((part.triangles or 0) * count for part, count in used)
    levels = {name: _triangles_at(chains, figures, times) for name, chains in now.levels.items()}
    pictures = pictures_of(now.model, now.decisions.sort)
    trimmed = trimming.told(now, figures, times, pixels)
    return ResultView.model_construct(
        decisions_id=row.id, model_key=joined_key(list(models)), sources=_sources(now, _fit_before(session, row, now)),
        size=size, box=box.tolist(), parts=parts,
        cut_parts=[part_view(part, 1) for part in now.model.parts[len(joined.parts) : behind]], cut_nodes=cut_nodes,
        added_parts=[part_view(part, times[i]) for i, part in enumerate(now.model.parts[behind:], behind)],
        added_nodes=_added_nodes(now, len(joined.nodes)), base_parts=len(joined.parts),
        placements=now.sorted.placements.tolist(),
        left_out=len(now.model.columns.node) - len(now.sorted.placements),
        dresses=[
            DressView(
                materials=list(d.materials), rules=list(d.rules), face_slots=[list(slot) for slot in d.face_slots],
                why=_why(d, rules), loose=d.loose,
            )
            for d in now.sorted.dresses
        ],
        dress_of=now.sorted.dress_of.tolist(), layers=now.sorted.layers, layer_of=now.sorted.layer_of.tolist(),
        materials=[material_view(now.sorted.palette[id_], apart, pictures) for id_ in used_materials],
        alike=[[item.id for item in group] for group in alike([now.sorted.palette[id_] for id_ in used_materials])],
        lookouts=_lookouts(now), sun=_sun(now), offset=list(now.fitted.offset), yardstick=decisions.fit.yardstick,
        palette=[material_view(item, apart, pictures) for item in now.sorted.palette.values() if item is not UNDECIDED],
        drawn=_drawn(now),
        triangles=triangles,
        vertices=sum((part.vertices or 0) * count for part, count in used),
        triangles_before=triangles_before,
        loose_parts=loose, inside_out=inside_out, open_parts=open_parts, failed_parts=failed_parts,
        rule_counts=_rule_counts(now.sorted, len(rules)),
        names=now.order.names.names if now.order.names is not None else None,
        tree=_tree(now), unnamed=[i for i, part in enumerate(now.model.parts) if says_nothing(part.name)],
        rungs={
            "Fit": fit_rung([s.unit for s in now.fitted.sources], [s.up for s in now.fitted.sources], size),
            "Facet": facet_rung(climb, triangles, failed_parts),
            "Sort": sort_rung(len(loose), len(used_materials)),
            "Mend": mend_rung(len(inside_out), len(open_parts), damaged),
            "Trim": trim_rung(triangles, trimmed),
        },
        effects=effects_in_all(
            (figures.get(chain.key) if chain is not None and count else None, count)
            for chain, count in zip(now.chains, times, strict=True)
        ),
        levels=levels,
        slender=sum(part.slender * count for part, count in used),
        off_by=max((p.off_by or 0.0 for p, _ in used), default=0.0),
        glb_bytes=sum(_VERTEX_BYTES * (p.vertices or 0) + _TRIANGLE_BYTES * (p.triangles or 0) for p in unique),
        trim=trimmed,
        findings=[finding_view(item, now.model, decisions, now.taken.shaped.roles) for item in noticed],
    )  # fmt: skip


def news(session: Session, job_id: int, known: Known) -> ResultNews:
    """What a result has become since the parts in `known` were meshed. Raises Conflict where it is another altogether."""
    now = result(session, job_id)
    if (now.decisions_id, now.model_key) != (known.decisions_id, known.model_key):
        raise Conflict
    try:
        packed = np.frombuffer(base64.b64decode(known.parts, validate=True), np.uint8)
    except ValueError as error:
        raise SettingsError("That names no parts.", "Send bits, a part each, as base64.") from error
    had = np.zeros(len(now.parts), bool)
    bits = np.unpackbits(packed, bitorder="little")[: len(had)]
    had[: len(bits)] = bits
    changed = {
        i: part
        for i, part in enumerate(now.parts)
        if not had[i] and (part.triangles is not None or part.failure is not None)
    }
    values = {name: getattr(now, name) for name in Measured.model_fields}
    return ResultNews.model_construct(changed=changed, **values)


def _why(dress: Dress, rules: Sequence[Rule]) -> str:
    """What decided what is worn, in words; nothing for what nothing decided."""
    words = []
    for number in dict.fromkeys(dress.rules):
        if number == BY_SOURCE:
            words.append("source colour")
        elif number != BY_NOTHING:
            rule = rules[number]
            words.append(said(rule))
    return ", ".join(words)


def _rule_counts(sorted_: Sorted, rules: int) -> list[int]:
    """How many placements each rule decides, in part at least."""
    placements = np.bincount(sorted_.dress_of, minlength=len(sorted_.dresses)).tolist()
    counts = [0] * rules
    for dress, count in zip(sorted_.dresses, placements, strict=True):
        for number in set(dress.rules):
            if number >= 0:
                counts[number] += count
    return counts


def _tree(now: Plan) -> TreeView | None:
    tree = now.order.tree
    if tree is None:
        return None
    return TreeView(
        ids=[group.id for group in tree.groups], names=[group.name for group in tree.groups],
        parents=[group.parent for group in tree.groups], pivots=[list(group.pivot) if group.pivot else None for group in tree.groups],
        counts=tree.counts, of=tree.of.tolist(),
    )  # fmt: skip


def _added_nodes(now: Plan, first: int) -> list[AddedNode]:
    """The nodes of shells and joined parts, which the structure does not have."""
    return [
        AddedNode(
            name=node.name, parent=node.parent, part=node.part, member=int(now.model.member_of_node[index]),
            world=now.model.standing[index].T.reshape(-1).tolist(), layer=node.layer,
        )
        for index, node in enumerate(now.model.nodes[first:], first)
    ]  # fmt: skip


def _drawn(now: Plan) -> DrawnView:
    shaped = now.taken.shaped
    roles = Counter(shaped.roles.values())
    flat = sum(1 for part in shaped.roles if part in shaped.solids and not shaped.solids[part].height)
    return DrawnView(
        outlines=len(shaped.roles), solid=roles["solid"] - flat + roles["joined"], flat=flat, holes=roles["hole"],
        waiting=roles["waiting"], lines=roles["line"],
    )  # fmt: skip


def _lookouts(now: Plan) -> list[LookoutView]:
    return [
        LookoutView(
            name=item.name, eye=list(item.eye), way=list(item.way), up=list(item.up), tall=item.tall, reach=item.reach,
            wide=item.wide, camera=item.camera,
        )
        for item in lookouts_of(now.fitted, now.decisions.fit)
    ]  # fmt: skip


def _sun(now: Plan) -> list[float] | None:
    """The way of the first source's light that has any, after Fit."""
    for piece, source in zip(now.model.members, now.fitted.sources, strict=True):
        if piece.model.sun is not None:
            way = source.matrix[:3, :3] @ np.array(piece.model.sun)
            return [float(value) for value in way / np.linalg.norm(way)]
    return None


def _fit_before(session: Session, row: DecisionsRow, now: Plan) -> dict[str, list[float]]:
    """The matrices of the sources under the nearest earlier decisions that fitted otherwise, by what they are called."""
    at = row.parent_id
    for _ in range(20):
        if at is None:
            break
        # Only their Fit is asked for: a document can hold thousands of rules.
        at, document = session.execute(
            select(DecisionsRow.parent_id, DecisionsRow.document["fit"]).where(DecisionsRow.id == at)
        ).one()
        fit = FitSettings.model_validate(document or {})
        if fit != now.decisions.fit:
            then = climb_fit(now.model, fit)
            if any(
                not np.array_equal(a.matrix, b.matrix) for a, b in zip(then.sources, now.fitted.sources, strict=True)
            ):
                refs = [piece.ref for piece in now.model.members]
                return {
                    ref: source.matrix.T.reshape(-1).tolist() for ref, source in zip(refs, then.sources, strict=True)
                }
    return {}


def _sources(now: Plan, before: dict[str, list[float]]) -> list[FittedView]:
    views = []
    for piece, source in zip(now.model.members, now.fitted.sources, strict=True):
        box = moved_box(piece.model.box, source.matrix)
        own = now.decisions.fit.sources.get(piece.ref, SourceFit())
        views.append(
            FittedView(
                ref=piece.ref, matrix=source.matrix.T.reshape(-1).tolist(), unit=source.unit,
                before=before.get(piece.ref), own_angles=[*own.tip, own.turn], mirrored=own.mirrored,
                declared_unit=piece.model.unit, up=source.up, size=(box[1] - box[0]).tolist(),
                middle=box.mean(axis=0).tolist(), paged=piece.model.page is not None, sized=piece.model.sized,
            )
        )  # fmt: skip
    return views


def mesh_rows(session: Session, now: Plan) -> dict[str, Stored]:
    """The meshes of a plan that are there, of all levels, by key."""
    return meshes.stored(session, now.wanted())


def _triangles_at(chains: Sequence[Chain | None], figures: Mapping[str, Figures], times: Sequence[int]) -> int | None:
    """Triangles of a level over all placements; none while one of its meshes is not there."""
    total = 0
    for chain, count in zip(chains, times, strict=True):
        if chain is not None and count:
            if chain.key not in figures:
                return None
            total += figures[chain.key].triangles * count
    return total


def _boxes(now: Plan, figures: Mapping[str, Figures]) -> dict[int, NDArray[np.float64]]:
    """The boxes of the parts' triangles, by index, where they are there."""
    known = {i: figures.get(chain.key) for i, chain in enumerate(now.chains) if chain is not None}
    return {i: np.array(item.box) for i, item in known.items() if item is not None and item.box}


def _unfit_names(now: Plan) -> list[Finding]:
    target, order, labels = now.decisions.ship.target, now.order, [part.label for part in now.model.parts]
    if not target.limits_names:
        return []
    things = order.names.names if order.names is not None else first_names(now.taken)
    parts = (order.parts.get(part, labels[part]) for part in now.taken.parts)
    used = (now.sorted.palette[id_].name for id_ in now.sorted.materials())
    return list(review_names(target, dict.fromkeys([*things, *parts]), used))


def _before(session: Session, row: DecisionsRow, models: Models, now: Plan) -> tuple[dict[int, Stored], int | None]:
    """Each part's mesh under the nearest earlier decisions that asked for others, if all of those are there, and the
    triangles of all their placements."""
    at = row.parent_id
    for _ in range(20):
        if at is None:
            break
        earlier = session.get_one(DecisionsRow, at)
        then = planned(models, Decisions.model_validate(earlier.document))
        pairs = list(enumerate(zip(then.chains, now.chains, strict=False)))
        other = {i: old.key for i, (old, new) in pairs if old is not None and new is not None}
        if any(new is not None and other.get(i, new.key) != new.key for i, (_, new) in pairs):
            rows = mesh_rows(session, then)
            if all(key in rows for key in other.values()):
                times = np.bincount(then.sorted.parts, minlength=len(then.model.parts)).tolist()
                triangles = [
                    rows[chain.key].figures.triangles * count
                    for chain, count in zip(then.chains, times, strict=True)
                    if chain is not None and chain.key in rows
                ]
                return {i: rows[key] for i, key in other.items()}, sum(triangles)
        at = earlier.parent_id
    return {}, None
