"""Take: which placements enter the job, by the decisions at Receive.

Works on columns, so that a hundred thousand placements cost milliseconds.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.choose.outlines.resolve import Shaped, shape_drawn
from hemp_ladder.core.choose.settings import Choice, ReceiveSettings, Region
from hemp_ladder.core.drawn.solid import Solid
from hemp_ladder.core.fit import Fitted
from hemp_ladder.core.mesh.triangles import lengths
from hemp_ladder.core.model.bodies import Drawn
from hemp_ladder.core.model.join import Joined
from hemp_ladder.core.model.model import Cut

#: Corners of a box below and those above them, numbered as `_corners` does.
_FLOOR, _ROOF = [0, 2, 6, 4], [1, 3, 7, 5]
#: Corners around three sides of a box, numbered as `_corners` does.
_SIDES = np.array([[0, 2, 6, 4], [0, 4, 5, 1], [0, 2, 3, 1]])
Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class Taken:
    """What entered: `rows` are indices into the columns of the model, which has the pieces a cut left as parts,
    and drawn parts as high as they were made."""

    fitted: Fitted
    rows: NDArray[np.int64]
    shaped: Shaped = field(default_factory=Shaped)

    @property
    def model(self) -> Joined:
        return self.fitted.model

    @property
    def placements(self) -> NDArray[np.int32]:
        """Indices of the nodes that entered, in their order."""
        return self.model.columns.node[self.rows]

    @property
    def parts(self) -> set[int]:
        """Indices of the parts with a placement that entered."""
        return set(np.unique(self.model.columns.part[self.rows]).tolist())

    def box(self, made: Mapping[int, NDArray[np.float64]] | None = None) -> NDArray[np.float64]:
        """Overall box, (2, 3), metres, Z up: exact when all entered, else by boxes that hold the parts.

        `made` are boxes (2, 3) of the triangles of parts, by index, where they
        are there: closer than the parts' own, which hold control points of
        splines, and those of pieces, which are no larger than the polygon.
        """
        if len(self.rows) == len(self.model.columns.node) and not self.shaped.roles:
            return self.fitted.box()
        if not len(self.rows):
            return np.zeros((2, 3))
        low, high = placed_boxes(self.fitted, self.rows, made)
        for at, part in enumerate(self.model.columns.part[self.rows]):
            cut = self.model.parts[part].cut
            if cut is not None:
                low[at, :2] = np.maximum(low[at, :2], np.min(cut.polygon, axis=0))
                high[at, :2] = np.minimum(high[at, :2], np.max(cut.polygon, axis=0))
        return np.array([low.min(axis=0), high.max(axis=0)])


def climb_take(fitted: Fitted, settings: ReceiveSettings, segments: int | None = None) -> Taken:
    """Keep what no choice keeps out and has a body, then what the polygon holds. `segments` is for drawn curves."""
    mask = chosen(fitted.model, settings)
    shaped = shape_drawn(fitted, settings.drawn, segments)
    if shaped.roles:
        mask &= ~np.isin(fitted.model.columns.part, list(shaped.without_body()))
        fitted = _raised(fitted, shaped)
    if settings.without_copies:
        mask &= ~later_copies(fitted.model, mask, shaped.solids)
    rows = np.flatnonzero(mask)
    return Taken(fitted, rows, shaped) if settings.region is None else _within(fitted, rows, settings.region, shaped)


def _raised(fitted: Fitted, shaped: Shaped) -> Fitted:
    """The same model with drawn parts as high and as wide as they were made."""
    parts = list(fitted.model.parts)
    for index, solid in shaped.solids.items():
        box = parts[index].box.copy()
        wide = solid.wall if solid.side != "inward" else 0.0
        box[:, :2] += [[-wide], [wide]]
        box[:, 2] = solid.base, solid.base + solid.height
        parts[index] = replace(parts[index], body=replace(parts[index].body, box=box))
    return replace(fitted, model=replace(fitted.model, parts=parts))


def chosen(model: Joined, settings: ReceiveSettings) -> Mask:
    """(p,) which placements no choice keeps out.

    Of each kind of choice, what is left out stays out; where anything of the
    kind is named to be taken, nothing else of that kind enters, in the
    sources that the choice speaks of.
    """
    columns = model.columns
    extra = np.array([t.kind != "body" and t.kind not in settings.also for t in columns.all_tags], dtype=bool)
    mask = ~extra[columns.tags] if len(columns.tags) else np.zeros(0, dtype=bool)
    for ref in settings.without:
        mask &= ~of_source(model, ref)
    for by in dict.fromkeys(choice.by for choice in settings.choices):
        said: dict[tuple[bool, str | None], set[str]] = {}
        for choice in settings.choices:
            if choice.by == by:
                said.setdefault((choice.take, choice.source), set()).add(choice.match)
        for (take, source), names in said.items():
            here = of_source(model, source)
            matched = _MATCH[by](model, names)
            mask &= (matched | ~here) if take else ~(matched & here)
    return mask


def of_source(model: Joined, source: str | None) -> Mask:
    """(p,) which placements belong to the source; all for none."""
    columns = model.columns
    if source is None:
        return np.ones(len(columns.node), dtype=bool)
    numbers = [number for number, piece in enumerate(model.members) if piece.ref == source]
    return np.isin(model.member_of_node[columns.node], numbers)


def matching(model: Joined, choice: Choice) -> Mask:
    """(p,) which placements a choice names."""
    return _MATCH[choice.by](model, {choice.match}) & of_source(model, choice.source)


def _by_part(model: Joined, names: set[str]) -> Mask:
    wanted = np.array([part.decided_as in names for part in model.parts], dtype=bool)
    return _codes(model.columns.part, wanted)


def by_placement(model: Joined, names: set[str]) -> Mask:
    """(p,) which placements decisions call by one of these names."""
    wanted = np.fromiter((ref in names for ref in model.node_refs), bool, len(model.nodes))
    return wanted[model.columns.node] if len(model.columns.node) else np.zeros(0, bool)


def _by_group(model: Joined, names: set[str]) -> Mask:
    """What stands in a branch of one of these names: branches are runs, so their ends tell."""
    columns = model.columns
    change = np.zeros(len(model.nodes) + 2, dtype=np.int64)
    for index in (index for name in names for index in model.nodes_named.get(name, ())):
        if columns.last[index] > index:
            change[index + 1] += 1
            change[columns.last[index] + 1] -= 1
    return np.asarray(np.cumsum(change)[columns.node] > 0)


def _codes(codes: NDArray[np.int32], wanted: list[bool] | NDArray[np.bool_]) -> Mask:
    return np.asarray(wanted, dtype=bool)[codes] if len(codes) else np.zeros(0, dtype=bool)


_MATCH: dict[str, Callable[[Joined, set[str]], Mask]] = {
    "layer": lambda m, names: _codes(m.columns.layer, [v in names for v in m.columns.layers]),
    "class": lambda m, names: _codes(m.columns.tags, [t.ifc_class in names for t in m.columns.all_tags]),
    "storey": lambda m, names: _codes(m.columns.tags, [t.storey in names for t in m.columns.all_tags]),
    "group": _by_group,
    "part": _by_part,
    "placement": by_placement,
}


def later_copies(model: Joined, mask: Mask, solids: Mapping[int, Solid] | None = None) -> Mask:
    """(p,) which placements of those in the mask lie exactly on an earlier one of equal geometry.

    What was drawn counts as equal where it is as high and as wide: as decided (`solids`, by part), else as drawn.
    Places count as the same to a nanometre a metre of the source's coordinates.
    """
    columns = model.columns
    found = np.zeros(len(columns.node), dtype=bool)
    rows = np.flatnonzero(mask)
    if not len(rows):
        return found
    made = solids or {}
    alike = [f"{p.key} {_told(p.drawn, made.get(i))}" if p.drawn else p.key for i, p in enumerate(model.parts)]
    keys = np.unique(alike, return_inverse=True)[1]
    world = model.standing[columns.node[rows]][:, :3, :].reshape(-1, 12)
    step = 1e-9 * max(1.0, float(np.abs(world[:, [3, 7, 11]]).max()))
    same = np.column_stack([
        keys[columns.part[rows]], model.member_of_node[columns.node[rows]], np.round(world / step).astype(np.int64)
    ])  # fmt: skip
    # Most lie on nothing: only those whose sums agree are held against each other number by number.
    sums = same @ np.random.default_rng(3).integers(1, 1 << 62, same.shape[1])
    _, kind, uses = np.unique(sums, return_inverse=True, return_counts=True)
    near = np.flatnonzero(uses[kind] > 1)
    _, first = np.unique(same[near], axis=0, return_index=True)
    later = np.ones(len(near), dtype=bool)
    later[first] = False
    found[rows[near[later]]] = True
    return found


def _told(drawn: Drawn, solid: Solid | None) -> str:
    """How high and wide a drawn part is."""
    if solid is None:
        return f"{drawn.thickness} {drawn.stroke} {drawn.fill}"
    return f"{solid.base} {solid.height} {solid.wall} {solid.side} {solid.stroke or drawn.stroke}"


def placed_boxes(
    fitted: Fitted, rows: NDArray[np.int64], made: Mapping[int, NDArray[np.float64]] | None = None
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Lowest and highest corners, each (r, 3), of the placed boxes of the parts, or of their triangles where those are
    made; metres, Z up."""
    corners = _corners(fitted, rows, made)
    return corners.min(axis=1), corners.max(axis=1)


def _corners(
    fitted: Fitted, rows: NDArray[np.int64], made: Mapping[int, NDArray[np.float64]] | None = None,
    world: NDArray[np.float64] | None = None,
) -> NDArray[np.float64]:  # fmt: skip
    """The eight corners of each row's box where it stands, (r, 8, 3); `world` are the placements where at hand."""
    made = made or {}
    columns = fitted.model.columns
    grid = np.array(np.meshgrid([0, 1], [0, 1], [0, 1])).reshape(3, -1).T
    boxes = np.array([made.get(i, part.box) for i, part in enumerate(fitted.model.parts)])[columns.part[rows]]
    corners = np.stack([boxes[:, grid[:, axis], axis] for axis in range(3)], axis=-1)
    world = (fitted.placements() if world is None else world)[columns.node[rows]]
    return corners @ world[:, :3, :3].transpose(0, 2, 1) + world[:, None, :3, 3]


def _may_reach(
    fitted: Fitted, world: NDArray[np.float64], rows: NDArray[np.int64], low: Sequence[float], high: Sequence[float]
) -> Mask:
    """(r,) which placements can reach a box on the plan, by the balls around their parts' boxes."""
    columns = fitted.model.columns
    boxes = np.array([part.box for part in fitted.model.parts])
    middle, radius = boxes.mean(axis=1), lengths(boxes[:, 1] - boxes[:, 0]) / 2
    part, placed = columns.part[rows], world[columns.node[rows]]
    # No direction is stretched by more than this (the Frobenius norm bounds the spectral one).
    reach = np.sqrt(np.einsum("rij,rij->r", placed[:, :3, :3], placed[:, :3, :3])) * radius[part]
    mask = np.ones(len(rows), dtype=bool)
    for axis in range(2):
        centre = np.einsum("rj,rj->r", placed[:, axis, :3], middle[part]) + placed[:, axis, 3]
        mask &= (centre + reach >= low[axis]) & (centre - reach <= high[axis])
    return mask


def plan_corners(fitted: Fitted, rows: NDArray[np.int64]) -> NDArray[np.float64]:
    """For each row four corners, (r, 4, 2), of its outline on the plan: the side of its box that lies flattest."""
    if not len(rows):
        return np.zeros((0, 4, 2))
    corners = _corners(fitted, rows)
    # Of the three pairs of sides, the one whose outline covers most of the plan.
    sides = corners[:, _SIDES]
    across = sides[..., 2, :2] - sides[..., 0, :2]
    along = sides[..., 3, :2] - sides[..., 1, :2]
    area = np.abs(across[..., 0] * along[..., 1] - across[..., 1] * along[..., 0])
    return sides[np.arange(len(rows)), area.argmax(axis=1), :, :2]


def _within(fitted: Fitted, rows: NDArray[np.int64], region: Region, shaped: Shaped) -> Taken:
    """The placements whose outline on the plan touches the polygon; cut where asked.

    The outline of a placement is the convex hull of its part's box, which
    for what is built along its own axes is the thing itself.
    """
    import shapely

    if not len(rows):
        return Taken(fitted, rows, shaped)
    inside = shapely.Polygon(region.polygon)
    shapely.prepare(inside)
    low, high = np.min(region.polygon, axis=0).tolist(), np.max(region.polygon, axis=0).tolist()
    world = fitted.placements()
    rows = rows[_may_reach(fitted, world, rows, low, high)]
    plan = _corners(fitted, rows, world=world)[:, :, :2]
    near = (plan.min(axis=1) <= high).all(axis=1) & (plan.max(axis=1) >= low).all(axis=1)
    rows, plan = rows[near], plan[near]
    hulls = _hulls(plan)
    touching = shapely.intersects(inside, hulls)
    if not region.cut:
        return Taken(fitted, rows[touching], shaped)
    whole = shapely.contains(inside, hulls)
    kept = rows[touching]
    cut = _with_cuts(fitted, world, rows[touching & ~whole], region)
    own = {part.ref: i for i, part in enumerate(fitted.model.parts)} if shaped.solids else {}
    pieces = enumerate(cut.model.parts[len(fitted.model.parts) :], len(fitted.model.parts))
    solids = {i: shaped.solids[own[p.decided_as]] for i, p in pieces if own.get(p.decided_as) in shaped.solids}
    return Taken(cut, kept, replace(shaped, solids={**shaped.solids, **solids}))


def _hulls(plan: NDArray[np.float64]) -> NDArray[np.object_]:
    """Convex hulls of the corners of boxes on the plan (n, 8, 2). Most boxes stand upright: their floors are their hulls."""
    import shapely

    slack = 1e-9 * np.abs(plan).max(initial=1.0)
    upright = (np.abs(plan[:, _FLOOR] - plan[:, _ROOF]) <= slack).all(axis=(1, 2))
    floor = plan[:, _FLOOR]
    across, along = floor[:, 1] - floor[:, 0], floor[:, 3] - floor[:, 0]
    square = (np.minimum(np.abs(across), np.abs(along)) <= slack).all(axis=1)
    flat = np.abs(across[:, 0] * along[:, 1] - across[:, 1] * along[:, 0]) <= slack * slack
    hulls = np.empty(len(plan), dtype=object)
    plain, turned = upright & square & ~flat, upright & ~square & ~flat
    low, high = floor[plain].min(axis=1), floor[plain].max(axis=1)
    hulls[plain] = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
    hulls[turned] = shapely.polygons(floor[turned])
    rest = ~plain & ~turned
    hulls[rest] = shapely.convex_hull(shapely.multipoints(plan[rest]))
    return hulls


def _with_cuts(fitted: Fitted, world: NDArray[np.float64], rows: NDArray[np.int64], region: Region) -> Fitted:
    """The same model where each of these placements has a part of its own, to be cut by the polygon."""
    model = fitted.model
    parts, nodes, column = list(model.parts), list(model.nodes), model.columns.part.copy()
    number: dict[str, int] = {}
    for row in rows:
        node = int(model.columns.node[row])
        part = model.parts[nodes[node].part]
        number[part.ref] = number.get(part.ref, 0) + 1
        cut = Cut(part.ref, tuple(world[node].reshape(-1).tolist()), region.polygon)
        label = f"{part.label} (cut {number[part.ref]})"
        nodes[node] = replace(nodes[node], part=len(parts))
        column[row] = len(parts)
        parts.append(replace(part, label=label, stable=f"{part.ref} (cut {number[part.ref]})", cut=cut))
    owners = np.concatenate([model.member_of_part, model.member_of_node[model.columns.node[rows]]])
    changed = replace(
        model, parts=parts, nodes=nodes, columns=replace(model.columns, part=column), member_of_part=owners
    )  # fmt: skip
    return replace(fitted, model=changed)
