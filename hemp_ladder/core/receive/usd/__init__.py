"""USD: text, binary and packages (OpenUSD; AOUSD core specification)."""

import re
from pathlib import Path

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.reader import PICTURES, Evidence, Reader
from hemp_ladder.core.receive.report import Report

#: The first entry of a package is a layer, stored as it is (USDZ specification).
_PACKED = re.compile(rb"PK\x03\x04.{4}\0\0.{16}(.{2})(.{2})", re.DOTALL)
_ASSETS = re.compile(rb"@([^@\r\n\0]{1,300})@")
_LAYERS = (".usd", ".usda", ".usdc")
#: Files are named at the beginning of a text; the rest of a large one is not looked through.
_LOOKED = 64 << 20


def is_usd(evidence: Evidence) -> bool:
    head = evidence.head
    if head.startswith((b"PXR-USDC", b"#usda ")):
        return True
    packed = _PACKED.match(head)
    if packed is None:
        return False
    length = int.from_bytes(packed[1], "little")
    name = head[30 : 30 + length].lower()
    # A layer in a ZIP that somebody packed is a bundle; a package begins its data at a multiple of 64 bytes.
    start = 30 + length + int.from_bytes(packed[2], "little")
    return name.endswith(tuple(word.encode() for word in _LAYERS)) and (
        start % 64 == 0 or evidence.name.lower().endswith(".usdz")
    )


def _assets(path: Path) -> list[str]:
    """Files that a text names; a binary layer does not tell so easily."""
    with path.open("rb") as file:
        text = file.read(_LOOKED)
    if not text.startswith(b"#usda "):
        return []
    return [name.decode("utf-8", "replace") for name in dict.fromkeys(_ASSETS.findall(text))][:1000]


def _read(path: Path, report: Report) -> Model:
    from hemp_ladder.core.receive.usd.read import read_usd

    return read_usd(path, report)


READER = Reader(
    unit_in="metersPerUnit of the stage",
    name="USD", owns=is_usd, read=_read, asked_for="USD", refers=_assets, companions=PICTURES,
    units=("m", "cm", "mm", "in", "ft"),
)  # fmt: skip
