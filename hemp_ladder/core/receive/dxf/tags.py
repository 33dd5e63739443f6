"""The tags of a DXF text file in one pass: half of what the library takes to read a drawing is its two, a step each for
every line and then for every tag.

A tag is a group code in a line and a value in the next (DXF reference, "group codes in numerical order"); coordinates
are put together to points, as the library wants them.
"""

from collections.abc import Callable, Iterator
from itertools import chain, islice
from typing import Any, TextIO

from ezdxf.lldxf.tagger import BINARY_DATA, POINT_CODES, TYPE_TABLE
from ezdxf.lldxf.types import DXFBinaryTag, DXFTag, DXFVertex

from hemp_ladder.core.receive.dxf.plain import KINDS, Plains

_SINGLE, _POINT, _BINARY, _START, _COMMENT = range(5)
_COMMENT_CODE = 999
#: What begins and ends sections, and the file.
_STRUCTURE = {"SECTION", "ENDSEC", "EOF"}
#: A group code, what makes its values of lines, and how they are written.
_Kind = tuple[int, Callable[[str], Any], int]


def tags(stream: TextIO, plains: Plains | None = None) -> Iterator[DXFTag]:
    """The tags up to the end of the drawing, values of their types, without those of the entities that `plains` takes.

    Raises ValueError, or RuntimeError where the stream stops in a tag, for what is not written plainly: the library's
    own way of reading knows more ways.
    """
    return _tags(iter(stream), {}, plains)


def _tags(lines: Iterator[str], kinds: dict[str, _Kind], plains: Plains | None = None) -> Iterator[DXFTag]:
    entities = False
    word = next(lines, None)
    while word is not None:
        kind = kinds.get(word)
        if kind is None:
            # Some hundred different lines are all codes there are in a file of millions.
            kind = kinds[word] = _kind(int(word))
        code, typed, how = kind
        value = next(lines)
        if how == _SINGLE:
            yield DXFTag(code, typed(value))
        elif how == _POINT:
            if int(next(lines)) != code + 10:
                raise ValueError("a coordinate alone")
            point = float(value), float(next(lines))
            word = next(lines, None)
            if word is None or int(word) != code + 20:
                yield DXFVertex(code, point)
                continue
            yield DXFVertex(code, (*point, float(next(lines))))
        elif how == _START:
            name = value.strip()
            if entities and plains is not None and name in KINDS:
                codes, values, word = _entity(lines, kinds)
                if not plains.take(name, codes, values):
                    yield DXFTag(code, name)
                    yield from _tags(chain.from_iterable(zip(map(str, codes), values, strict=True)), kinds)
                continue
            yield DXFTag(code, name)
            if name == "EOF":
                return
            if entities and plains is not None and name not in _STRUCTURE:
                # Its handle comes first, of which nothing but its place is to be known.
                for tag in islice(_tags(lines, kinds), 1):
                    plains.pass_by(tag)
                    yield tag
            elif name in _STRUCTURE:
                entities = False
            if name == "SECTION":
                for tag in islice(_tags(lines, kinds), 1):
                    yield tag
                    entities = tag == (2, "ENTITIES")
        elif how == _BINARY:
            yield DXFBinaryTag.from_string(code, _text(value))
        word = next(lines, None)


def _entity(lines: Iterator[str], kinds: dict[str, _Kind]) -> tuple[list[int], list[str], str | None]:
    """Codes and lines of values up to the next entity, and the line that this begins with."""
    codes: list[int] = []
    values: list[str] = []
    while (word := next(lines, None)) is not None:
        kind = kinds.get(word)
        if kind is None:
            kind = kinds[word] = _kind(int(word))
        if kind[2] == _START:
            break
        codes.append(kind[0])
        values.append(next(lines))
    return codes, values, word


def _kind(code: int) -> _Kind:
    if code in POINT_CODES:
        how = _POINT
    elif code in BINARY_DATA:
        how = _BINARY
    else:
        how = {0: _START, _COMMENT_CODE: _COMMENT}.get(code, _SINGLE)
    typed = TYPE_TABLE.get(code, str)
    return code, _text if typed is str else _whole if typed is int else typed, how


def _text(value: str) -> str:
    return value.rstrip("\n")


def _whole(value: str) -> int:
    """Some systems write whole numbers with a point."""
    try:
        return int(value)
    except ValueError:
        return int(float(value))
