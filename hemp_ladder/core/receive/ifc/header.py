"""Telling a building by its first bytes."""

import re

from hemp_ladder.core.receive.step.header import is_step

_SCHEMA = re.compile(rb"FILE_SCHEMA\s*\(\s*\(\s*'\s*IFC", re.IGNORECASE)


def is_ifc(head: bytes) -> bool:
    """An exchange file (ISO 10303-21) whose schema is one of IFC (ISO 16739-1)."""
    return is_step(head) and _SCHEMA.search(head) is not None
