"""Whether a lighter mesh lost its shape, from the figures that were measured of it."""

from collections.abc import Mapping

#: What can be lost, and how that is said.
LOST = {
    "shells": "pieces are gone",
    "handles": "holes are closed",
    "rings": "openings are closed",
    "volume": "its volume changed",
    "silhouette": "its outline changed",
}


def lost(told: Mapping[str, float], share: float) -> list[str]:
    """What of its shape a mesh lost, by the names of `LOST`, from the figures of a trimming: pieces and holes by their
    number, volume and outline beyond a share."""
    pairs = {name: (told.get(name, 0), told.get(f"{name}_now", 0)) for name in ("shells", "handles", "rings")}
    found = [name for name, (before, now) in pairs.items() if 0 <= now < before]
    before = told.get("volume", 0.0)
    if before and abs(told.get("volume_now", 0.0) - before) > share * abs(before):
        found.append("volume")
    if told.get("silhouette", 0.0) > share:
        found.append("silhouette")
    return found
