"""Telling the kernel's own files by their first bytes."""

import re

_TEXT = re.compile(rb"^\s*(DBRep_DrawableShape\s+)?CASCADE Topology V\d", re.IGNORECASE)
_BINARY = re.compile(rb"^\s*Open CASCADE Topology V\d", re.IGNORECASE)


def is_brep(head: bytes) -> bool:
    """The kernel's exact shape, as text or binary."""
    return is_text(head) or is_binary(head)


def is_text(head: bytes) -> bool:
    return _TEXT.match(head) is not None


def is_binary(head: bytes) -> bool:
    return _BINARY.match(head) is not None
