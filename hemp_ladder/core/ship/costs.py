"""What a delivery would weigh, before it is written: triangles, bytes, pixels, draw calls; held against what the receiver
allows, with what to trim first."""

from collections.abc import Callable, Iterator, Mapping, Sequence, Set
from dataclasses import dataclass

import numpy as np

from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.findings import Finding, Offer, finding, names
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.model.texture import Texture
from hemp_ladder.core.ship.format import Group, Weight
from hemp_ladder.core.ship.settings import Target, separate_parts
from hemp_ladder.core.sort import Sorted
from hemp_ladder.core.sort.order.keys import KeyBy
from hemp_ladder.core.trim.settings import Gauge, Limit
from hemp_ladder.core.units import say_bytes

#: A step of reducing takes parts to this share; a model survives it at arm's length, thin and curved small parts do not
#: (common practice).
_SHARE = 0.25
#: So many of the heaviest parts are named for a step of their own.
_FIRST = 3
#: Four times the chord error leaves about this share of the triangles of something round: they go with its root.
_COARSER, _LEFT = 4.0, 0.5


@dataclass(frozen=True)
class Costs:
    """triangles over all placements; bytes about; the largest side of a picture in pixels; draw calls: placements times
    their materials, or materials where meshes are joined by them."""

    triangles: int
    bytes: int
    pixels: int
    draw_calls: int
    picture_bytes: int

    def of(self, gauge: Gauge) -> int:
        return int(getattr(self, gauge))


@dataclass(frozen=True)
class Load:
    """What is to be weighed: for every part its chain, and how often it stands; figures of meshes by key; dresses; pictures
    by SHA-256; what placements are gathered by, by node; what decisions call the parts."""

    chains: Sequence[Chain | None]
    figures: Mapping[str, Figures]
    times: Sequence[int]
    sorted: Sorted
    pictures: Mapping[str, Texture]
    keys: Callable[[KeyBy], Mapping[int, str]] | None = None
    refs: Sequence[str] = ()

    def rows(self) -> Iterator[tuple[int, Figures, int]]:
        """Parts that stand and are made: their index, figures and how often."""
        for part, (chain, times) in enumerate(zip(self.chains, self.times, strict=True)):
            known = self.figures.get(chain.key) if chain is not None and times else None
            if known is not None:
                yield part, known, times


def cost_of(load: Load, target: Target) -> Costs:
    """What a delivery of it to a target would weigh."""
    form = target.written_format
    rows = list(load.rows())
    shared = "instances" in form.carries and target.written_group == "part"
    placed = sum(f.vertices * n for _, f, n in rows), sum(f.triangles * n for _, f, n in rows)
    single = separate_parts(target, load.refs) if shared else set()
    once = {
        chain.key: load.figures[chain.key]
        for part, _, _ in rows if part not in single and (chain := load.chains[part]) is not None
    }  # fmt: skip
    stored = [*((f, 1) for f in once.values()), *((f, n) for part, f, n in rows if part in single)]
    own = sum(f.vertices * n for f, n in stored), sum(f.triangles * n for f, n in stored)
    worn = _worn(load) if target.textures != "none" and "pictures" in form.carries else []
    most = target.texture_limit or max((max(item.width, item.height) for item in worn), default=0)
    weight = Weight(own if shared else placed, placed, bool(worn), sum(n for _, _, n in rows))
    pictures = sum(round(item.bytes * min(1.0, most / max(item.width, item.height, 1)) ** 2) for item in worn)
    return Costs(
        placed[1], form.weighs(weight) + pictures, min(most, max((max(i.width, i.height) for i in worn), default=0)),
        _draw_calls(load, target), pictures,
    )  # fmt: skip


def _worn(load: Load) -> list[Texture]:
    found = {
        worn.picture
        for id_ in load.sorted.materials()
        for _, worn in load.sorted.palette[id_].finish.maps
    }  # fmt: skip
    return [load.pictures[sha] for sha in sorted(found) if sha in load.pictures]


def _draw_calls(load: Load, target: Target) -> int:
    return counts_of(load, target.written_group)[1]


def counts_of(load: Load, group: Group, single: Set[int] = frozenset()) -> tuple[int, int]:
    """How many meshes and draw calls a way of joining gives: one mesh a part and dress, or one for what is joined; of the
    parts in `single` one at every place."""
    dresses = load.sorted.dresses
    if group == "part":
        counts = np.bincount(load.sorted.dress_of, minlength=len(dresses)).tolist()
        calls = sum(count * len(set(dress.materials)) for dress, count in zip(dresses, counts, strict=True))
        own = np.isin(load.sorted.parts, list(single))
        pairs = np.unique((load.sorted.parts.astype(np.int64) * max(len(dresses), 1) + load.sorted.dress_of)[~own])
        return len(pairs) + int(np.count_nonzero(own)), calls
    if group == "material" or group == "one" or load.keys is None:
        materials = len(load.sorted.materials())
        return materials if group == "material" else 1, materials
    keys = load.keys(group)
    words: dict[str, int] = {}
    code = np.array([words.setdefault(keys[node], len(words)) for node in load.sorted.placements.tolist()], np.int64)
    pairs = np.unique(code * max(len(dresses), 1) + load.sorted.dress_of)
    worn = {
        (pair // len(dresses), material)
        for pair in pairs.tolist()
        for material in dresses[pair % len(dresses)].materials
    }
    return len(words), len(worn)


@dataclass(frozen=True)
class Advice:
    """A step that brings a gauge down: in words, as an offer, for which parts; what it buys, in the gauge's own measure;
    `sure` where that is counted, not guessed."""

    gauge: Gauge
    label: str
    offer: Offer
    parts: tuple[int, ...]
    buys: int
    sure: bool


GAUGES: tuple[Gauge, ...] = ("triangles", "bytes", "pixels", "draw_calls")


def excess(costs: Costs, limit: Limit | None) -> dict[Gauge, int]:
    """By gauge how much is too much."""
    allowed: dict[Gauge, int | None] = {gauge: getattr(limit, gauge) if limit else None for gauge in GAUGES}
    return {
        gauge: costs.of(gauge) - most for gauge, most in allowed.items() if most is not None and costs.of(gauge) > most
    }


def advise(load: Load, target: Target, limit: Limit | None, trimmed: Sequence[bool]) -> list[Advice]:
    """What to trim first, by what is over: the step that buys most first. `trimmed` says of each part whether it is reduced
    already."""
    costs = cost_of(load, target)
    over = excess(costs, limit)
    found: list[Advice] = []
    if "triangles" in over or "bytes" in over:
        gauge: Gauge = "triangles" if "triangles" in over else "bytes"
        each = 1.0 if gauge == "triangles" else (costs.bytes - costs.picture_bytes) / max(costs.triangles, 1)
        found += _lighter(load, gauge, over[gauge], each, trimmed)
    most = limit.pixels if limit else None
    if "pixels" in over and most:
        found.append(Advice("pixels", f"Pictures no larger than {most:,} px", Offer("", "pictures", {"side": most}), (),
                            over["pixels"], True))  # fmt: skip
    elif "bytes" in over and costs.picture_bytes > 0.25 * costs.bytes and costs.pixels > 64:
        side = costs.pixels // 2
        found.append(Advice("bytes", f"Pictures no larger than {side:,} px", Offer("", "pictures", {"side": side}), (),
                            round(0.75 * costs.picture_bytes), False))  # fmt: skip
    if "draw_calls" in over and target.written_group == "part":
        buys = costs.draw_calls - len(load.sorted.materials())
        found.append(
            Advice("draw_calls", "One mesh a material", Offer("", "group", {"group": "material"}), (), buys, True)
        )
    return sorted(found, key=lambda item: -item.buys)


def _lighter(load: Load, gauge: Gauge, over: int, each: float, trimmed: Sequence[bool]) -> Iterator[Advice]:
    """The heaviest parts by themselves, and as many of them as it takes together; exact shapes by coarser facets, which look
    better than reduction at the same count."""
    rows = sorted(((f.triangles * n, part) for part, f, n in load.rows()), reverse=True)
    taken: list[tuple[float, int, bool]] = []
    for triangles, part in rows:
        chain = load.chains[part]
        if chain is None or trimmed[part] or triangles < 100:
            continue
        exact = chain.first.fineness is not None
        taken.append((triangles * (1 - (_LEFT if exact else _SHARE)), part, exact))
    for buys, part, exact in taken[:_FIRST]:
        yield _step(gauge, [part], buys * each, exact, load)
    for exact in (False, True):
        alike = [(buys, part) for buys, part, is_exact in taken if is_exact == exact]
        total, many = 0.0, []
        for buys, part in alike:
            many.append(part)
            total += buys * each
            if total >= over:
                break
        if len(many) > 1:
            yield _step(gauge, many, total, exact, load)


def _step(gauge: Gauge, parts: list[int], buys: float, exact: bool, load: Load) -> Advice:
    values: dict[str, object] = {"times": _COARSER} if exact else {"share": _SHARE}
    does, how = ("coarser", f"chord error times {_COARSER:g}") if exact else ("reduce", f"reduced to {_SHARE:.0%}")
    who = "{part}" if len(parts) == 1 else f"the {len(parts):,} heaviest"
    return Advice(gauge, f"{who}: {how}", Offer("", does, values), tuple(parts), round(buys), not exact)


def say_gauge(gauge: Gauge, value: int) -> str:
    """`52,000 triangles`, `2.1 MB`, `4,096 px`, `310 draw calls`."""
    if gauge == "bytes":
        return say_bytes(value)
    return f"{value:,} {'px' if gauge == 'pixels' else gauge.replace('_', ' ')}"


def review_limit(
    load: Load, target: Target, limit: Limit | None, labels: Sequence[str], trimmed: Sequence[bool]
) -> Iterator[Finding]:
    """What is over the receiver's limit, each with the steps that bring it down and what each buys."""
    costs = cost_of(load, target)
    over = excess(costs, limit)
    steps = advise(load, target, limit, trimmed) if over else []
    for gauge, much in over.items():
        most = costs.of(gauge) - much
        own = [item for item in steps if item.gauge == gauge]
        offers = []
        for item in own:
            label = item.label.replace("{part}", labels[item.parts[0]] if item.parts else "")
            about = "" if item.sure else "about "
            values = {**item.offer.values, "parts": list(item.parts)}
            offers.append(Offer(f"{label} (buys {about}{say_gauge(gauge, item.buys)})", item.offer.does, values))
        heavy = names([labels[item.parts[0]] for item in own if len(item.parts) == 1])
        first = f" The heaviest: {heavy}." if heavy else ""
        if gauge == "bytes" and "triangles" in over:
            first = " Fewer triangles bring that down too."
        whom = f" for {limit.target}" if limit and limit.target else ""
        yield finding(
            "over-limit", gauge.replace("_", " "),
            f"{say_gauge(gauge, costs.of(gauge))} where {say_gauge(gauge, most)} are allowed{whom}: "
            f"{say_gauge(gauge, much)} too many.{first}",
            parts=sorted({part for item in own for part in item.parts}), offers=offers,
        )  # fmt: skip
