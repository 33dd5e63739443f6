"""An SVG without what is foreign to it: no scripts, no editors' notes, nothing that reaches outside."""

import re
from collections.abc import Iterable
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import tinycss2

from hemp_ladder.core.receive.svg.document import SVG, XLINK, XML, local, open_svg

_GONE = {"script", "metadata", "foreignObject"}
#: What a link may lead to; it is followed only by a person's click.
_LINKS = ("http", "https", "mailto")
_PICTURES = re.compile(r"data:image/(png|jpeg|jpg|gif|webp|bmp|avif)[;,]")
#: Functions whose text is an address (CSS Values 4, 4.5; CSS Images 4, 2.4).
_ADDRESSED = {"url", "src", "image", "image-set", "-webkit-image-set", "cross-fade"}


def clean_svg(path: Path) -> bytes:
    """The same picture as plain SVG. Raises UnreadableSource when it is none."""
    document = open_svg(path)
    root = document.root
    if not root.tag.startswith("{"):
        for element in root.iter():
            if isinstance(element.tag, str) and element.tag[:1] != "{":
                element.tag = f"{{{SVG}}}{element.tag}"
    waiting = [root]
    while waiting:
        element = waiting.pop()
        for child in list(element):
            if local(child) is None or local(child) in _GONE or _sets_more(child):
                _drop(element, child)
            else:
                waiting.append(child)
        for name in list(element.keys()):
            value = element.get(name) or ""
            if _unwanted(name, value, local(element)):
                del element.attrib[name]
            elif name == "style":
                element.set(name, _clean_declarations(value))
        for child in [item for item in element if local(item) == "image" and not _shows(item)]:
            _drop(element, child)
        if local(element) == "style" and element.text:
            element.text = _clean_sheet(element.text)
    ElementTree.register_namespace("", SVG)
    ElementTree.register_namespace("xlink", XLINK)
    text: bytes = ElementTree.tostring(root, encoding="utf-8", xml_declaration=True)
    return text


def _shows(image: ElementTree.Element) -> bool:
    """Whether a bitmap is in the file itself."""
    return any(_PICTURES.match(_address(value)) for name, value in image.items() if name.endswith("href"))


def _sets_more(element: ElementTree.Element) -> bool:
    """Whether an animation sets a link or a script: what it would set is not looked at."""
    wanted = (element.get("attributeName") or "").strip().lower().rpartition(":")[2]
    return wanted == "href" or wanted.startswith("on")


def _unwanted(name: str, value: str, kind: str | None) -> bool:
    """Whether an attribute is foreign, holds a script, or reaches outside; an address would move where others lead."""
    space, _, bare = name[1:].partition("}") if name[:1] == "{" else ("", "", name)
    if space not in ("", SVG, XLINK, XML) or bare.lower().startswith("on") or (space == XML and bare == "base"):
        return True
    if bare.lower() == "href":
        told = _address(value)
        if kind == "a":
            scheme, colon, _ = told.partition(":")
            return bool(colon) and "/" not in scheme and "#" not in scheme and scheme not in _LINKS
        return not told.startswith("#") and not (kind == "image" and _PICTURES.match(told))
    return name != "style" and _reaches(tinycss2.parse_component_value_list(value))


def _address(value: str) -> str:
    """As a browser reads an address: without controls and blanks before it, or tabs and line ends within (URL, 4.4)."""
    return re.sub(r"[\t\n\r]", "", value.lstrip("".join(map(chr, range(33))))).lower()


def _reaches(tokens: Iterable[Any]) -> bool:
    """Whether any address among CSS tokens is other than a place in the file or a picture in it."""
    for token in tokens:
        if token.type == "url":
            if _outside(token.value):
                return True
        elif token.type == "function" and token.lower_name in _ADDRESSED:
            words = [item.value for item in token.arguments if item.type in ("string", "url")]
            if any(map(_outside, words)) or _reaches(item for item in token.arguments if item.type == "function"):
                return True
        elif (token.type == "function" and _reaches(token.arguments)) or (
            hasattr(token, "content") and token.content and _reaches(token.content)
        ):
            return True
    return False


def _outside(address: str) -> bool:
    told = _address(address)
    return not told.startswith("#") and not _PICTURES.match(told)


def _clean_sheet(text: str) -> str:
    """A style sheet without imports, without what reaches outside, and without scripts in old browsers' ways."""
    rules = tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True)
    return "\n".join(told for rule in rules if (told := _clean_rule(rule)))


def _clean_rule(rule: Any) -> str:
    if rule.type == "qualified-rule":
        kept = _clean_declarations(tinycss2.serialize(rule.content))
        return f"{tinycss2.serialize(rule.prelude).strip()} {{ {kept} }}" if kept else ""
    if rule.type != "at-rule" or rule.content is None:
        return ""  # an import, a namespace, or no rule at all
    prelude = tinycss2.serialize(rule.prelude).strip()
    if rule.lower_at_keyword in ("media", "supports", "layer", "container"):
        inner = _clean_sheet(tinycss2.serialize(rule.content))
        return f"@{rule.lower_at_keyword} {prelude} {{ {inner} }}" if inner and not _reaches(rule.prelude) else ""
    return "" if _reaches(rule.content) or _reaches(rule.prelude) else tinycss2.serialize([rule])


def _clean_declarations(text: str) -> str:
    kept = [
        item
        for item in tinycss2.parse_blocks_contents(text, skip_comments=True, skip_whitespace=True)
        if item.type == "declaration"
        and not _reaches(item.value)
        and item.lower_name not in ("-moz-binding", "behavior")
    ]
    return "; ".join(tinycss2.serialize([item]).rstrip("; ") for item in kept)


def _drop(parent: ElementTree.Element, child: ElementTree.Element) -> None:
    """Take it out, and leave the text behind it."""
    at = list(parent).index(child)
    if child.tail and child.tail.strip():
        if at:
            before = parent[at - 1]
            before.tail = (before.tail or "") + child.tail
        else:
            parent.text = (parent.text or "") + child.tail
    parent.remove(child)
