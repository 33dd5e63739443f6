"""What a STEP file says of itself, read as text before any kernel touches it.

ISO 10303-21: a file opens with `ISO-10303-21;`, a HEADER section with
FILE_DESCRIPTION, FILE_NAME and FILE_SCHEMA, then DATA.
"""

import re
from dataclasses import dataclass
from pathlib import Path

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import Finding, finding

_STRING = r"'((?:[^']|'')*)'"
_WORDS = re.compile(_STRING)


@dataclass(frozen=True)
class Header:
    """Schema and writing system as the header gives them."""

    schema: str
    writer: str


def is_step(head: bytes) -> bool:
    """Whether a file that starts like this is a STEP exchange file."""
    return head.lstrip(b"\xef\xbb\xbf \t\r\n")[:13].upper() == b"ISO-10303-21;"


def has_end(path: Path) -> bool:
    """Whether an exchange file has its closing line."""
    with path.open("rb") as file:
        file.seek(max(0, path.stat().st_size - 4096))
        return b"END-ISO-10303-21" in file.read().upper()


def cut_short(path: Path, where: str) -> list[Finding]:
    """A finding for an exchange file that stops before its closing line."""
    if has_end(path):
        return []
    message = "The file stops before its end: the closing line END-ISO-10303-21 is missing. What came before was read."
    return [finding("cut-short", where, message)]


def read_header(path: Path) -> Header:
    """Schema and writing system. Raises UnreadableSource when this is no whole STEP file."""
    with path.open("rb") as file:
        head = file.read(1 << 16)
    if not head.strip():
        raise UnreadableSource("The file is empty.", "Ask for the file again.")
    if not is_step(head):
        raise UnreadableSource(
            "This is not a STEP file: it does not begin with ISO-10303-21.",
            "Ask for an export as STEP AP214 or AP242.",
        )
    if not has_end(path):
        raise UnreadableSource(
            "The file stops before its end: the closing line END-ISO-10303-21 is missing.",
            "It was cut on its way. Ask for it again.",
        )
    text = head.decode("latin-1")
    return Header(schema=_schema(text), writer=_writer(text))


def _entity(text: str, name: str) -> list[str]:
    """The strings of one header entity, in order."""
    start = re.search(rf"\b{name}\s*\(", text)
    if start is None:
        return []
    end = re.compile(r"\)\s*;").search(text, start.end())
    body = text[start.end() : end.start() if end else len(text)]
    return [unescape(word) for word in _WORDS.findall(body)]


def _schema(text: str) -> str:
    """The application protocol by its usual short name, with the schema's own name."""
    names = _entity(text, "FILE_SCHEMA")
    if not names:
        return ""
    name = names[0].split("{")[0].strip()
    upper = name.upper()
    for mark, protocol in (
        ("AP242", "AP242"),
        ("AUTOMOTIVE", "AP214"),
        ("CONFIG_CONTROL", "AP203"),
        ("AP203", "AP203"),
    ):
        if mark in upper:
            return protocol
    return name


def _writer(text: str) -> str:
    """FILE_NAME's last strings: preprocessor version, originating system, authorisation."""
    words = _entity(text, "FILE_NAME")
    told = [word for word in words[-3:-1] if word.strip()] if len(words) >= 5 else []
    return ", ".join(dict.fromkeys(told))


_ESCAPE = re.compile(
    r"\\X2\\((?:[0-9A-Fa-f]{4})+)\\X0\\|\\X\\([0-9A-Fa-f]{2})|\\S\\(.)|\\X4\\((?:[0-9A-Fa-f]{8})+)\\X0\\|(''|\\\\)"
)


def unescape(word: str) -> str:
    """A STEP string's text: doubled quotes and backslashes, and the \\X2\\, \\X4\\, \\X\\ and \\S\\ escapes (ISO
    10303-21, 6.4.3)."""

    def one(match: re.Match[str]) -> str:
        two, byte, high, four, doubled = match.groups()
        if two or four:
            codec = "utf-16-be" if two else "utf-32-be"
            return bytes.fromhex(two or four).decode(codec, "replace")
        if doubled:
            return doubled[0]
        return chr(int(byte, 16)) if byte else chr(ord(high) + 128)

    return _ESCAPE.sub(one, word)


def escape(text: str) -> str:
    """What `unescape` reads as this text, in the letters of the exchange file's own alphabet."""
    plain = text.replace("\\", "\\\\").replace("'", "''")
    return re.sub(r"[^ -~]+", lambda run: f"\\X2\\{run[0].encode('utf-16-be').hex().upper()}\\X0\\", plain)
