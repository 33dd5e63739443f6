"""Content keys: what a stored result was made from, and nothing else."""

import hashlib
import json
from typing import Any

#: Raise when reading gives another model for the same bytes.
RECEIVE_VERSION = 10


def content_key(data: bytes) -> str:
    """SHA-256 of `data`, in hex."""
    return hashlib.sha256(data).hexdigest()


def _key(**inputs: Any) -> str:
    return content_key(json.dumps(inputs, sort_keys=True, separators=(",", ":")).encode())


def model_key(source: str, root: str | None = None) -> str:
    """Key of the model read from the source with this SHA-256 (of one file or of a bundle), or from one file in it."""
    inputs = {"source": source, "version": RECEIVE_VERSION}
    return _key(kind="model", **inputs) if root is None else _key(kind="model", root=root, **inputs)


def bundle_key(members: list[tuple[str, str]]) -> str:
    """Key of several files received together: (name, SHA-256) pairs, in any order."""
    return _key(kind="bundle", members=sorted(members))


def joined_key(sources: list[tuple[str, str, str]]) -> str:
    """Key of the models of a job together: (ref, name, model key) of each, in order."""
    return _key(kind="joined", sources=sources)
