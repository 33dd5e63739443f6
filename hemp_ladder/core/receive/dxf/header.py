"""Telling DXF from its first bytes."""

import re

#: The sentinel of the binary form (DXF reference, "About Binary DXF Files") ends so; its first word is passed over.
_BINARY = b" Binary DXF\r\n\x1a\x00"
_TEXT = re.compile(rb"\s*(?:999\s*\r?\n[^\r\n]*\r?\n\s*)*0\s*\r?\n\s*SECTION\s*\r?\n", re.IGNORECASE)


def is_dxf(head: bytes) -> bool:
    """Whether a text file begins with its first section, or a binary one with its sentinel."""
    return _BINARY in head[:32] or _TEXT.match(head.removeprefix(b"\xef\xbb\xbf")) is not None
