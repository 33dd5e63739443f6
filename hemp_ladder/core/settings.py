"""The base of every rung's settings, and what is offered for a number among them."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

from pydantic import BaseModel, ConfigDict, model_validator

#: Rules, choices and rows of one table that a decision may hold at the most; and parts that it may name one by one.
MOST, MOST_PARTS = 20_000, 100_000


class Settings(BaseModel):
    """Immutable, strict about names, and readable as JSON."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    @model_validator(mode="before")
    @classmethod
    def _plain(cls, given: Any) -> Any:
        """True is no number, and what no text can hold is no text."""
        if isinstance(given, Mapping):
            no_bools = _without_bools(cls)
            for name, value in given.items():
                if name in no_bools and _holds_bool(value):
                    raise ValueError(f"{name}: true and false are no numbers")
                if isinstance(value, str) and not is_text(value):
                    raise ValueError(f"{name}: it holds a character that is none")
        return given


@cache
def _without_bools(settings: type[Settings]) -> frozenset[str]:
    """Its fields that no truth value belongs in: found once, for thousands of rules are checked at every decision."""
    return frozenset(name for name, field in settings.model_fields.items() if "bool" not in str(field.annotation))


def is_text(value: str) -> bool:
    """Whether a text can be stored: no NUL, and no half of a surrogate pair."""
    if "\0" in value:
        return False
    return value.isascii() or not any("\ud800" <= letter <= "\udfff" for letter in value)


def _holds_bool(value: Any) -> bool:
    return isinstance(value, bool) or (
        isinstance(value, list | tuple) and any(isinstance(item, bool) for item in value)
    )


@dataclass(frozen=True)
class Range:
    """Values that make sense for a number, and the one to start from. What can be typed may go further."""

    least: float
    most: float
    start: float
