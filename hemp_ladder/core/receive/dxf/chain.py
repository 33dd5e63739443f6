"""Loose lines and arcs that meet end to end, joined to outlines."""

import numpy as np

from hemp_ladder.core.drawn.curves import Subpath

#: Ends nearer than this share of the drawing are one.
_MEET = 1e-7


def chained(paths: list[Subpath]) -> list[Subpath]:
    """Runs of open subpaths that meet two by two, each as one; closed where it comes back to its start.

    Where three or more meet, nothing says which go on together, and each run ends.
    """
    if len(paths) < 2:
        return paths
    ends = np.array([[path.start, path.end] for path in paths]).reshape(-1, 2)
    size = float(np.ptp(ends, axis=0).max()) or 1.0
    place = _places(ends, _MEET * size)
    count = np.bincount(place)
    at: dict[int, list[int]] = {}
    for end, where in enumerate(place):
        at.setdefault(int(where), []).append(end)
    used = np.zeros(len(paths), dtype=bool)
    found: list[Subpath] = []
    # Runs that end somewhere first, then those that go round.
    open_ends = [end for end in range(len(ends)) if count[place[end]] != 2]
    for end in [*open_ends, *range(0, len(ends), 2)]:
        if not used[end // 2]:
            found.append(_run(paths, end, place, count, at, used))
    return found


def undoubled(paths: list[Subpath]) -> tuple[list[Subpath], int]:
    """Straight lines that lie exactly on each other once, whichever way they run; and how many went."""
    if len(paths) < 2:
        return paths, 0
    ends = np.array([[path.start, path.end] for path in paths]).reshape(-1, 2)
    place = _places(ends, _MEET * (float(np.ptp(ends, axis=0).max()) or 1.0)).reshape(-1, 2)
    met: set[tuple[int, int]] = set()
    kept = []
    for path, (a, b) in zip(paths, np.sort(place, axis=1).tolist(), strict=True):
        straight = len(path.segments) == 1 and path.segments[0][0] == "L" and len(path.segments[0][1]) == 2
        if straight and ((a, b) in met or a == b):
            continue
        if straight:
            met.add((a, b))
        kept.append(path)
    return kept, len(paths) - len(kept)


def _run(paths, end, place, count, at, used) -> Subpath:  # type: ignore[no-untyped-def]
    first = place[end]
    start, segments = None, []
    while True:
        number = end // 2
        used[number] = True
        path = paths[number] if end % 2 == 0 else paths[number].reversed()
        start = path.start if start is None else start
        segments += path.segments
        far = end ^ 1
        where = int(place[far])
        if where == first:
            return Subpath(start, tuple(segments), len(segments) > 1 or segments[0][0] != "L")
        if count[where] != 2:
            return Subpath(start, tuple(segments), False)
        following = [other for other in at[where] if other != far]
        if not following or used[following[0] // 2]:
            return Subpath(start, tuple(segments), False)
        end = following[0]


def _places(points: np.ndarray, tolerance: float) -> np.ndarray:
    """A number for every place; points nearer than the tolerance share one."""
    from hemp_ladder.core.mesh import weld_indices

    return weld_indices(np.column_stack([points, np.zeros(len(points))]), tolerance)
