"""How each rung of the ladder stands, with its figure: told here once for every screen and script."""

from collections.abc import Sequence

from hemp_ladder.api.trim_views import TrimTold
from hemp_ladder.api.views import ClimbView, DeliveryView, RungView, SourceView
from hemp_ladder.core.findings import plural
from hemp_ladder.core.units import say_bytes, say_metric


def job_rungs(
    sources: Sequence[SourceView], climb: ClimbView, deliveries: Sequence[DeliveryView], target: str
) -> dict[str, RungView]:
    """The rungs at both ends; Facet too where its decisions make no sense, so that there is no result to tell of it."""
    found = {"Receive": _receive(sources), "Ship": _ship(deliveries, target)}
    if climb.state == "failed":
        found["Facet"] = RungView(state="person", figure="cannot be made")
    return found


def _receive(sources: Sequence[SourceView]) -> RungView:
    reading = [source for source in sources if source.state in ("waiting", "reading")]
    if reading:
        so = sum(source.count for source in reading)
        return RungView(state="busy", figure=f"{so:,}" if so else "", rest="parts so far" if so else "reading…")
    refused = sum(1 for source in sources if source.state == "refused")
    if refused:
        rest = f"{refused} of {len(sources)}" if len(sources) > 1 else ""
        return RungView(state="person", figure="refused", rest=rest)
    if any(source.state == "cancelled" for source in sources):
        return RungView(state="person", figure="stopped")
    facts = [source.facts or {} for source in sources]
    parts, placements = (sum(item.get(name, 0) for item in facts) for name in ("parts", "placements"))
    word = "part" if parts == 1 else "parts"
    return RungView(state="done", figure=f"{parts:,}", rest=f"{word}, {plural(placements, 'placement')}")


def _ship(deliveries: Sequence[DeliveryView], target: str) -> RungView:
    last = deliveries[0] if deliveries else None
    if last is None or last.state == "cancelled":
        return RungView(state="notyet", rest="not shipped yet")
    if last.state in ("waiting", "writing"):
        return RungView(state="busy", figure=target.upper(), rest=last.stage or "waiting")
    if last.state == "failed":
        return RungView(state="person", figure="not written")
    if last.receipt is None or not last.receipt.ok:
        return RungView(state="person", figure="receipt failed")
    return RungView(
        state="stale" if last.stale else "done", figure=say_bytes(last.bundle_bytes),
        rest="changed since" if last.stale else "receipt in order",
    )  # fmt: skip


def fit_rung(units: Sequence[str | None], ups: Sequence[str], size: Sequence[float]) -> RungView:
    """From each source's unit and up axis, and the overall size in metres."""
    said = ", ".join(dict.fromkeys(unit or "no unit" for unit in units))
    up = f", {ups[0].upper()} up" if len(set(ups)) == 1 else ""
    state = "done" if all(units) else "person"
    return RungView(state=state, figure=say_metric(max(size)), rest=f"largest, {said}{up}")


def facet_rung(climb: ClimbView, triangles: int, failed_parts: int) -> RungView:
    """From how far meshing is, and what is there."""
    figure = f"{triangles:,}"
    if climb.state == "working":
        return RungView(state="busy", figure=figure, rest=f"{climb.done:,} of {climb.total:,} meshed")
    if climb.state == "cancelled":
        return RungView(state="stale", figure=figure, rest="stopped halfway")
    return RungView(state="person" if failed_parts else "done", figure=figure, rest="triangles")


def sort_rung(loose: int, materials: int) -> RungView:
    if loose:
        return RungView(state="person", figure=plural(loose, "loose end"))
    return RungView(state="done", figure=f"{materials:,}", rest="materials, no loose end")


def mend_rung(inside_out: int, open_parts: int, damaged: int) -> RungView:
    """From how many parts face inward, end somewhere, and have triangles that nobody can have meant."""
    if damaged:
        return RungView(
            state="person", figure=f"{damaged:,} damaged", rest=f"{inside_out:,} inside out, {open_parts:,} open"
        )
    rest = f"inside out, {plural(open_parts, 'open part')}"
    return RungView(state="person" if inside_out else "done", figure=f"{inside_out:,}", rest=rest)


def trim_rung(triangles: int, told: TrimTold) -> RungView:
    """From the triangles that are left, how many there were, what the receiver allows, and which levels there are."""
    levels = f", {plural(len(told.levels), 'level')} beside" if told.levels else ""
    if told.over:
        return RungView(state="person", figure="over the limit", rest=" and ".join(told.over).replace("_", " "))
    kept = f"{100 * triangles / max(told.before, 1):.0f} %"
    if told.lost:
        return RungView(state="person", figure=kept, rest=f"kept, {plural(len(told.lost), 'part')} lost shape")
    if triangles == told.before:
        return RungView(state="done" if levels else "notyet", rest=f"nothing trimmed{levels}")
    return RungView(state="done", figure=kept, rest=f"of the triangles kept{levels}")
