"""XML of strangers: no entities, nothing fetched, so many elements and so deep, and no more."""

import re
from collections.abc import Callable
from typing import IO
from xml.etree.ElementTree import Element, ParseError, TreeBuilder
from xml.parsers import expat

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import DefusedXMLParser

from hemp_ladder.core.errors import UnreadableSource

#: Elements of a document that are taken, and how deep they may stand in one another.
MOST_ELEMENTS, DEEPEST = 20_000_000, 2_000
_ROOT = re.compile(rb"<(?![?!])\s*(?:[\w.-]+:)?([\w.-]+)")


def root_name(head: bytes) -> str:
    """The local name of the first element in a text that begins so; empty where there is none."""
    if head[:2] in (b"\xff\xfe", b"\xfe\xff"):
        head = head.decode("utf-16", "replace").encode()
    text = re.sub(rb"<!--.*?-->", b"", head, flags=re.DOTALL).removeprefix(b"\xef\xbb\xbf").lstrip()
    if not text.startswith(b"<"):
        return ""
    found = _ROOT.search(text)
    return found.group(1).decode("ascii", "replace") if found else ""


def damaged_xml(what: str, error: Exception) -> UnreadableSource:
    return UnreadableSource(
        f"The {what} file is no XML that can be read: {error}.", "It was damaged. Ask for it again."
    )


class _Bare(TreeBuilder):
    """Elements by their local names; counts them."""

    def __init__(self) -> None:
        super().__init__()
        self._count = self._depth = 0

    def start(self, tag: str, attrs: dict[str, str]) -> Element:
        self._count, self._depth = self._count + 1, self._depth + 1
        if self._count > MOST_ELEMENTS or self._depth > DEEPEST:
            raise ParseError("it has no end")
        return super().start(tag.rpartition("}")[2], {key.rpartition("}")[2]: v for key, v in attrs.items()})

    def end(self, tag: str) -> Element:
        self._depth -= 1
        return super().end(tag.rpartition("}")[2])


def parse(data: bytes, what: str) -> Element:
    """The root of a document, tags and attributes by their local names. Raises UnreadableSource."""
    try:
        parser = DefusedXMLParser(target=_Bare(), forbid_dtd=False, forbid_entities=True, forbid_external=True)
        parser.feed(data)
        root: Element = parser.close()
    except DefusedXmlException as error:
        raise UnreadableSource(
            f"The {what} file defines entities, which no such file needs.", "Ask for an export without them."
        ) from error
    except (ParseError, ValueError, LookupError) as error:
        raise damaged_xml(what, error) from error
    return root


Starter = Callable[[str, dict[str, str]], None]
Ender = Callable[[str, str], None]


def stream(file: IO[bytes], what: str, start: Starter, end: Ender, most: int) -> None:
    """Read a document element by element: `start` with local name and attributes, `end` with local name and the text
    before it. Raises UnreadableSource, also where it grows over `most` bytes."""
    parser = expat.ParserCreate()
    parser.buffer_text = True
    depth = count = 0
    text: list[str] = []

    def begin(tag: str, attributes: dict[str, str]) -> None:
        nonlocal depth, count
        depth, count = depth + 1, count + 1
        if depth > DEEPEST or count > MOST_ELEMENTS:
            raise UnreadableSource(f"The {what} file has no end of elements.", "Ask for it again.")
        text.clear()
        start(tag.rpartition(":")[2], attributes)

    def finish(tag: str) -> None:
        nonlocal depth
        depth -= 1
        end(tag.rpartition(":")[2], "".join(text))
        text.clear()

    def refuse(*_: object) -> None:
        raise UnreadableSource(
            f"The {what} file defines entities, which no such file needs.", "Ask for an export without them."
        )

    parser.StartElementHandler, parser.EndElementHandler = begin, finish
    parser.CharacterDataHandler = text.append
    parser.EntityDeclHandler = refuse
    size = 0
    try:
        while chunk := file.read(1 << 20):
            size += len(chunk)
            if size > most:
                raise UnreadableSource(
                    f"The {what} file unpacks to more than {most >> 20:,} MB.", "Ask for it in pieces."
                )
            parser.Parse(chunk, False)
        parser.Parse(b"", True)
    except (expat.ExpatError, ValueError, LookupError) as error:
        raise damaged_xml(what, error) from error
