"""Unpacking buffer views of EXT_meshopt_compression, as its specification describes the streams and the filters."""

import numpy as np
from numpy.typing import NDArray

Bytes = NDArray[np.uint8]
#: Bytes of a block of elements, and elements of it at most.
_BLOCK_BYTES, _BLOCK_MOST = 8192, 256
_GROUP = 16
#: What a packed byte holds, the first in its highest bits: four numbers of two bits, two of four.
_PAIRS = np.array([[(b >> s) & 3 for s in (6, 4, 2, 0)] for b in range(256)], np.uint8)
_HALVES = np.array([[b >> 4, b & 15] for b in range(256)], np.uint8)


class Damaged(ValueError):
    """A stream that ends before it should, or begins as none does."""


def unpack(data: bytes, count: int, stride: int, mode: str, filtered: str) -> bytes:
    """The view's bytes, count times stride. Raises Damaged."""
    try:
        if mode == "ATTRIBUTES":
            rows = _attributes(np.frombuffer(data, np.uint8), count, stride)
            return _FILTERS[filtered](rows, stride).tobytes() if filtered != "NONE" else rows.tobytes()
        index = _triangles(data, count) if mode == "TRIANGLES" else _indices(data, count)
        kind = {2: "<u2", 4: "<u4"}[stride]
        return index.astype(kind).tobytes()
    except Damaged:
        raise
    except (IndexError, KeyError, ValueError) as error:
        raise Damaged("a compressed view ends too early") from error


def _attributes(data: Bytes, count: int, stride: int) -> Bytes:
    """Mode 0: bytes of elements as differences, a plane for each byte of an element, in blocks."""
    if not len(data) or data[0] != 0xA0 or not 0 < stride <= 256 or stride % 4:
        raise Damaged("a compressed view begins as none does")
    most = min(_BLOCK_BYTES // stride // _GROUP * _GROUP, _BLOCK_MOST)
    last = data[len(data) - stride :].copy()
    out = np.zeros((count, stride), np.uint8)
    at = 1
    for start in range(0, count, most):
        size = min(most, count - start)
        for plane in range(stride):
            deltas, at = _plane(data, at, size)
            # The lowest bit is the sign.
            steps = (deltas >> 1) ^ (-(deltas & 1).astype(np.int16) & 0xFF).astype(np.uint8)
            out[start : start + size, plane] = last[plane] + np.cumsum(steps, dtype=np.uint8)
        last = out[start + size - 1].copy()
    return out


def _plane(data: Bytes, at: int, size: int) -> tuple[Bytes, int]:
    """One plane of a block: groups of sixteen, whose widths stand before them."""
    groups = -(-size // _GROUP)
    head = _PAIRS[data[at : at + -(-groups // 4)]][:, ::-1].ravel()[:groups]
    at += -(-groups // 4)
    out = np.zeros(groups * _GROUP, np.uint8)
    for group, width in enumerate(head.tolist()):
        if width == 0:
            continue
        place = out[group * _GROUP : (group + 1) * _GROUP]
        if width == 3:
            place[:] = data[at : at + _GROUP]
            at += _GROUP
            continue
        table, packed, sentinel = (_PAIRS, 4, 3) if width == 1 else (_HALVES, 8, 15)
        place[:] = table[data[at : at + packed]].ravel()
        at += packed
        whole = np.flatnonzero(place == sentinel)
        place[whole] = data[at : at + len(whole)]
        at += len(whole)
    if at > len(data):
        raise Damaged("a compressed view ends too early")
    return out[:size], at


class _Numbers:
    """Whole numbers of a few bytes each, seven bits a byte."""

    def __init__(self, data: bytes, at: int) -> None:
        self.data, self.at = data, at

    def next(self) -> int:
        value = 0
        for shift in range(0, 35, 7):
            byte = self.data[self.at]
            self.at += 1
            value |= (byte & 127) << shift
            if byte < 128:
                return value
        raise Damaged("a number in a compressed view has no end")

    def step(self) -> int:
        """One with its sign in the lowest bit."""
        value = self.next()
        return (value >> 1) ^ -(value & 1)


def _triangles(data: bytes, count: int) -> NDArray[np.int64]:
    """Mode 1: triangles by edges and corners that were met lately."""
    if count % 3 or not data or data[0] not in (0xE0, 0xE1):
        raise Damaged("a compressed view begins as none does")
    faces = count // 3
    recent_most = 13 if data[0] == 0xE1 else 15
    table = data[len(data) - 16 :]
    numbers = _Numbers(data, 1 + faces)
    out = np.zeros((faces, 3), np.int64)
    edges: list[tuple[int, int]] = [(0, 0)] * 16
    corners = [0] * 16
    edge_at = corner_at = following = last = 0

    def push(corner: int, really: bool = True) -> None:
        nonlocal corner_at
        corners[corner_at] = corner
        corner_at = (corner_at + 1) & 15 if really else corner_at

    def join(first: int, second: int) -> None:
        nonlocal edge_at
        edges[edge_at] = (first, second)
        edge_at = (edge_at + 1) & 15

    for face in range(faces):
        code = data[1 + face]
        if code < 0xF0:
            a, b = edges[(edge_at - 1 - (code >> 4)) & 15]
            recent = code & 15
            if recent < recent_most:
                c = following if recent == 0 else corners[(corner_at - 1 - recent) & 15]
                following += recent == 0
                push(c, recent == 0)
            else:
                c = last = last + (numbers.step() if recent == 15 else 1 if recent == 14 else -1)
                push(c)
            join(c, b)
            join(a, c)
        else:
            if code < 0xFE:
                more, first = table[code & 15], 0
            else:
                more, first = data[numbers.at], 0 if code == 0xFE else 15
                numbers.at += 1
                if more == 0:
                    following = 0
            second, third = more >> 4, more & 15
            a = b = c = 0
            if first == 0:
                a, following = following, following + 1
            if second == 0:
                b, following = following, following + 1
            elif second < 15 or code < 0xFE:
                b = corners[(corner_at - second) & 15]
            if third == 0:
                c, following = following, following + 1
            elif third < 15 or code < 0xFE:
                c = corners[(corner_at - third) & 15]
            if code >= 0xFE:
                if first == 15:
                    a = last = last + numbers.step()
                if second == 15:
                    b = last = last + numbers.step()
                if third == 15:
                    c = last = last + numbers.step()
            push(a)
            push(b, second == 0 or (code >= 0xFE and second == 15))
            push(c, third == 0 or (code >= 0xFE and third == 15))
            join(b, a)
            join(c, b)
            join(a, c)
        out[face] = (a, b, c)
    return out.ravel()


def _indices(data: bytes, count: int) -> NDArray[np.int64]:
    """Mode 2: each index by its difference from one of two before it."""
    if not data or data[0] != 0xD1:
        raise Damaged("a compressed view begins as none does")
    numbers, last = _Numbers(data, 1), [0, 0]
    out = np.zeros(count, np.int64)
    for at in range(count):
        value = numbers.next()
        which, value = value & 1, value >> 1
        last[which] += (value >> 1) ^ -(value & 1)
        out[at] = last[which]
    return out


def _octahedral(rows: Bytes, stride: int) -> NDArray[np.generic]:
    """Directions on an octahedron; the third number says what 1 is, the fourth stays."""
    kind, most = ("<i1", 127.0) if stride == 4 else ("<i2", 32767.0)
    told = np.ascontiguousarray(rows).view(kind).reshape(len(rows), 4)
    x, y, one = (told[:, k].astype(np.float64) for k in range(3))
    z = one - np.abs(x) - np.abs(y)
    under = np.minimum(z, 0)
    x, y = x + np.where(x >= 0, under, -under), y + np.where(y >= 0, under, -under)
    length = np.sqrt(x * x + y * y + z * z)
    scale = np.divide(most, length, out=np.zeros_like(length), where=length > 0)
    out = told.copy()
    for k, values in enumerate((x, y, z)):
        out[:, k] = np.rint(values * scale).astype(kind)
    return out


def _quaternion(rows: Bytes, stride: int) -> NDArray[np.generic]:
    """The largest of four is left out, and which it is stands in the lowest bits of the last."""
    told = np.ascontiguousarray(rows).view("<i2").reshape(-1, 4)
    largest = told[:, 3] & 3
    scale = np.sqrt(0.5) / (told[:, 3] | 3).astype(np.float64)
    three = told[:, :3] * scale[:, None]
    rest = np.sqrt(np.maximum(0.0, 1 - (three * three).sum(axis=1)))
    out = np.zeros_like(told)
    at = np.arange(len(told))
    for k in range(3):
        out[at, (largest + 1 + k) & 3] = np.rint(three[:, k] * 32767)
    out[at, largest] = np.rint(rest * 32767)
    return out


def _exponential(rows: Bytes, stride: int) -> NDArray[np.generic]:
    """Numbers of 24 bits times a power of two of eight."""
    told = np.ascontiguousarray(rows).view("<i4")
    mantissa = (told << 8) >> 8
    return np.asarray(np.ldexp(mantissa.astype(np.float64), told >> 24), "<f4")


_FILTERS = {"OCTAHEDRAL": _octahedral, "QUATERNION": _quaternion, "EXPONENTIAL": _exponential}
