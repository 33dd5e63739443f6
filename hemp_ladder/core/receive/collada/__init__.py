"""COLLADA 1.4 and 1.5 (ISO/PAS 17506)."""

import re
from pathlib import Path
from urllib.parse import unquote

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.meshed.xml import root_name
from hemp_ladder.core.receive.reader import PICTURES, Evidence, Reader
from hemp_ladder.core.receive.report import Report

_IMAGE = re.compile(rb"<(?:init_from|ref)>\s*([^<]+?)\s*</(?:init_from|ref)>")
#: Pictures are named at the beginning; the rest of a large file is not looked through.
_LOOKED = 64 << 20


def is_collada(evidence: Evidence) -> bool:
    return root_name(evidence.head) == "COLLADA"


def _pictures(path: Path) -> list[str]:
    with path.open("rb") as file:
        text = file.read(_LOOKED)
    names = [unquote(name.decode("utf-8", "replace")) for name in _IMAGE.findall(text)]
    return [name for name in dict.fromkeys(names) if name.lower().endswith(PICTURES)][:1000]


def _read(path: Path, report: Report) -> Model:
    from hemp_ladder.core.receive.collada.read import read_collada

    return read_collada(path, report)


READER = Reader(
    unit_in="<unit> in <asset>",
    name="COLLADA", owns=is_collada, read=_read, asked_for="COLLADA", refers=_pictures, companions=PICTURES,
)  # fmt: skip
