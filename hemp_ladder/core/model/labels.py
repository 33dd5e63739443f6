"""What parts and sources are called where people read."""

import hashlib

_LONGEST = 80


def unique_label(name: str, taken: set[str]) -> str:
    """A readable name that no other of its kind has; added to `taken`. Of several alike the later are numbered."""
    base = plain(name)
    label = base if base not in taken else f"{base} ({_free(base, taken)})"
    taken.add(label)
    return label


def one_line(text: str) -> str:
    """The text with a blank for all that is no character of a line: breaks, NUL, halves of surrogate pairs."""
    return text if text.isprintable() else "".join(letter if letter.isprintable() else " " for letter in text)


def plain(name: str) -> str:
    """A name on one line; overlong ones keep their head and end in a hash of the whole."""
    line = " ".join(one_line(name).split())
    if len(line) > _LONGEST:
        digest = hashlib.sha256(line.encode("utf-8", "surrogatepass")).hexdigest()[:8]
        line = f"{line[: _LONGEST - 9]}~{digest}"
    return line or "unnamed"


def _free(base: str, taken: set[str]) -> int:
    """A number from 2 that is free: the first where they were given in a row. By halving, for there may be many."""
    low, high = 1, 2
    while f"{base} ({high})" in taken:
        low, high = high, 2 * high
    while high - low > 1:
        middle = (low + high) // 2
        if f"{base} ({middle})" in taken:
            low = middle
        else:
            high = middle
    return high
