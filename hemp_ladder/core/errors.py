"""Errors with a sentence for the artist."""

from typing import Any


class LadderError(Exception):
    """Something a person can act on. The text is a whole sentence."""

    code = "error"

    def __init__(self, message: str, remedy: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.remedy = remedy

    def __reduce__(self) -> tuple[Any, ...]:
        """Whole across a process border, where exceptions travel as their arguments."""
        return type(self), (self.message, self.remedy)


class UnreadableSource(LadderError):
    """The file cannot be read as what it claims to be."""

    code = "unreadable-source"


class SettingsError(LadderError):
    """A setting makes no sense for this model."""

    code = "settings"


class Cancelled(LadderError):
    """A person stopped the work."""

    code = "cancelled"
