"""X3D as XML (ISO/IEC 19775, 19776-1) and VRML97 (ISO/IEC 14772-1): one scene, two ways to write it."""

import re
from pathlib import Path

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.meshed.xml import root_name
from hemp_ladder.core.receive.reader import PICTURES, Evidence, Reader
from hemp_ladder.core.receive.report import Report

_VRML = re.compile(rb"(?:\xef\xbb\xbf)?#(?:VRML V2\.0|X3D V[34])")
#: Pictures: a quoted name with a suffix of theirs; the rest of a large file is not looked through.
_QUOTED = re.compile(rb"""["'\s]([^"'<>\r\n]{1,300}?\.(?:png|jpe?g|webp|tga|bmp|tiff?|dds|gif))["'\s]""", re.IGNORECASE)
_LOOKED = 64 << 20


def is_x3d(evidence: Evidence) -> bool:
    return _VRML.match(evidence.head) is not None or root_name(evidence.head) == "X3D"


def _pictures(path: Path) -> list[str]:
    with path.open("rb") as file:
        text = file.read(_LOOKED)
    return [name.decode("utf-8", "replace").strip() for name in dict.fromkeys(_QUOTED.findall(text))][:1000]


def _read(path: Path, report: Report) -> Model:
    from hemp_ladder.core.receive.x3d.read import read_x3d

    return read_x3d(path, report)


READER = Reader(
    unit_in="UNIT statements; else the standard: metres",
    name="X3D", owns=is_x3d, read=_read, asked_for="X3D or VRML97", refers=_pictures, companions=PICTURES,
)  # fmt: skip
