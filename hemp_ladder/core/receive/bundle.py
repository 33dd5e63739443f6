"""Several files that belong together: which is the assembly, which are its members.

A STEP assembly can name other files (ISO 10303-21 files tied by
DOCUMENT_FILE). A ZIP is unpacked here, with nothing in it trusted.
"""

import re
import zipfile
from dataclasses import dataclass, field
from pathlib import Path

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import Finding, clip, finding, names
from hemp_ladder.core.receive import kind_of
from hemp_ladder.core.receive.step.header import escape, unescape

#: A bundle may grow to this when unpacked, and by this factor: more is a bomb.
MOST_BYTES = 8 << 30
MOST_GROWTH = 200
MOST_MEMBERS = 10_000
#: Marks of encoding that a text may begin with, and what to decode it by.
_MARKS = [(b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")]
#: What systems leave in folders for themselves, which nobody packed on purpose.
_OF_A_SYSTEM = re.compile(r"\.|__MACOSX-|thumbs\.db$|desktop\.ini$", re.IGNORECASE)
_DOCUMENT = re.compile(rb"DOCUMENT_FILE\s*\(\s*'((?:[^']|'')*)'", re.IGNORECASE)


@dataclass
class Bundle:
    """The file to read, what was noticed on the way to it, and the names of others that stand for themselves."""

    root: Path
    findings: list[Finding] = field(default_factory=list)
    others: list[str] = field(default_factory=list)


def is_zip(path: Path) -> bool:
    """Whether a file begins as a ZIP does, or as one does that holds nothing."""
    with path.open("rb") as file:
        return file.read(4) in (b"PK\x03\x04", b"PK\x05\x06")


def open_bundle(files: list[tuple[str, Path]], folder: Path, root: str | None = None) -> Bundle:
    """Lay files, given as (name, path), side by side in `folder` and find the one to read, or take the one named.

    Members are matched by bare name, whatever folder they came in; of two
    with one bare name the later gets its folder's name before its own. A
    reference that reaches outside the bundle is cut down to its bare name.
    Raises UnreadableSource when nothing in the bundle can be read.
    """
    members: dict[str, Path] = {}
    taken: set[str] = set()
    for name, path in files:
        if is_zip(path):
            members.update(_unpack(path, folder, taken))
        else:
            target = folder / _free(name, taken)
            if target != path:
                target.unlink(missing_ok=True)
                target.symlink_to(path.resolve())
            members[target.name] = target
    for path in members.values():
        _plain(path)
    readable = {name: path for name, path in members.items() if kind_of(path)}
    if not readable:
        if len(members) == 1:
            return Bundle(next(iter(members.values())))
        raise UnreadableSource(
            f"None of the {len(members)} files in the bundle can be read here.",
            "Put a STEP, IFC, IGES, BREP, DXF or SVG file into it.",
        )
    bundle = _pick_root(readable, root)
    passed = [name for name in members if name not in readable and not _OF_A_SYSTEM.match(name)]
    if passed and root is None:
        many = "1 file is" if len(passed) == 1 else f"{len(passed):,} files are"
        message = f"{many} of no kind that is read here: {names(passed)}."
        bundle.findings.append(finding("passed-over", names(passed), message))
    return bundle


def _plain(path: Path) -> None:
    """Put a copy without marks of encoding in the place of a text that begins with one: no reader knows them."""
    with path.open("rb") as file:
        head = file.read(4)
    codec = next((codec for mark, codec in _MARKS if head.startswith(mark)), None)
    if codec is None:
        return
    try:
        text = path.read_bytes().decode(codec)
    except UnicodeDecodeError:
        return
    path.unlink()
    path.write_text(text, "utf-8", newline="")


def _pick_root(members: dict[str, Path], wanted: str | None) -> Bundle:
    findings: list[Finding] = []
    by_fold = {name.casefold(): name for name in members}
    named: set[str] = set()
    for name, path in members.items():
        for reference in _references(path) if is_step_file(path) else ():
            bare = _bare(reference)
            if bare != reference:
                _cut_down(path, reference, bare)
                findings.append(finding("outside-reference", name, f"It refers to “{clip(reference, 80)}”."))
            found = by_fold.get(bare.casefold())
            if found is None:
                findings.append(
                    finding("missing-member", name, f"The file “{clip(bare, 80)}” is missing from the bundle.")
                )
            else:
                if found != bare:
                    (path.parent / bare).symlink_to(members[found].resolve())
                if found != name:
                    named.add(found)
    roots = [name for name in members if name not in named] or list(members)
    roots.sort(
        key=lambda name: (
            -len(_references(members[name]) if is_step_file(members[name]) else ()),
            -members[name].stat().st_size,
            name,
        )
    )
    if wanted is not None:
        return Bundle(members[wanted] if wanted in members else members[roots[0]], findings)
    return Bundle(members[roots[0]], findings, roots[1:])


def _references(path: Path) -> list[str]:
    """The files that a STEP file names, as it names them."""
    found: dict[str, None] = {}
    tail = b""
    with path.open("rb") as file:
        while chunk := file.read(1 << 22):
            block = tail + chunk
            for match in _DOCUMENT.findall(block):
                name = unescape(match.decode("latin-1")).strip()
                if re.search(r"\.(stp|step|p21)$", name, re.IGNORECASE):
                    found.setdefault(name)
            tail = block[-1024:]
    return list(found)


def _cut_down(path: Path, reference: str, bare: str) -> None:
    """Rewrite a reference to its bare name in a copy: the reader follows what it finds."""
    data = path.read_bytes()
    short = escape(bare).encode("ascii")
    # Other entities than the one that names it may say it as well.
    for raw in set(_DOCUMENT.findall(data)):
        if unescape(raw.decode("latin-1")).strip() == reference:
            data = data.replace(b"'%b'" % raw, b"'%b'" % short)
    path.unlink()
    path.write_bytes(data)


def is_step_file(path: Path) -> bool:
    return kind_of(path) == "STEP"


def _bare(name: str) -> str:
    """The last piece of a path of any system, never empty and never a dot."""
    piece = re.split(r"[/\\:]", name)[-1].strip().replace("\0", "")
    return piece if piece.strip(".") else "file"


def _free(name: str, taken: set[str]) -> str:
    """A bare name that is not among those taken, in whichever case they are; it is taken then."""
    pieces = [piece for piece in re.split(r"[/\\:]", name) if piece.strip(". ")]
    free = _bare(name)
    for above in reversed(pieces[:-1]):
        if free.casefold() not in taken:
            break
        free = f"{_bare(above)}-{free}"
    number, first = 2, free
    while free.casefold() in taken:
        free = f"{number}-{first}"
        number += 1
    taken.add(free.casefold())
    return free


def _unpack(path: Path, folder: Path, taken: set[str]) -> dict[str, Path]:
    """Unpack files flat, by bare names that are not taken. Names with folders, links and bombs do no harm."""
    found: dict[str, Path] = {}
    allowed = min(MOST_BYTES, max(path.stat().st_size, 1 << 20) * MOST_GROWTH)
    try:
        with zipfile.ZipFile(path) as archive:
            entries = [entry for entry in archive.infolist() if not entry.is_dir()]
            if len(entries) > MOST_MEMBERS:
                raise UnreadableSource(f"The ZIP holds {len(entries):,} files; at most {MOST_MEMBERS:,} are taken.")
            for entry in entries:
                bare = _free(entry.filename, taken)
                target = folder / bare
                with archive.open(entry) as source, target.open("wb") as out:
                    allowed -= _copy(source, out, allowed)
                found[bare] = target
    except (zipfile.BadZipFile, EOFError, RuntimeError, NotImplementedError, OSError) as error:
        raise UnreadableSource(
            "The ZIP cannot be unpacked: it is damaged or locked with a password.", "Ask for it again."
        ) from error
    if not found:
        raise UnreadableSource("The ZIP is empty.", "Ask for it again.")
    return found


def _copy(source, out, allowed: int) -> int:  # type: ignore[no-untyped-def]
    copied = 0
    while chunk := source.read(1 << 20):
        copied += len(chunk)
        if copied > allowed:
            raise UnreadableSource(
                "The ZIP grows far beyond its own size when it is unpacked.", "Send the files without packing."
            )
        out.write(chunk)
    return copied


def beside(path: Path) -> list[Path]:
    """The files next to `path` that it refers to by name, and those that they refer to in turn."""
    if is_zip(path) or not is_step_file(path):
        return []
    siblings = {item.name.casefold(): item for item in path.parent.iterdir() if item.is_file()}
    found: dict[str, Path] = {}
    asked = [path]
    while asked:
        for reference in _references(asked.pop()):
            item = siblings.get(_bare(reference).casefold())
            if item is not None and item != path and item.name not in found:
                found[item.name] = item
                asked.append(item)
    return list(found.values())
