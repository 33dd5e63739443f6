"""An SVG without what is foreign to it: no scripts, no editors' notes, nothing that reaches outside."""

from pathlib import Path
from xml.etree import ElementTree

from hemp_ladder.core.receive.svg.document import SVG, XLINK, XML, local, open_svg

_GONE = {"script", "metadata", "foreignObject"}
_REACHING = ("url(http", "url('http", 'url("http', "url(//", "url(file")


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
            if local(child) is None or local(child) in _GONE:
                _drop(element, child)
            else:
                waiting.append(child)
        for name in list(element.keys()):
            if _unwanted(name, element.get(name) or "", local(element)):
                del element.attrib[name]
        for child in [item for item in element if local(item) == "image" and not _shows(item)]:
            _drop(element, child)
        if local(element) == "style" and element.text and "@import" in element.text:
            element.text = "\n".join(line for line in element.text.splitlines() if "@import" not in line)
    ElementTree.register_namespace("", SVG)
    ElementTree.register_namespace("xlink", XLINK)
    text: bytes = ElementTree.tostring(root, encoding="utf-8", xml_declaration=True)
    return text


def _shows(image: ElementTree.Element) -> bool:
    """Whether a bitmap is in the file itself."""
    return any(value.strip().startswith("data:image/") for name, value in image.items() if name.endswith("href"))


def _unwanted(name: str, value: str, kind: str | None) -> bool:
    space = name[1:].partition("}")[0] if name[:1] == "{" else ""
    if space not in ("", SVG, XLINK, XML) or name.startswith("on"):
        return True
    text = value.strip().lower()
    if name in ("href", f"{{{XLINK}}}href"):
        return (kind != "a" and not text.startswith(("#", "data:image/"))) or text.startswith("javascript:")
    return any(word in text for word in _REACHING)


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
