"""What is wrong with the triangles of a climb, kind by kind, each with a remedy."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.findings import Finding, Offer, finding, names, plural
from hemp_ladder.core.fit import Fitted
from hemp_ladder.core.mesh.figures import Figures

#: Smooth up to this where normals are made anew and nobody said how, in degrees (common practice: 30 to 60).
_CREASE = 40.0


@dataclass(frozen=True)
class Fault:
    """A kind of damage: its code, how many there are of it in a mesh, what one and several are called, and the remedy.

    safe     nothing of it can have been meant
    exactly  also asked of exact shapes, of which other findings tell already
    """

    code: str
    count: Callable[[Figures], int]
    one: str
    several: str
    label: str
    does: str
    values: Mapping[str, Any] = field(default_factory=dict)
    safe: bool = False
    exactly: bool = True


def _repaired(
    code: str, kind: str, count: Callable[[Figures], int], one: str, several: str, label: str, **more: bool
) -> Fault:
    return Fault(code, count, one, several, label, "repair", {"kinds": [kind]}, **more)


FAULTS: tuple[Fault, ...] = (
    _repaired("duplicate-triangles", "duplicate", lambda f: f.duplicate, "triangle lies on another",
              "triangles lie on others", "Take one of each", safe=True),
    _repaired("degenerate-triangles", "degenerate", lambda f: f.degenerate, "triangle has no area",
              "triangles have no area", "Leave them out", safe=True),
    _repaired("t-joints", "t-joints", lambda f: f.t_joints or 0, "corner lies on the middle of an open edge",
              "corners lie on the middle of open edges", "Run the edges through", safe=True),
    Fault("against-winding", lambda f: f.against, "edge is wound one way on both sides",
          "edges are wound one way on both sides", "Wind alike", "face", {"kind": "consistent"}, safe=True),
    Fault("inward-shells", lambda f: 0 if f.inside_out else f.inward, "closed shell faces inward",
          "closed shells face inward", "Turn outward", "face", {"kind": "outward"}, safe=True),
    _repaired("over-shared", "over-shared", lambda f: f.over_shared, "edge has more than two triangles",
              "edges have more than two triangles", "Part them", exactly=False),
    _repaired("crossing-triangles", "crossing", lambda f: f.crossing or 0, "triangle goes through another",
              "triangles go through others", "Unite"),
    _repaired("holes", "holes", lambda f: f.holes, "hole", "holes", "Close them", exactly=False),
    Fault("bad-normals", lambda f: sum(f.bad_normals.get(name, 0) for name in ("zero", "against")),
          "vertex has no normal or one that looks the wrong way",
          "vertices have no normal or one that looks the wrong way", "Make them anew", "smooth",
          {"degrees": _CREASE}, safe=True),
    Fault("no-normals", lambda f: f.bad_normals.get("missing", 0), "vertex came without a normal",
          "vertices came without normals", f"Smooth up to {_CREASE:g}°", "smooth", {"degrees": _CREASE}),
)  # fmt: skip


def review_mend(
    fitted: Fitted, chains: Sequence[Chain | None], meshes: Mapping[str, Figures], times: Sequence[int]
) -> Iterator[Finding]:
    """For each kind of damage all parts that have any, in one finding; the worst parts are named first. Parts whose mesh
    is not there yet are passed over."""
    hurt = [
        (index, known, chain.first.faulty)
        for index, chain in enumerate(chains)
        if chain is not None and times[index] and (known := meshes.get(chain.key)) is not None and not known.sound
    ]
    yield from _refused(fitted, hurt)
    for fault in FAULTS:
        counts = {index: fault.count(known) for index, known, faulty in hurt if faulty or fault.exactly}
        worst = sorted((index for index, count in counts.items() if count), key=lambda index: -counts[index])
        if worst:
            refs = names([fitted.model.parts[index].label for index in worst])
            yield finding(
                fault.code, refs, f"{plural(sum(counts.values()), fault.one, fault.several)}: {refs}.",
                parts=sorted(worst), offers=[Offer(fault.label, fault.does, dict(fault.values), fault.safe)],
            )  # fmt: skip


def _refused(fitted: Fitted, hurt: Sequence[tuple[int, Figures, bool]]) -> Iterator[Finding]:
    """What could not be done to which parts, by operation and reason."""
    why: dict[tuple[str, str], list[int]] = {}
    for index, known, _ in hurt:
        for name, sentence in known.refused.items():
            why.setdefault((name, sentence), []).append(index)
    for (name, sentence), parts in why.items():
        refs = names([fitted.model.parts[index].label for index in parts])
        yield finding("not-done", refs, f"{name.capitalize()} was not done to {refs}: {sentence}", parts=parts)
