"""Loose lines and arcs that meet end to end, joined to outlines."""

import numpy as np

from hemp_ladder.core.drawn.curves import Segment, Subpath

#: Ends nearer than this share of the drawing are one.
_MEET = 1e-7


def chained(paths: list[Subpath]) -> tuple[list[Subpath], int]:
    """Runs of open subpaths that meet two by two, each as one; closed where it comes back to its start. And how many
    straight lines lay exactly on others: those are taken once.

    Where three or more meet, nothing says which go on together, and each run ends.
    """
    if len(paths) < 2:
        return paths, 0
    ends = np.array([(*path.start, *path.end) for path in paths]).reshape(-1, 2)
    size = float(np.ptp(ends, axis=0).max()) or 1.0
    places = _places(ends, _MEET * size).reshape(-1, 2)
    single = _undoubled(paths, places)
    doubled = len(paths) - len(single)
    if doubled:
        paths, places = [paths[k] for k in single], places[single]
    place: list[int] = places.reshape(-1).tolist()
    at: dict[int, list[int]] = {}
    for end, where in enumerate(place):
        at.setdefault(where, []).append(end)
    used = [False] * len(paths)
    found: list[Subpath] = []
    # Runs that end somewhere first, then those that go round.
    open_ends = [end for end, where in enumerate(place) if len(at[where]) != 2]
    for end in [*open_ends, *range(0, len(place), 2)]:
        if not used[end // 2]:
            found.append(_run(paths, end, place, at, used))
    return found, doubled


def _undoubled(paths: list[Subpath], place: np.ndarray) -> list[int]:
    """Which are left when straight lines that lie exactly on each other, whichever way they run, are taken once."""
    met: set[tuple[int, int]] = set()
    kept = []
    for k, (path, (a, b)) in enumerate(zip(paths, np.sort(place, axis=1).tolist(), strict=True)):
        segments = path.segments
        if len(segments) == 1 and segments[0][0] == "L" and len(segments[0][1]) == 2:
            if a == b or (a, b) in met:
                continue
            met.add((a, b))
        kept.append(k)
    return kept


def _run(paths: list[Subpath], end: int, place: list[int], at: dict[int, list[int]], used: list[bool]) -> Subpath:
    first = place[end]
    if len(at[first]) == 1 and len(at[place[end ^ 1]]) == 1 and end % 2 == 0:
        # Most lines of a drawing meet nothing.
        used[end // 2] = True
        return paths[end // 2]
    start: tuple[float, float] | None = None
    segments: list[Segment] = []
    while True:
        number = end // 2
        used[number] = True
        path = paths[number] if end % 2 == 0 else paths[number].reversed()
        start = path.start if start is None else start
        segments += path.segments
        far = end ^ 1
        where = place[far]
        if where == first:
            return Subpath(start, tuple(segments), len(segments) > 1 or segments[0][0] != "L")
        if len(at[where]) != 2:
            return Subpath(start, tuple(segments), False)
        following = [other for other in at[where] if other != far]
        if not following or used[following[0] // 2]:
            return Subpath(start, tuple(segments), False)
        end = following[0]


def _places(points: np.ndarray, tolerance: float) -> np.ndarray:
    """A number for every place; points nearer than the tolerance share one."""
    from hemp_ladder.core.mesh.triangles import weld_indices

    return weld_indices(np.column_stack([points, np.zeros(len(points))]), tolerance)
