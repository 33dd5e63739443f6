"""Names from strangers made fit for files, and unique within one file."""

import hashlib
import re
import unicodedata

_LONGEST = 60
_RESERVED = {"con", "prn", "aux", "nul", *(f"com{i}" for i in range(1, 10)), *(f"lpt{i}" for i in range(1, 10))}


def label(name: str, taken: set[str], fallback: str = "part") -> str:
    """A printable name for inside a file, on one line, that no other has; added to `taken`."""
    line = " ".join("".join(c if _plain(c) else " " for c in name).split())[:200] or fallback
    found, number = line, 1
    while found in taken:
        number += 1
        found = f"{line} {number}"
    taken.add(found)
    return found


class Fitting:
    """Names made fit for a target that does not take every one: letters that it has, no more of them than it takes, and none
    twice. Accents fall off their letters; what has no plain letter at all becomes the fallback."""

    def __init__(self, longest: int | None, plain: bool) -> None:
        self._longest, self._only_plain = longest or 200, plain
        self._numbers: dict[str, int] = {}
        self._taken: set[str] = set()

    def __call__(self, name: str, fallback: str = "part") -> str:
        """The name as it will be called, which no other is."""
        line = self.alone(name, fallback)
        found, number = line, self._numbers.get(line, 1)
        while found in self._taken:
            number += 1
            behind = f"{'_' if self._only_plain else ' '}{number}"
            found = f"{line[: self._longest - len(behind)]}{behind}"
        self._numbers[line] = number
        self._taken.add(found)
        return found

    def alone(self, name: str, fallback: str = "part") -> str:
        """The name as it would be called if it had no namesakes."""
        line = " ".join("".join(c if _plain(c) else " " for c in name).split())
        if self._only_plain:
            folded = unicodedata.normalize("NFKD", line).encode("ascii", "ignore").decode()
            line = re.sub(r"[^A-Za-z0-9_-]+", "_", folded).strip("_")
        return line[: self._longest].rstrip() or fallback


def file_stem(name: str, taken: set[str]) -> str:
    """A file name without suffix that every system takes: letters, digits, dash, underscore.

    No separators, no leading dot, no reserved words, at most 60 characters.
    """
    folded = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode()
    stem = re.sub(r"[^A-Za-z0-9_-]+", "-", folded).strip("-_")
    if len(stem) > _LONGEST:
        stem = f"{stem[: _LONGEST - 9]}-{hashlib.sha256(name.encode('utf-8', 'replace')).hexdigest()[:8]}"
    if not stem or stem.lower() in _RESERVED:
        stem = f"part-{stem}".rstrip("-")
    found, number = stem, 1
    while found.lower() in taken:
        number += 1
        found = f"{stem}-{number}"
    taken.add(found.lower())
    return found


def _plain(character: str) -> bool:
    """Printable and not a control of text direction, which can make a name lie about its end."""
    return character.isprintable() and unicodedata.category(character) not in {"Cf", "Cs", "Co", "Cn"}
