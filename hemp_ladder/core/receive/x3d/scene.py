"""The scene of X3D or VRML97 as nodes, however it was written: fields as text, nodes below in their order."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from xml.etree.ElementTree import Element

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.errors import UnreadableSource

#: Nodes of a text that are taken, and how deep they may stand in one another.
_MOST, _DEEPEST = 2_000_000, 150


@dataclass(eq=False)
class SceneNode:
    """A node: its type, the name it was given, its fields as they are written, and the nodes in its fields with the field
    of each. One that is used again is the same object."""

    kind: str
    name: str = ""
    fields: dict[str, str] = field(default_factory=dict)
    below: list[tuple[str, "SceneNode"]] = field(default_factory=list)

    def one(self, *kinds: str) -> "SceneNode | None":
        """The first node below of one of these types."""
        return next((node for _, node in self.below if node.kind in kinds), None)

    def within(self, name: str) -> "SceneNode | None":
        """The node in a field."""
        return next((node for where, node in self.below if where == name), None)

    def numbers(self, name: str) -> NDArray[np.float64]:
        """A field's numbers; what is none becomes none."""
        words = self.fields.get(name, "").replace(",", " ").split()
        try:
            return np.array(words, dtype="U40").astype(np.float64) if words else np.zeros(0)
        except ValueError:
            return np.array([_number(word) for word in words])

    def vector(self, name: str, start: tuple[float, ...]) -> tuple[float, ...]:
        """As many numbers as there are in `start`."""
        found = self.numbers(name)
        return tuple(found.tolist()) if len(found) == len(start) and np.isfinite(found).all() else start

    def number(self, name: str, start: float) -> float:
        return self.vector(name, (start,))[0]

    def whole(self, name: str) -> NDArray[np.int64]:
        """A field's whole numbers."""
        found = self.numbers(name)
        found = np.where(np.isfinite(found) & (np.abs(found) < 1 << 40), found, -1)
        return found.astype(np.int64)

    def true(self, name: str, start: bool) -> bool:
        return {"true": True, "false": False}.get(self.fields.get(name, "").strip().lower(), start)

    def words(self, name: str) -> list[str]:
        """A field's strings."""
        text = self.fields.get(name, "").strip()
        return re.findall(r'"((?:\\.|[^"\\])*)"', text) or ([text] if text else [])


def _number(word: str) -> float:
    try:
        return float(word)
    except ValueError:
        return float("nan")


def from_xml(root: Element) -> SceneNode:
    """The scene of an X3D document."""
    scene = root.find("Scene")
    known: dict[str, SceneNode] = {}

    def node(item: Element, depth: int) -> SceneNode | None:
        if depth > _DEEPEST:
            raise UnreadableSource("The X3D file has no end of nodes.", "Ask for it again.")
        if "USE" in item.attrib:
            return known.get(item.attrib["USE"])
        found = SceneNode(item.tag, item.attrib.get("DEF", ""), dict(item.attrib))
        if found.name:
            known.setdefault(found.name, found)
        for child in item:
            # Prototypes and scripts are programs, not scene.
            if child.tag in ("ProtoDeclare", "ExternProtoDeclare", "Script", "ROUTE"):
                continue
            below = node(child, depth + 1)
            if below is not None:
                found.below.append((child.attrib.get("containerField", ""), below))
        return found

    return (node(scene, 0) if scene is not None else None) or SceneNode("Scene")


_TOKEN = re.compile(r'"(?:\\.|[^"\\])*"|[\[\]{}]|[^\s,\[\]{}"]+')
_COMMENT = re.compile(r'"(?:\\.|[^"\\])*"|#[^\n]*')
_STOPS = re.compile(r'[\]\[{"]')


class _Text:
    """Reads VRML97. A list of numbers is taken as it is written, however long."""

    def __init__(self, text: str) -> None:
        self._text = _COMMENT.sub(lambda found: found[0] if found[0][0] == '"' else "", text)
        self._at = 0
        self._known: dict[str, SceneNode] = {}
        self._count = 0

    def _peek(self) -> str:
        found = _TOKEN.search(self._text, self._at)
        return found[0] if found else ""

    def _next(self) -> str:
        found = _TOKEN.search(self._text, self._at)
        if found is None:
            self._at = len(self._text)
            return ""
        self._at = found.end()
        return found[0]

    def scene(self) -> SceneNode:
        root = SceneNode("Scene")
        while self._peek():
            for node in self._statement(0):
                root.below.append(("", node))
        return root

    def _statement(self, depth: int) -> Iterator[SceneNode]:
        word = self._next()
        if word in ("PROTO", "EXTERNPROTO"):
            self._next()
            self._skip()
            self._skip()
        elif word == "ROUTE":
            for _ in range(3):
                self._next()
        elif word == "USE":
            found = self._known.get(self._next())
            if found is not None:
                yield found
        elif word == "DEF":
            name = self._next()
            yield self._node(self._next(), name, depth)
        elif word and self._peek() == "{":
            yield self._node(word, "", depth)

    def _skip(self) -> None:
        """Over a bracket with all that is in it, or over a string."""
        if self._peek() not in ("[", "{"):
            if self._peek().startswith('"'):
                self._next()
            return
        depth = 0
        while word := self._next():
            depth += (word in "[{") - (word in "]}")
            if depth == 0:
                return

    def _node(self, kind: str, name: str, depth: int) -> SceneNode:
        self._count += 1
        if depth > _DEEPEST or self._count > _MOST:
            raise UnreadableSource("The VRML file has no end of nodes.", "Ask for it again.")
        found = SceneNode(kind, name)
        if name:
            self._known[name] = found
        if self._next() != "{":
            return found
        while (word := self._next()) not in ("}", ""):
            if word in ("ROUTE", "PROTO", "EXTERNPROTO"):
                self._at -= len(word)
                list(self._statement(depth + 1))
            elif kind == "Script" and word in ("field", "eventIn", "eventOut", "exposedField"):
                self._next()
            else:
                self._value(found, word, depth)
        return found

    def _value(self, found: SceneNode, name: str, depth: int) -> None:
        word = self._peek()
        if word == "[":
            self._next()
            stop = _STOPS.search(self._text, self._at)
            if (
                stop is not None
                and stop[0] == "]"
                and not re.search(r"[A-Za-z_]{3}", self._text[self._at : self._at + 200])
            ):
                found.fields[name] = self._text[self._at : stop.start()]
                self._at = stop.end()
                return
            told: list[str] = []
            while (word := self._peek()) not in ("]", ""):
                if word.startswith('"') or re.match(r"[-+.\d]", word):
                    told.append(self._next())
                else:
                    before = self._at
                    found.below += [(name, node) for node in self._statement(depth + 1)]
                    if self._at == before:
                        self._next()
            self._next()
            found.fields[name] = " ".join(told)
        elif word == "NULL":
            self._next()
        elif word.startswith('"') or word in ("TRUE", "FALSE") or re.match(r"[-+.\d]", word):
            told = [self._next()]
            while not told[0].startswith('"') and re.match(r"[-+.\d]", self._peek()):
                told.append(self._next())
            found.fields[name] = " ".join(told)
        elif word and word not in "]}":
            found.below += [(name, node) for node in self._statement(depth + 1)]


def from_text(text: str) -> SceneNode:
    """The scene of a VRML97 file, or of X3D in its notation. Raises UnreadableSource for one without end."""
    return _Text(text).scene()
