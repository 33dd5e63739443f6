"""Telling SVG from its first bytes."""

import re

_ROOT = re.compile(rb"<(?:[A-Za-z_][\w.-]*:)?svg[\s>/]")
_BEFORE = re.compile(
    rb"\s*(<\?.*?\?>|<!--.*?-->|<!DOCTYPE[^\[>]*(?:\[.*?\]\s*)?>|\s+)*", re.DOTALL
)  # fmt: skip


def is_svg(head: bytes) -> bool:
    """Whether the first element is `svg`, whatever declarations and comments stand before it."""
    text = head.removeprefix(b"\xef\xbb\xbf")
    if text[:2] in (b"\xff\xfe", b"\xfe\xff"):
        text = text.decode("utf-16", "ignore").encode()
    if text.lstrip()[:1] != b"<":
        return False
    if _ROOT.match(text, _BEFORE.match(text).end()):  # type: ignore[union-attr]
        return True
    # A long comment or a doctype with entities may push the root out of a simple pattern's reach.
    first = _ROOT.search(text)
    return first is not None and b"<html" not in text[: first.start()].lower()
