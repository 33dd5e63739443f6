"""`Reader`: what a format in says of itself. Bundles, findings, command line and HTTP ask it; nobody goes by its name."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.report import Report

#: What the folder is called where files that came together are laid.
ROOM = "bundle"
#: Of a file's beginning, enough to hold the longest header.
HEAD = 1 << 16


@dataclass(frozen=True)
class Evidence:
    """By what a file is told: how it begins, and as further evidence how large it is and what it is called."""

    head: bytes
    size: int
    name: str

    @staticmethod
    def of(path: Path) -> "Evidence":
        with path.open("rb") as file:
            return Evidence(file.read(HEAD), path.stat().st_size, path.name)


def _none(path: Path) -> Sequence[str]:
    return ()


@dataclass(frozen=True)
class Reader:
    """A format in.

    name       what the model's `format` says
    owns       whether a file is of this format
    read       reads it; imports whatever it needs only then, for a reader may bring a kernel along
    asked_for  as what to ask for an export in it
    refers     other files that a file names, as it names them
    cut_down   rewrites such a reference, to the bare name that is given, in a copy
    names      parts have names in it; where they hardly ever have, their lack is no fault
    units      units that are likely where a file names none
    companions suffixes of files that lie beside it and are no models themselves
    clean      the file without what is foreign to the format, as bytes
    unit_in    where such a file declares its unit; nothing where it never does
    """

    name: str
    owns: Callable[[Evidence], bool]
    read: Callable[[Path, Report], Model]
    asked_for: str
    refers: Callable[[Path], Sequence[str]] = _none
    cut_down: Callable[[Path, str, str], None] | None = None
    names: bool = True
    units: tuple[str, ...] = ("mm", "cm", "m", "in", "ft")
    companions: tuple[str, ...] = ()
    clean: Callable[[Path], bytes] | None = None
    unit_in: str = ""


#: Of pictures that surfaces wear.
PICTURES = (".png", ".jpg", ".jpeg", ".webp", ".tga", ".bmp", ".tif", ".tiff", ".dds", ".gif")
