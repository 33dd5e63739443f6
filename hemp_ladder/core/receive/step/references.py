"""Files that a STEP file names: ISO 10303-21 files of one assembly are tied by DOCUMENT_FILE."""

import re
from pathlib import Path

from hemp_ladder.core.receive.step.header import escape, unescape

_DOCUMENT = re.compile(rb"DOCUMENT_FILE\s*\(\s*'((?:[^']|'')*)'", re.IGNORECASE)


def references(path: Path) -> list[str]:
    """The STEP files that this one names, as it names them."""
    found: dict[str, None] = {}
    tail = b""
    with path.open("rb") as file:
        while chunk := file.read(1 << 22):
            block = tail + chunk
            # Seldom there; to look for it in any case takes a tenth of the time once all is in capitals.
            for match in _DOCUMENT.findall(block) if b"DOCUMENT_FILE" in block.upper() else ():
                name = unescape(match.decode("latin-1")).strip()
                if re.search(r"\.(stp|step|p21)$", name, re.IGNORECASE):
                    found.setdefault(name)
            tail = block[-1024:]
    return list(found)


def cut_down(path: Path, reference: str, bare: str) -> None:
    """Rewrite a reference to its bare name in a copy: the kernel follows what it finds."""
    data = path.read_bytes()
    short = escape(bare).encode("ascii")
    # Other entities than the one that names it may say it as well.
    for raw in set(_DOCUMENT.findall(data)):
        if unescape(raw.decode("latin-1")).strip() == reference:
            data = data.replace(b"'%b'" % raw, b"'%b'" % short)
    path.unlink()
    path.write_bytes(data)
