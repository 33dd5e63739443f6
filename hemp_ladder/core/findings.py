"""Findings: what was noticed about a source, a part or an output."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass, field
from typing import Any

from hemp_ladder.core.codes import KINDS, Severity


@dataclass(frozen=True)
class Offer:
    """A remedy that is a decision: what the button says, what it does, and with which values; whether it changes nothing
    that anybody could have meant, so that it may be taken with others unseen."""

    label: str
    does: str
    values: dict[str, Any] = field(default_factory=dict)
    safe: bool = False


@dataclass(frozen=True)
class Finding:
    """Something noticed: which code, how grave, where, in what words, and what to do.

    `parts` are indices of the parts it is about (at most `MOST_PARTS` are
    named), `source` what decisions call the source, `offers` the remedies
    that one click takes.
    """

    code: str
    severity: Severity
    where: str
    message: str
    remedy: str
    why: str = ""
    source: str = ""
    parts: tuple[int, ...] = ()
    offers: tuple[Offer, ...] = ()

    def as_dict(self) -> dict[str, Any]:
        return asdict(self)

    @staticmethod
    def from_dict(data: dict[str, Any]) -> "Finding":
        """What `as_dict` gave, also after it went through JSON."""
        offers = tuple(Offer(**offer) for offer in data.get("offers", ()))
        return Finding(**{**data, "parts": tuple(data.get("parts", ())), "offers": offers})


MOST_PARTS = 1000


def finding(
    code: str,
    where: str,
    message: str,
    remedy: str = "",
    parts: Sequence[int] = (),
    offers: Sequence[Offer] = (),
) -> Finding:
    """A finding of the list, with its standing severity, reason and remedy."""
    kind = KINDS[code]
    return Finding(
        code, kind.severity, clip(where), message, remedy or kind.remedy, kind.why,
        parts=tuple(parts[:MOST_PARTS]), offers=tuple(offers),
    )  # fmt: skip


def clip(text: str, length: int = 160) -> str:
    """`text` on one line and no longer than `length`, for a sentence or a label."""
    line = " ".join(text.split())
    return line if len(line) <= length else line[: length - 1] + "…"


#: So many names stand in a sentence before the rest is counted.
_NAMED = 5


def names(words: Sequence[str]) -> str:
    """The first few, and how many more."""
    shown = ", ".join(clip(word, 40) for word in words[:_NAMED])
    return f"{shown} and {len(words) - _NAMED:,} more" if len(words) > _NAMED else shown


def plural(count: int, word: str, several: str = "") -> str:
    """`1 part`, `1,200 parts`; `several` where it is no mere s."""
    return f"{count:,} {word if count == 1 else several or word + 's'}"
