"""Which properties an element ends up with: attributes, style sheets and inline style, in CSS's order.

Selectors by cssselect2, colours and declarations by tinycss2.
"""

from collections.abc import Callable, Iterator, Mapping
from functools import lru_cache
from typing import Any
from xml.etree import ElementTree

import cssselect2
import tinycss2
import tinycss2.color4

from hemp_ladder.core.model.model import Colour
from hemp_ladder.core.receive.svg.document import Document, local

#: Properties that go down to what is inside (SVG 2, appendix "Property index"), with what they begin as.
INHERITED: dict[str, str] = {
    "fill": "black", "fill-rule": "nonzero", "fill-opacity": "1", "stroke": "none", "stroke-opacity": "1",
    "stroke-width": "1", "stroke-linecap": "butt", "stroke-linejoin": "miter", "stroke-miterlimit": "4",
    "stroke-dasharray": "none", "stroke-dashoffset": "0", "visibility": "visible", "color": "black",
    "clip-rule": "nonzero", "marker-start": "none", "marker-mid": "none", "marker-end": "none",
}  # fmt: skip
MARKERS = ("marker-start", "marker-mid", "marker-end")
#: And those that do not.
_OWN = {"display", "opacity", "clip-path", "vector-effect", "mask", "filter", "transform", "transform-origin", "overflow",
        "stop-color"}  # fmt: skip
_KNOWN = {*INHERITED, *_OWN}
Style = Mapping[str, str]


class Styles:
    """The declared properties of every element of a document."""

    def __init__(self, document: Document) -> None:
        self._matched: dict[ElementTree.Element, list[tuple[Any, str, str]]] = {}
        self.outside: list[str] = []
        sheets = [e for e in document.root.iter() if local(e) == "style"]
        matcher = cssselect2.Matcher()
        some = False
        for sheet in sheets:
            for rule in self._rules("".join(sheet.itertext())):
                some = self._add(matcher, rule) or some
        if some:
            for wrapped in cssselect2.ElementWrapper.from_xml_root(document.root).iter_subtree():
                found = matcher.match(wrapped)
                if found:
                    self._matched[wrapped.etree_element] = [
                        (specificity, name, value) for specificity, _, _, declared in found for name, value in declared
                    ]

    def _rules(self, text: str) -> Iterator[Any]:
        waiting = [tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True)]
        while waiting:
            for rule in waiting.pop():
                if rule.type == "qualified-rule":
                    yield rule
                elif rule.type == "at-rule" and rule.lower_at_keyword == "import":
                    self.outside.append(tinycss2.serialize(rule.prelude).strip()[:80])
                elif rule.type == "at-rule" and rule.lower_at_keyword == "media" and _on_screen(rule):
                    waiting.append(tinycss2.parse_rule_list(rule.content, True, True))

    @staticmethod
    def _add(matcher: Any, rule: Any) -> bool:
        try:
            selectors = cssselect2.compile_selector_list(rule.prelude)
        except cssselect2.SelectorError:
            return False
        plain: list[tuple[str, str]] = []
        important: list[tuple[str, str]] = []
        for name, value, urgent in _declarations(tinycss2.parse_declaration_list(rule.content, True, True)):
            (important if urgent else plain).append((name, value))
        for selector in selectors:
            matcher.add_selector(selector, plain)
            if important:
                matcher.add_selector(selector, [(f"!{name}", value) for name, value in important])
        return True

    def declared(self, element: ElementTree.Element) -> dict[str, str]:
        """What attributes, sheets and its own style say; the later has the say."""
        found = {name: value.strip() for name, value in element.items() if name in _KNOWN}
        urgent: dict[str, str] = {}
        for _, name, value in self._matched.get(element, ()):
            if name[0] == "!":
                urgent[name[1:]] = value
            else:
                found[name] = value
        inline = element.get("style")
        if inline:
            parsed = tinycss2.parse_declaration_list(inline, skip_comments=True, skip_whitespace=True)
            for name, value, important in _declarations(parsed):
                (urgent if important else found)[name] = value
        return found | urgent


def _on_screen(rule: Any) -> bool:
    return bool(rule.content) and tinycss2.serialize(rule.prelude).strip().lower() in ("", "all", "screen")


def _declarations(parsed: list[Any]) -> Iterator[tuple[str, str, bool]]:
    for item in parsed:
        if item.type != "declaration":
            continue
        # A shorthand that has no attribute of its name.
        for name in MARKERS if item.lower_name == "marker" else (item.lower_name,):
            if name in _KNOWN:
                yield name, tinycss2.serialize(item.value).strip(), item.important


def cascade(above: Style, declared: Mapping[str, str]) -> dict[str, str]:
    """The inherited properties below an element with these declared ones."""
    own = dict(above)
    for name, value in declared.items():
        if name in INHERITED and value != "inherit":
            own[name] = INHERITED[name] if value in ("initial", "unset") and value == "initial" else value
    return own


def number(style: Style, name: str, otherwise: float) -> float:
    """A plain number or a percentage."""
    text = style.get(name, "")
    try:
        return float(text[:-1]) / 100 if text.endswith("%") else float(text)
    except ValueError:
        return otherwise


def paint(
    style: Style, name: str, gradient: Callable[[str], Colour | None], opacity: float
) -> Colour | None:  # fmt: skip
    """The colour of `fill` or `stroke`; None for none. Of a gradient or pattern what `gradient` makes of its id."""
    text = style[name]
    if text.startswith("url("):
        _, _, fallback = text.partition(")")
        found = gradient(reference(text))
        if found is not None:
            return _faded(found, number(style, f"{name}-opacity", 1.0) * opacity)
        text = fallback.strip() or "none"
    if text == "none":
        return None
    colour = css_colour(text, style.get("color", "black"))
    return None if colour is None else _faded(colour, number(style, f"{name}-opacity", 1.0) * opacity)


@lru_cache(maxsize=4096)
def css_colour(text: str, current: str = "black") -> Colour | None:
    """Any colour of CSS in sRGB; black for what is none, as an unknown `fill` keeps its beginning."""
    if text.lower() in ("currentcolor", "context-fill", "context-stroke"):
        text = current if current.lower() != "currentcolor" else "black"
    try:
        parsed: Any = tinycss2.color4.parse_color(text)
        if parsed is None or parsed == "currentcolor":
            return Colour(0.0, 0.0, 0.0)
        red, green, blue, alpha = parsed.to("srgb")
        values = [min(max(float(v or 0.0), 0.0), 1.0) for v in (red, green, blue, alpha)]
    except (ValueError, NotImplementedError, AttributeError, TypeError):
        return Colour(0.0, 0.0, 0.0)
    return Colour(*values)


def _faded(colour: Colour, by: float) -> Colour:
    return Colour(colour.red, colour.green, colour.blue, round(min(max(colour.alpha * by, 0.0), 1.0), 4))


def in_context(style: Style, context: Style | None) -> Style:
    """The style with `context-fill` and `context-stroke` told, where it speaks of them."""
    asked = {name: style[name] for name in ("fill", "stroke") if style[name].startswith("context-")}
    if not asked or context is None:
        return style
    return {**style, **{name: context[word.removeprefix("context-").split()[0]] for name, word in asked.items()
                        if word.split()[0] in ("context-fill", "context-stroke")}}  # fmt: skip


def reference(text: str) -> str:
    """The id in a `url(#id)`; nothing where it is none."""
    return text.partition("(")[2].partition(")")[0].strip(" '\"").removeprefix("#")
