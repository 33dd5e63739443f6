"""What a part is called in decisions."""

import hashlib

_LONGEST = 80


def unique_ref(name: str, taken: set[str]) -> str:
    """A readable name that no other part of the model has; added to `taken`.

    The same file gives the same names in the same order, so a decision that
    names a part still finds it after the file was read again. Overlong names
    keep their head and end in a hash of the whole.
    """
    line = name if name.isprintable() else "".join(c if c.isprintable() else " " for c in name)
    line = " ".join(line.split())
    if len(line) > _LONGEST:
        digest = hashlib.sha256(line.encode("utf-8", "surrogatepass")).hexdigest()[:8]
        line = f"{line[: _LONGEST - 9]}~{digest}"
    base = line or "unnamed"
    ref, number = base, 1
    while ref in taken:
        number += 1
        ref = f"{base} ({number})"
    taken.add(ref)
    return ref
