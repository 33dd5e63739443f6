"""Which parts lost their shape by being made lighter, at the full level and at lighter ones."""

from collections.abc import Iterator, Mapping, Sequence

from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.findings import Finding, Offer, finding, names, plural
from hemp_ladder.core.fit import Fitted
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.trim.lost import LOST, lost
from hemp_ladder.core.trim.reduce import Reduce
from hemp_ladder.core.trim.settings import FULL


def review_trim(
    fitted: Fitted, levels: Mapping[str, Sequence[Chain | None]], meshes: Mapping[str, Figures], times: Sequence[int],
    share: float,
) -> Iterator[Finding]:  # fmt: skip
    """For each level the parts that lost their shape in it, those whose deviation is largest first. A stand-in is meant to;
    what was reduced is put back to where it still holds."""
    yield from _exact(fitted, levels[FULL], meshes, times) if FULL in levels else ()
    for level, chains in levels.items():
        found: dict[int, list[str]] = {}
        depth: dict[int, float] = {}
        for index, chain in enumerate(chains):
            known = meshes.get(chain.key) if chain is not None and times[index] else None
            if chain is None or known is None or not known.trimmed:
                continue
            steps = chain.operations if level == FULL else chain.operations[-1:]
            if any(isinstance(step, Reduce) for step in steps):
                gone = lost(known.trimmed, share)
                if gone:
                    found[index] = gone
                    depth[index] = max(known.trimmed["there"], known.trimmed["back"]) * float(fitted.scale_of(index))
        if not found:
            continue
        worst = sorted(found, key=lambda index: -depth[index])
        refs = names([f"{fitted.model.parts[index].label} ({LOST[found[index][0]]})" for index in worst])
        where = "" if level == FULL else f" at the level “{level}”"
        values: dict[str, object] = {"share": share} if level == FULL else {"share": share, "level": level}
        one = []
        if level == FULL and len(worst) > 1:
            first = {**values, "parts": worst[:1]}
            one = [Offer(f"Put back {fitted.model.parts[worst[0]].label} only", "hold", first)]
        yield finding(
            "lost-shape", refs, f"{plural(len(found), 'part')} lost shape{where}: {refs}.", parts=sorted(worst),
            offers=[*one, Offer("Put back to where the shape holds", "hold", values)],
        )  # fmt: skip


def _exact(
    fitted: Fitted, chains: Sequence[Chain | None], meshes: Mapping[str, Figures], times: Sequence[int]
) -> Iterator[Finding]:
    """Exact parts that are reduced, though coarser facets would reach about the same count."""
    shares: dict[int, float] = {}
    for index, chain in enumerate(chains):
        known = meshes.get(chain.key) if chain is not None and times[index] else None
        if chain is None or known is None or chain.first.fineness is None or not known.effects.get("reduce"):
            continue
        shares[index] = known.triangles / max(known.trimmed["triangles"], 1)
    if shares:
        refs = names([fitted.model.parts[index].label for index in sorted(shares)])
        # Triangles go with the root of the chord error where a part bends one way, with it where it bends both.
        times_coarser = (sum(shares.values()) / len(shares)) ** -1.5
        offer = Offer("Coarser facets instead", "facets-instead", {"times": round(times_coarser, 2)})
        said = "part is exact and was reduced" if len(shares) == 1 else "parts are exact and were reduced"
        yield finding("exact-reduced", refs, f"{len(shares):,} {said}: {refs}.", parts=sorted(shares), offers=[offer])
