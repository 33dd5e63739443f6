"""The XML of an SVG, read as what it is: a file from a stranger.

Nothing outside is fetched. Entities that the file declares itself are put in
by us, one level deep; those that call on others, or on files, are not.
"""

import re
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

from defusedxml.ElementTree import DefusedXMLParser

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import clip

SVG = "http://www.w3.org/2000/svg"
XLINK = "http://www.w3.org/1999/xlink"
XML = "http://www.w3.org/XML/1998/namespace"
#: Deeper nesting than this is no drawing.
MOST_DEEP = 1000
MOST_ELEMENTS = 2_000_000
_MOST_GROWTH = 4 << 20
_ENTITY = re.compile(r"<!ENTITY\s+([\w.:-]+)\s+(\"[^\"]*\"|'[^']*')\s*>")
_OUTSIDE = re.compile(r"<!ENTITY\s+(?:%\s*)?[\w.:-]+\s+(?:SYSTEM|PUBLIC)\b")
_DOCTYPE = re.compile(r"<!DOCTYPE[^\[>]*(?:\[(.*?)\]\s*)?>", re.DOTALL)
_CALL = re.compile(r"&([A-Za-z_][\w.:-]*);")
_PREDEFINED = {"lt", "gt", "amp", "quot", "apos"}


@dataclass
class Document:
    """The root, elements by id (the first of each), and namespaces that are none of SVG's own."""

    root: ElementTree.Element
    by_id: dict[str, ElementTree.Element] = field(default_factory=dict)
    foreign: dict[str, int] = field(default_factory=dict)
    outside_entities: int = 0
    elements: int = 0
    scripts: int = 0

    def referred(self, element: ElementTree.Element) -> tuple[str, ElementTree.Element | None]:
        """What its `href` says, and the element of this document it means, if any."""
        href = (element.get("href") or element.get(f"{{{XLINK}}}href") or "").strip()
        return href, self.by_id.get(href[1:]) if href.startswith("#") else None


class _Guard(ElementTree.TreeBuilder):
    """Builds the tree and counts: how deep, how many."""

    def __init__(self) -> None:
        super().__init__()
        self.depth = self.count = 0

    def start(self, tag: Any, attrs: Any) -> Any:
        self.depth += 1
        self.count += 1
        if self.depth > MOST_DEEP:
            raise UnreadableSource(f"Its elements are nested more than {MOST_DEEP:,} deep, which no drawing needs.")
        if self.count > MOST_ELEMENTS:
            raise UnreadableSource(f"It holds more than {MOST_ELEMENTS:,} elements.", "Ask for it in pieces.")
        return super().start(tag, attrs)

    def end(self, tag: Any) -> Any:
        self.depth -= 1
        return super().end(tag)


def open_svg(path: Path) -> Document:
    """Parse the file. Raises UnreadableSource with what is wrong and where."""
    text, outside = _text(path)
    parser = DefusedXMLParser(target=_Guard(), forbid_dtd=False, forbid_entities=True, forbid_external=True)
    try:
        parser.feed(text)
        root = parser.close()
    except ElementTree.ParseError as error:
        line = getattr(error, "position", (0, 0))[0]
        raise UnreadableSource(
            f"The file begins like SVG, but at line {line:,} it is no XML: {clip(str(error), 120)}.",
            "It was damaged on its way or written by hand. Open it in a text editor at that line, or ask for it again.",
        ) from error
    except ValueError as error:  # what the guard of entities raises
        raise UnreadableSource("It calls on entities that are not allowed here.", "Ask for a plain SVG.") from error
    if root.tag not in ("svg", f"{{{SVG}}}svg"):
        raise UnreadableSource("The outermost element is not svg.", "Ask for the file again as SVG.")
    document = Document(root, outside_entities=outside)
    for element in root.iter():
        document.elements += 1
        document.scripts += local(element) == "script"
        if not isinstance(element.tag, str):
            continue
        name = element.get("id") or element.get(f"{{{XML}}}id")
        if name:
            document.by_id.setdefault(name, element)
        for space in _spaces(element):
            document.foreign[space] = document.foreign.get(space, 0) + 1
    return document


def _spaces(element: ElementTree.Element) -> list[str]:
    names = [element.tag, *element.keys()]
    found = [name[1:].partition("}")[0] for name in names if name[:1] == "{"]
    return [space for space in found if space not in (SVG, XLINK, XML)]


def local(element: ElementTree.Element) -> str | None:
    """Its name in SVG; None for an element of another namespace, a comment or an instruction."""
    tag = element.tag
    if not isinstance(tag, str):
        return None
    if tag[:1] != "{":
        return tag
    space, _, name = tag[1:].partition("}")
    return name if space == SVG else None


def _text(path: Path) -> tuple[str, int]:
    """The text without its doctype, its own plain entities put in; and how many reach outside."""
    data = path.read_bytes()
    text = _decoded(data)
    doctype = _DOCTYPE.search(text[: 1 << 20])
    if doctype is None:
        return text, 0
    inside = doctype[1] or ""
    values = {name: value[1:-1] for name, value in _ENTITY.findall(inside)}
    plain = {name: value for name, value in values.items() if "&" not in value and "<" not in value}
    body = text[: doctype.start()] + text[doctype.end() :]
    calls = _CALL.findall(body)
    growth = sum(len(plain.get(name, "")) for name in calls)
    if growth > _MOST_GROWTH:
        raise UnreadableSource("Its entities grow it far beyond its own size.", "Ask for a plain SVG.")
    unknown = {name for name in calls if name not in plain} - _PREDEFINED
    if any(name in values for name in unknown):
        raise UnreadableSource("Its entities call on each other, as bombs do.", "Ask for a plain SVG.")
    # What it would fetch from elsewhere stays empty.
    body = _CALL.sub(lambda call: plain.get(call[1], call[0] if call[1] in _PREDEFINED else ""), body)
    return body, len(_OUTSIDE.findall(inside))


def _decoded(data: bytes) -> str:
    for mark, codec in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return _undeclared(data.decode(codec, "replace"))
    told = re.match(rb"<\?xml[^>]*encoding\s*=\s*[\"']([\w.:-]+)", data[:200])
    name = told[1].decode("ascii") if told else "utf-8"
    try:
        return _undeclared(data.decode(name))
    except LookupError as error:
        raise UnreadableSource(f"It says that it is written in “{clip(name, 30)}”, which nobody knows.") from error
    except UnicodeDecodeError:
        # Wrong about itself. Every byte means something in Latin-1, and the geometry is plain letters.
        return _undeclared(data.decode("latin-1"))


def _undeclared(text: str) -> str:
    """Without the declaration, which would say an encoding that the text has no more."""
    return re.sub(r"^\s*<\?xml[^>]*\?>", "", text, count=1)


def applies(element: ElementTree.Element) -> bool:
    """Whether it is for us: it asks for nothing beyond SVG, and is in no language but English (SVG 2, 5.8)."""
    languages = element.get("systemLanguage")
    if languages is not None and not any(
        word.strip().lower().partition("-")[0] == "en" for word in languages.split(",")
    ):
        return False
    return element.get("requiredExtensions") is None


def first_that_applies(switch: ElementTree.Element) -> list[ElementTree.Element]:
    """What a switch shows. Pages of text in it, which need a browser, give way to what stands in for them."""
    able = (child for child in switch if local(child) not in (None, "foreignObject") and applies(child))
    return list(able)[:1]
