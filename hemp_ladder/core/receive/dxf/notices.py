"""What is noticed while a drawing is read, and the findings that say so."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field

from hemp_ladder.core.findings import Finding, finding, names, plural
from hemp_ladder.core.model.model import Model


@dataclass
class Noticed:
    """Counted and named on the way through the blocks.

    leftovers  by kind: what draws nothing that could be a surface
    unread     by kind: bodies in a form that cannot be read
    failed     entities in error
    smooth     meshes that are meant to be shown smoother than they are
    hidden     entities marked as invisible
    doubled    lines that lay on others
    missing    by name: inserts of blocks that are not there
    circles    blocks that contain themselves
    too_many   at how many things the unfolding of blocks was stopped; 0 where it was not
    crossing   indices of parts whose outline crosses itself
    layouts    other layouts than model space that hold anything
    """

    leftovers: Counter[str] = field(default_factory=Counter)
    unread: Counter[str] = field(default_factory=Counter)
    failed: list[str] = field(default_factory=list)
    smooth: list[str] = field(default_factory=list)
    hidden: int = 0
    doubled: int = 0
    missing: Counter[str] = field(default_factory=Counter)
    circles: dict[str, None] = field(default_factory=dict)
    too_many: int = 0
    crossing: list[int] = field(default_factory=list)
    layouts: list[str] = field(default_factory=list)


def notices(noticed: Noticed, model: Model) -> Iterator[Finding]:
    """A finding for each kind of thing that was noticed."""
    if noticed.unread:
        told = ", ".join(f"{count:,} {kind}" for kind, count in sorted(noticed.unread.items()))
        many = plural(noticed.unread.total(), "body", "bodies")
        yield finding("unread-bodies", told, f"{many} could not be read: {told}.")
    yield from _blocks(noticed)
    if noticed.failed:
        told, many = names(noticed.failed), plural(len(noticed.failed), "entity", "entities")
        yield finding("unreadable-entity", told, f"{many} could not be used: {told}.")
    if noticed.smooth:
        told = names(noticed.smooth)
        yield finding("smooth-mesh", told, f"Meshes that ask to be shown smooth: {told}.")
    if noticed.doubled:
        many = plural(noticed.doubled, "line lies", "lines lie")
        yield finding("doubled-lines", "DXF", f"{many} exactly on another. Each was taken once.")
    if noticed.hidden:
        many = plural(noticed.hidden, "entity is", "entities are")
        yield finding("hidden-elements", "DXF", f"{many} marked as invisible.")
    if noticed.layouts:
        told, many = names(noticed.layouts), plural(len(noticed.layouts), "layout")
        yield finding("other-layouts", told, f"Beside model space it has {many}: {told}.")
    if noticed.crossing:
        refs = [model.parts[i].label for i in noticed.crossing]
        told, many = names(refs), plural(len(refs), "outline crosses itself", "outlines cross themselves")
        yield finding("self-crossing", told, f"{many}: {told}.", parts=noticed.crossing)


def _blocks(noticed: Noticed) -> Iterator[Finding]:
    if noticed.missing:
        told = names(list(noticed.missing))
        many = plural(noticed.missing.total(), "insert names a block", "inserts name blocks")
        verb = "is" if len(noticed.missing) == 1 else "are"
        yield finding("unplaced-blocks", told, f"{many} that {verb} not in the file: {told}.")
    if noticed.circles:
        told = names(list(noticed.circles))
        message = f"A block contains itself: {told}. It was placed once and not again inside."
        yield finding("unplaced-blocks", told, message)
    if noticed.too_many:
        message = f"Blocks in blocks come to more than {noticed.too_many:,} things. The rest is not in the model."
        yield finding("unplaced-blocks", "DXF", message)
