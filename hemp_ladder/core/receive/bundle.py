"""Several files that belong together: which is the one to read, which are its members.

A file can name others. A ZIP is unpacked here, with nothing in it trusted;
one that is itself a format is left whole. Members keep the folders they came
in, below the bundle's own.
"""

import hashlib
import re
import zipfile
from collections import defaultdict
from dataclasses import dataclass, field
from pathlib import Path

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import Finding, clip, finding, names
from hemp_ladder.core.receive.meshed.zips import is_zip
from hemp_ladder.core.receive.reader import Reader
from hemp_ladder.core.receive.readers import READERS, reader_for

#: A bundle may grow to this when unpacked, and by this factor: more is a bomb.
MOST_BYTES = 8 << 30
MOST_GROWTH = 200
MOST_MEMBERS = 10_000
#: Of a path in a bundle, so many folders and so many bytes of each name are kept.
_DEEPEST, _LONGEST = 12, 120
#: Marks of encoding that a text may begin with, and what to decode it by.
_MARKS = [(b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")]
#: What systems leave in folders for themselves, which nobody packed on purpose.
_OF_A_SYSTEM = re.compile(r"(.*/)?(\.[^/]*|thumbs\.db|desktop\.ini)$|(.*/)?__MACOSX/", re.IGNORECASE)


@dataclass
class Bundle:
    """The file to read, what it is called in the bundle, what was noticed on the way to it, and the names of others
    that stand for themselves."""

    root: Path
    name: str
    findings: list[Finding] = field(default_factory=list)
    others: list[str] = field(default_factory=list)


def is_archive(path: Path) -> bool:
    """Whether a file is a ZIP to be unpacked, and not a format that comes as one."""
    return is_zip(path) and reader_for(path) is None


def open_bundle(files: list[tuple[str, Path]], folder: Path, root: str | None = None) -> Bundle:
    """Lay files, given as (name, path), in `folder` and find the one to read, or take the one named.

    Names keep their folders, without what leads out of the bundle. A
    reference that reaches outside is cut down to its bare name, and members
    are found by bare name, whatever folder they are in and in whichever case.
    Raises UnreadableSource when nothing in the bundle can be read.
    """
    members: dict[str, Path] = {}
    taken: set[str] = set()
    for name, path in files:
        if is_archive(path):
            members.update(_unpack(path, folder, taken))
        else:
            called = _free(name, taken)
            target = _place(folder, called)
            if target != path:
                target.unlink(missing_ok=True)
                target.symlink_to(path.resolve())
            members[called] = target
    for path in members.values():
        _plain(path)
    readable = {name: (path, reader) for name, path in members.items() if (reader := reader_for(path))}
    if not readable:
        if len(members) == 1:
            ((name, path),) = members.items()
            return Bundle(path, name)
        *others, last = [reader.name for reader in READERS]
        raise UnreadableSource(
            f"None of the {len(members)} files in the bundle can be read here.",
            f"Put a file of {', '.join(others)} or {last} into it.",
        )
    bundle, used = _pick_root(readable, members, root)
    beside_it = tuple(suffix for _, reader in readable.values() for suffix in reader.companions)
    passed = [
        name for name in members
        if name not in readable and name not in used and not _OF_A_SYSTEM.match(name)
        and not name.lower().endswith(beside_it)
    ]  # fmt: skip
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
    plain = path.with_name(f"{path.name}.plain")
    try:
        # A little at a time: a text of gigabytes is not to be held.
        with path.open(encoding=codec, newline="") as marked, plain.open("w", encoding="utf-8", newline="") as out:
            while piece := marked.read(1 << 20):
                out.write(piece)
    except UnicodeError:
        plain.unlink()
        return
    plain.replace(path)


def _pick_root(
    members: dict[str, tuple[Path, Reader]], everything: dict[str, Path], wanted: str | None
) -> tuple[Bundle, set[str]]:
    """The bundle, and the names of those of all members that others refer to."""
    findings: list[Finding] = []
    called: dict[str, list[str]] = defaultdict(list)
    for name in everything:
        called[_bare(name).casefold()].append(name)
    refers = {name: list(reader.refers(path)) for name, (path, reader) in members.items()}
    named: set[str] = set()
    for name, (path, reader) in members.items():
        for reference in refers[name]:
            bare = _bare(reference)
            if bare != reference and reader.cut_down is not None:
                reader.cut_down(path, reference, bare)
                findings.append(finding("outside-reference", name, f"It refers to “{clip(reference, 80)}”."))
            found = _nearest(called.get(bare.casefold(), ()), name)
            if found is None:
                # A reader that goes on without it says so itself.
                if reader.cut_down is not None:
                    message = f"The file “{clip(bare, 80)}” is missing from the bundle."
                    findings.append(finding("missing-member", name, message))
                continue
            beside = path.parent / bare
            if beside != everything[found] and not beside.exists():
                beside.symlink_to(everything[found].resolve())
            if found != name:
                named.add(found)
    roots = [name for name in members if name not in named] or list(members)
    roots.sort(key=lambda name: (-len(refers[name]), -members[name][0].stat().st_size, name))
    if wanted is not None:
        # Names of sources from before bundles kept their folders are bare ones.
        alike = [name for name in called.get(_bare(wanted).casefold(), ()) if name in members]
        name = wanted if wanted in members else _nearest(alike, "") or roots[0]
        return Bundle(members[name][0], name, findings), named
    return Bundle(members[roots[0]][0], roots[0], findings, roots[1:]), named


def _nearest(names: "list[str] | tuple[()]", seen_from: str) -> str | None:
    """Of members of one bare name the one in the same folder, else the first."""
    folder = seen_from.rpartition("/")[0]
    return next((name for name in names if name.rpartition("/")[0] == folder), names[0] if names else None)


def _bare(name: str) -> str:
    """The last piece of a path of any system, never empty and never a dot."""
    piece = re.split(r"[/\\:]", name)[-1].strip().replace("\0", "")
    return piece if piece.strip(".") else "file"


def _free(name: str, taken: set[str]) -> str:
    """A path below the bundle that is not among those taken, in whichever case they are; it is taken then."""
    pieces = [_short(piece) for piece in re.split(r"[/\\:]", name.replace("\0", "")) if piece.strip(". ")] or ["file"]
    *above, bare = pieces[-_DEEPEST:]
    free, number = "/".join([*above, bare]), 2
    while free.casefold() in taken:
        free = "/".join([*above, f"{number}-{bare}"])
        number += 1
    taken.add(free.casefold())
    return free


def _short(piece: str) -> str:
    """A name that every file system takes: overlong ones keep head and tail around a hash of the whole."""
    piece = piece.strip()
    data = piece.encode("utf-8", "replace")
    if len(data) <= _LONGEST:
        return piece
    digest = hashlib.sha256(data).hexdigest()[:8]
    head, tail = data[: _LONGEST - 30].decode("utf-8", "ignore"), data[-20:].decode("utf-8", "ignore")
    return f"{head}~{digest}{tail}"


def _place(folder: Path, name: str) -> Path:
    """Where a member lies, its folders made. A folder that is a file already is called otherwise."""
    at = folder
    for piece in name.split("/")[:-1]:
        at = at / piece
        while at.is_symlink() or at.is_file():
            at = at.with_name(f"{at.name}-")
        at.mkdir(exist_ok=True)
    return at / name.rpartition("/")[2]


def _unpack(path: Path, folder: Path, taken: set[str]) -> dict[str, Path]:
    """Unpack files below the folder, by names that are not taken. Links, bombs and names that lead out do no harm."""
    found: dict[str, Path] = {}
    member = ""
    allowed = min(MOST_BYTES, max(path.stat().st_size, 1 << 20) * MOST_GROWTH)
    try:
        with zipfile.ZipFile(path) as archive:
            entries = [entry for entry in archive.infolist() if not entry.is_dir()]
            if len(entries) > MOST_MEMBERS:
                raise UnreadableSource(f"The ZIP holds {len(entries):,} files; at most {MOST_MEMBERS:,} are taken.")
            for entry in entries:
                member = entry.filename
                called = _free(member, taken)
                target = _place(folder, called)
                with archive.open(entry) as source, target.open("wb") as out:
                    allowed -= _copy(source, out, allowed)
                found[called] = target
    except UnreadableSource:
        raise
    except Exception as error:  # whatever the archive's own code and its decoders raise on what strangers send
        if isinstance(error, RuntimeError) and "password" in str(error):
            raise UnreadableSource("The ZIP is locked with a password.", "Ask for it without one.") from error
        what = f"“{clip(member, 80)}” in the ZIP" if member else "The ZIP"
        message = f"{what} cannot be unpacked: it is damaged."
        raise UnreadableSource(message, "Ask for it again.") from error
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
    if is_archive(path) or reader_for(path) is None:
        return []
    siblings = {item.name.casefold(): item for item in path.parent.iterdir() if item.is_file()}
    found: dict[str, Path] = {}
    asked = [path]
    while asked:
        now = asked.pop()
        reader = reader_for(now)
        for reference in reader.refers(now) if reader else ():
            item = siblings.get(_bare(reference).casefold())
            if item is not None and item != path and item.name not in found:
                found[item.name] = item
                asked.append(item)
    return list(found.values())
