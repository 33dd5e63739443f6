"""Lines of an OBJ in runs of a kind, and runs of numbers as arrays: whole blocks at a time where they are plain."""

import warnings
from collections.abc import Iterator
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

#: Bytes that are looked through together.
_BLOCK = 8 << 20
#: By its first two bytes, what a line is of.
_KINDS = {b"v ": b"v", b"vt": b"vt", b"vn": b"vn", b"f ": b"f"}
_BLANK = bytes.maketrans(b"\t/", b"  ")
#: Lines that are counted out to see that all are alike.
_SAMPLE = 200


class Run(NamedTuple):
    """Lines of one kind, with their first words, and how many; any other line alone, its kind empty."""

    kind: bytes
    text: bytes
    lines: int


def runs(path: Path) -> Iterator[Run]:
    """The lines of a file without blanks around them, those that a backslash breaks joined."""
    held = b""
    with path.open("rb") as file:
        while block := file.read(_BLOCK):
            whole, line_end, held = (held + block).rpartition(b"\n")
            if whole.rstrip(b"\r").endswith(b"\\"):
                held = whole + line_end + held
                continue
            yield from _runs(whole)
    yield from _runs(held)


def _runs(block: bytes) -> Iterator[Run]:
    if not block:
        return
    block = block.replace(b"\t", b" ").replace(b"\r", b"\n") if b"\t" in block or b"\r" in block else block
    if b"\\" in block:
        block = block.replace(b"\\\n\n", b" ").replace(b"\\\n", b" ")
    if block.startswith(b" ") or b"\n " in block:
        block = b"\n".join(line.strip() for line in block.split(b"\n"))
    data = np.frombuffer(block + b"\n\n", np.uint8)
    ends = np.flatnonzero(data[:-1] == 10)
    starts = np.concatenate([[0], ends[:-1] + 1])
    codes = data[starts].astype(np.int64) * 256 + data[starts + 1]
    plain = np.zeros(len(starts), np.int64)
    for number, pair in enumerate(_KINDS, 1):
        plain[codes == pair[0] * 256 + pair[1]] = number
    kinds = [b"", *_KINDS.values()]
    # Where one run ends and the next begins; each line that is none of those is a run of its own.
    cuts = np.flatnonzero((plain[1:] != plain[:-1]) | (plain[1:] == 0)) + 1
    for first, last in zip(np.concatenate([[0], cuts]).tolist(), [*cuts.tolist(), len(starts)], strict=True):
        text = block[starts[first] : ends[last - 1]]
        if text and (plain[first] or text.strip()):
            yield Run(kinds[plain[first]], text, last - first)


def numbers(texts: list[bytes], count: int, least: int) -> NDArray[np.float64]:
    """Rows of numbers behind their first words, (count, at least `least`); short rows are filled with zeros, what is no
    number becomes none."""
    if not count:
        return np.zeros((0, least))
    joined = b"\n".join(texts)
    width = len(joined[: joined.find(b"\n") if b"\n" in joined else None].split()) - 1
    if width >= least and _alike(joined, count, width + 1):
        values = _plain(joined.translate(None, b"vtn"), np.float64)
        if values is not None and len(values) == width * count:
            return values.reshape(count, width)
    rows = [line.split()[1:] for line in joined.split(b"\n") if line]
    table = np.zeros((len(rows), max(width, least)))
    for number, row in enumerate(rows):
        for column, word in enumerate(row[: table.shape[1]]):
            table[number, column] = _number(word)
    return table


def _number(word: bytes) -> float:
    try:
        return float(word)
    except ValueError:
        return float("nan")


def _alike(joined: bytes, count: int, words: int) -> bool:
    """Whether of so many lines those that are counted out have as many words, and no remark behind them."""
    if b"#" in joined:
        return False
    lines = np.linspace(0, len(joined) - 1, min(count, _SAMPLE)).astype(int)
    for place in lines.tolist():
        start, end = joined.rfind(b"\n", 0, place) + 1, joined.find(b"\n", place)
        if len(joined[start : end if end >= 0 else None].split()) != words:
            return False
    return True


def _plain(text: bytes, kind: type) -> NDArray[Any] | None:
    """All numbers of a text; None where anything in it is none."""
    with warnings.catch_warnings():
        warnings.simplefilter("error", DeprecationWarning)
        try:
            return np.fromstring(text, dtype=kind, sep=" ") if text.strip() else None
        except (DeprecationWarning, ValueError, OverflowError):
            return None


def corners(texts: list[bytes], count: int) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """How many corners each face has, and of all corners position, UV and normal as numbered in the file, 0 for none."""
    if not count:
        return np.zeros(0, np.int64), np.zeros((0, 3), np.int64)
    joined = b"\n".join(texts)
    words = joined[: joined.find(b"\n") if b"\n" in joined else None].split()
    if len(words) > 1 and b"#" not in joined:
        per_corner = 1 + words[1].count(b"/") - words[1].count(b"//")
        columns = [0, 2] if b"//" in words[1] else [*range(per_corner)]
        counts = _counts(joined, count, len(words))
        total = int(counts.sum())
        slashes = joined.count(b"/")
        if slashes == total * words[1].count(b"/") and joined.count(b"//") == total * words[1].count(b"//"):
            values = _plain(joined.translate(_BLANK, b"f"), np.int64)
            if values is not None and len(values) == total * per_corner and 1 <= per_corner <= 3:
                table = np.zeros((total, 3), np.int64)
                table[:, columns] = values.reshape(total, per_corner)
                return counts, np.clip(table, -(1 << 40), 1 << 40)
    faces = [line.split()[1:] for line in joined.split(b"\n") if line]
    return np.array([len(face) for face in faces], np.int64), _table([word for face in faces for word in face])


def _counts(joined: bytes, count: int, words: int) -> NDArray[np.int64]:
    """How many corners each face has: those of the first where all that are counted out are alike and as many blanks are
    there as that needs, else counted."""
    if _alike(joined, count, words) and joined.count(b" ") == count * (words - 1):
        return np.full(count, words - 1, np.int64)
    return np.array([len(line.split()) - 1 for line in joined.split(b"\n")], np.int64)


def _table(words: list[bytes]) -> NDArray[np.int64]:
    table = np.zeros((len(words), 3), np.int64)
    for number, word in enumerate(words):
        for column, piece in enumerate(word.partition(b"#")[0].split(b"/")[:3]):
            try:
                table[number, column] = max(-(1 << 40), min(1 << 40, int(piece))) if piece else 0
            except ValueError:
                table[number, column] = 0
    return table
