"""Triangles over flat areas, which are the caps of prisms."""

from collections.abc import Sequence

import manifold3d as m3
import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.drawn.curves import Points

Triangles = NDArray[np.int32]
Numbers = NDArray[np.int64]
Complex = NDArray[np.complex128]
#: A triangle of a band has at least this share of the square of its area's size, or the band is not taken.
_LEAST = 1e-12


def capped(areas: Sequence[Sequence[Points]]) -> list[Triangles]:
    """Triangles (m, 3) over each area, which has rings as Clipper gives them: outer ones counter-clockwise, holes
    clockwise. They count through the points of its rings, one after the other; each is counter-clockwise.

    Walls around outlines are bands between two rings. Those are covered all at once, and evenly; whatever else there
    is goes to manifold3d, which clips ears one by one.
    """
    bands = [k for k, rings in enumerate(areas) if len(rings) == 2]
    found = dict(zip(bands, _bands([areas[k] for k in bands]), strict=True)) if bands else {}
    return [
        cap if (cap := found.get(k)) is not None else np.asarray(m3.triangulate(rings), np.int32).reshape(-1, 3)
        for k, rings in enumerate(areas)
    ]


def _bands(areas: Sequence[Sequence[Points]]) -> list[Triangles | None]:
    """Each band as a strip that goes once around it, by the angle at which its middle sees both of its edges.

    None for one that this does not cover: seen from there an edge goes backwards, or not every triangle is
    counter-clockwise. Where all are, and each side of both rings has one, a point lies in as many triangles as the
    rings wind around it: once in the band, never outside.
    """
    points = np.concatenate([ring for rings in areas for ring in rings])
    sizes = np.array([[len(ring) for ring in rings] for rings in areas])
    starts = (np.cumsum(sizes) - sizes.ravel()).reshape(-1, 2)
    counts, firsts = sizes.sum(axis=1), starts[:, 0]
    low, high = (op.reduceat(points, firsts) for op in (np.minimum, np.maximum))
    # As complex numbers, seen from the middle of their band.
    at = (points - np.repeat((low + high) / 2, counts, axis=0)).view(np.complex128)[:, 0]
    angles = np.angle(at)
    signed = _doubled_areas(at, starts.ravel(), sizes.ravel()).reshape(-1, 2)
    good = (signed.max(axis=1) > 0) & (signed.min(axis=1) < 0)
    outer, rows = signed.argmax(axis=1), np.arange(len(areas))

    sides, mids, bands = [], [], []
    for which, turn in ((outer, 1), (1 - outer, -1)):
        count = sizes[rows, which]
        begin, end, band = _around(angles, starts[rows, which], count, turn)
        step = (angles[end] - angles[begin]) % (2 * np.pi)
        good &= np.maximum.reduceat(step, np.cumsum(count) - count) < np.pi
        sides.append(np.stack([begin, end]))
        mids.append(angles[begin] + step / 2)
        bands.append(band)
    outside = np.repeat([True, False], [len(band) for band in bands])
    begin, end = np.concatenate(sides, axis=1)
    band = np.concatenate(bands)
    order = np.lexsort((outside, np.concatenate(mids), band))
    begin, end, outside, band = begin[order], end[order], outside[order], band[order]
    apex = np.where(outside, _stands(begin, end, ~outside, band), _stands(begin, end, outside, band))
    first, second = np.where(outside, begin, end), np.where(outside, end, begin)
    doubled = ((at[second] - at[first]).conj() * (at[apex] - at[first])).imag
    good &= np.minimum.reduceat(doubled, firsts) > _LEAST * (high - low).max(axis=1) ** 2
    triangles = np.column_stack([first, second, apex]) - firsts[band][:, None]
    strips = np.split(triangles.astype(np.int32), firsts[1:])
    return [strip if fine else None for strip, fine in zip(strips, good.tolist(), strict=True)]


def _doubled_areas(at: Complex, starts: Numbers, sizes: Numbers) -> Points:
    """Twice the signed area of each ring, from all of its points but the last side's, which begins at its first."""
    local = at - np.repeat(at[starts], sizes)
    turns = np.zeros(len(at))
    turns[:-1] = (local[:-1].conj() * local[1:]).imag
    turns[starts + sizes - 1] = 0.0
    return np.add.reduceat(turns, starts)


def _around(angles: Points, starts: Numbers, sizes: Numbers, turn: int) -> tuple[Numbers, Numbers, Numbers]:
    """The sides of one ring of each band, as the points they begin and end at and their band; counter-clockwise, from
    the point with the least angle on. `turn` is -1 for rings that go clockwise."""
    band = np.repeat(np.arange(len(starts)), sizes)
    offsets = np.cumsum(sizes) - sizes
    local = np.arange(len(band)) - offsets[band]
    start, size = starts[band], sizes[band]
    mine = angles[start + local]
    least = np.flatnonzero(mine == np.minimum.reduceat(mine, offsets)[band])
    least = local[least[np.searchsorted(least, offsets)]]
    begin = (least[band] + turn * local) % size
    return start + begin, start + (begin + turn) % size, band


def _stands(begin: Numbers, end: Numbers, along: NDArray[np.bool_], band: Numbers) -> Numbers:
    """For every step of the strips where it stands on the ring that the steps `along` take: where the latest of them
    in its band ended, or where the first of them begins."""
    steps = np.flatnonzero(along)
    before = np.cumsum(along) - 1
    latest = steps[np.maximum(before, 0)]
    first = steps[np.searchsorted(band[steps], band)]
    return np.where((before >= 0) & (band[latest] == band), end[latest], begin[first])
