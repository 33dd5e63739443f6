"""The boards of Sort, worked out."""

from collections import Counter

from sqlalchemy.orm import Session

from hemp_ladder.api.result import mesh_rows
from hemp_ladder.api.sort_views import (
    CopiesView,
    DifferenceView,
    GuessView,
    JoinView,
    LeftoverView,
    NamesView,
    NameView,
    ReasonView,
    RulesView,
    RuleTold,
    SelectionView,
    ShadowView,
    ValueView,
    WhyView,
    WithoutView,
    WornView,
)  # fmt: skip
from hemp_ladder.core.climb import Plan
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.ship.costs import cost_of, counts_of
from hemp_ladder.core.ship.format import Group
from hemp_ladder.core.ship.settings import separate_parts
from hemp_ladder.core.sort import climb_sort
from hemp_ladder.core.sort.board import (
    differences,
    kinds_of,
    loose_placements,
    reasons,
    rules_told,
    said,
    values_of,
)  # fmt: skip
from hemp_ladder.core.sort.guess import guesses
from hemp_ladder.core.sort.leftovers import leftovers
from hemp_ladder.core.sort.order.climb import first_names, placements_named
from hemp_ladder.core.sort.order.names import says_nothing
from hemp_ladder.core.sort.order.settings import Rename
from hemp_ladder.core.sort.settings import By
from hemp_ladder.work.fitting import plan_now
from hemp_ladder.work.hiding import inside_nodes, search_inside
from hemp_ladder.work.sharing import copies_there, search_of
from hemp_ladder.work.sources import NothingThere
from hemp_ladder.work.trimming import load_of

#: Values, and names before and after, that are sent at once.
_MOST_VALUES, _MOST_NAMES = 500, 300
_GUESSED_BY: tuple[By, ...] = ("layer", "substance", "style", "name")
_JOINS: dict[Group, str] = {
    "part": "nothing: copies stay copies, every name stays",
    "material": "copies, names of parts and their pivots",
    "layer": "copies, names of parts and their pivots",
    "class": "copies, names of parts and their pivots",
    "storey": "copies, names of parts and their pivots",
    "group": "copies and names of parts; pivots of groups stay",
    "source": "copies, names of parts and their pivots",
    "one": "copies and every name; nothing can be moved by itself",
}


def rules_view(session: Session, job_id: int, by: By) -> RulesView:
    """The board, with the values of one kind."""
    _, now = plan_now(session, job_id)
    triangles = _triangles(session, now)
    rules = now.decisions.sort.rules
    told = rules_told(now.taken, now.sorted, now.decisions.sort, triangles)
    found = values_of(now.taken, now.sorted, by, triangles)
    labels = {part.decided_as: part.label for part in reversed(now.model.parts)} if by == "part" else {}
    return RulesView(
        rules=[
            RuleTold(
                said=said(rule), placements=item.placements, triangles=item.triangles, matches=item.matches,
                shadowed_by=[ShadowView(rule=other, placements=count) for other, count in item.shadowed_by[:5]], known=item.known,
            )
            for rule, item in zip(rules, told, strict=True)
        ],
        by=by,
        values=[
            ValueView(
                value=item.value, label=labels.get(item.value, item.value), placements=item.placements,
                triangles=item.triangles, worn=[WornView(material=id_, placements=count) for id_, count in item.worn[:4]], rules=list(item.rules[:20]),
            )
            for item in found[:_MOST_VALUES]
        ],
        kinds={str(kind): count for kind, count in kinds_of(now.taken).items()},
        guesses=[
            GuessView(by=g.by, material=g.material, values=list(g.values), words=list(g.words), placements=g.placements)
            for g in (guesses(by, found) if by in _GUESSED_BY else ())
        ],
        loose_placements=loose_placements(now.sorted), placements=len(now.sorted.placements),
    )  # fmt: skip


def _triangles(session: Session, now: Plan) -> list[int]:
    there = mesh_rows(session, now)
    return [
        there[chain.key].figures.triangles if chain is not None and chain.key in there else 0 for chain in now.chains
    ]


def without(session: Session, job_id: int, number: int) -> WithoutView:
    """What if a rule were gone. Raises NothingThere for one that is not there."""
    _, now = plan_now(session, job_id)
    settings = now.decisions.sort
    if number >= len(settings.rules):
        raise NothingThere("There is no such rule any more.")
    rules = (*settings.rules[:number], *settings.rules[number + 1 :])
    then = climb_sort(now.taken, settings.model_copy(update={"rules": rules}))
    names = now.sorted.palette
    return WithoutView(
        differences=[
            DifferenceView(before=names[old].name, after=names[new].name, placements=count)
            for old, new, count in differences(now.sorted, then)[:20]
        ],
        loose_placements=loose_placements(then) - loose_placements(now.sorted),
    )


def why(session: Session, job_id: int, node: int) -> WhyView:
    """Why a placement wears what it does. Raises NothingThere where it did not enter."""
    _, now = plan_now(session, job_id)
    settings = now.decisions.sort
    try:
        dress, found = reasons(now.taken, now.sorted, settings, node)
    except KeyError as error:
        raise NothingThere("That stands nowhere in what enters the job.") from error
    decided = [said(settings.rules[number]) for number in dict.fromkeys(dress.rules) if number >= 0]
    if any(number == -1 for number in dress.rules):
        decided.append("the source's own colour")
    if dress.loose:
        decided.append("nothing: a loose end")
    return WhyView(
        materials=[now.sorted.palette[id_].name for id_ in dress.materials], why=", ".join(decided),
        reasons=[
            ReasonView(
                rule=item.rule, said=said(settings.rules[item.rule]), decided=item.decided,
                material=now.sorted.palette[item.material].name if item.material in now.sorted.palette else item.material,
            )
            for item in found
        ],
    )  # fmt: skip


def names_view(session: Session, job_id: int, steps: list[Rename]) -> NamesView:
    """What names would become by these steps. Raises SettingsError for what never ends."""
    _, now = plan_now(session, job_id)
    if not len(now.sorted.placements):
        raise SettingsError("Nothing enters the job that could be named.")
    before = first_names(now.taken)
    told = placements_named(now.taken, now.sorted, steps)
    pairs = Counter(zip(before, told.names, strict=True))
    changed = [(old, new, times) for (old, new), times in pairs.items() if old != new]
    return NamesView(
        changed=sum(times for _, _, times in changed), placements=len(before), cut=told.cut, clashes=told.clashes,
        unnamed=sum(map(says_nothing, told.names)),
        names=[NameView(before=old, after=new, times=times) for old, new, times in changed[:_MOST_NAMES]],
    )  # fmt: skip


def selection_views(session: Session, job_id: int) -> list[SelectionView]:
    """What is kept, as far as it is there."""
    _, now = plan_now(session, job_id)
    kept = now.decisions.sort.selections
    parts: dict[str, list[int]] = {}
    for index, part in enumerate(now.model.parts):
        parts.setdefault(part.decided_as, []).append(index)
    single = any(item.placements for item in kept)
    nodes = {ref: node for node, ref in enumerate(now.model.node_refs)} if single else {}
    return [
        SelectionView(
            name=item.name, parts=[index for ref in item.parts for index in parts.get(ref, ())],
            nodes=[nodes[ref] for ref in item.placements if ref in nodes],
            missing=sum(ref not in parts for ref in item.parts) + sum(ref not in nodes for ref in item.placements),
        )
        for item in kept
    ]  # fmt: skip


def placement_refs(session: Session, job_id: int, nodes: list[int]) -> list[str]:
    """What decisions call nodes. Raises NothingThere for one that is not there."""
    _, now = plan_now(session, job_id)
    refs = now.model.node_refs
    if any(node >= len(refs) for node in nodes):
        raise NothingThere("Some of that is not there any more.")
    return [refs[node] for node in nodes]


def leftover_views(session: Session, job_id: int, tiny: float) -> list[LeftoverView]:
    _, now = plan_now(session, job_id)
    search = search_inside(session, now)
    inside = inside_nodes(search)
    found = [
        LeftoverView(kind=item.kind, placements=item.placements, parts=list(item.parts[:100_000]), left=item.left)
        for item in leftovers(now.taken, tiny, inside)
    ]
    if inside is None:
        search.want(session, job_id=job_id)
        found.append(LeftoverView(kind="inside others", placements=0, parts=[], left=0, waiting=True))
    return found


def joins(session: Session, job_id: int) -> list[JoinView]:
    """What every way of joining meshes at Ship gives, for the target in force."""
    _, now = plan_now(session, job_id)
    figures = {key: item.figures for key, item in mesh_rows(session, now).items()}
    load, target = load_of(now, figures, now.chains), now.decisions.ship.target
    found = []
    for group, loses in _JOINS.items():
        single = separate_parts(target, load.refs) if "instances" in target.written_format.carries else set[int]()
        meshes, calls = counts_of(load, group, single)
        weighed = cost_of(load, target.model_copy(update={"group": group}))
        found.append(JoinView(group=group, meshes=meshes, draw_calls=calls, bytes=weighed.bytes, loses=loses))
    return found


def copies_view(session: Session, job_id: int, tolerance: float) -> CopiesView | None:
    """Copies among the parts that are made; None while they are looked for."""
    _, now = plan_now(session, job_id)
    search = search_of(session, now, tolerance)
    found = copies_there(search)
    if found is None:
        search.want(session, job_id=job_id, tolerance=tolerance)
        return None
    shapes: dict[int, list[int]] = {}
    for item in found:
        shapes.setdefault(item["of"], [item["of"]]).append(item["part"])
    return CopiesView(
        shapes=list(shapes.values()), copies=len(found), mirrored=sum(item["mirrored"] for item in found),
        triangles=sum(item["triangles"] for item in found), shared=len(now.decisions.sort.shared),
    )  # fmt: skip
