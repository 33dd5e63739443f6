"""Errors with a sentence for the artist."""


class LadderError(Exception):
    """Something a person can act on. The text is a whole sentence."""

    code = "error"

    def __init__(self, message: str, remedy: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.remedy = remedy


class UnreadableSource(LadderError):
    """The file cannot be read as what it claims to be."""

    code = "unreadable-source"


class SettingsError(LadderError):
    """A setting makes no sense for this model."""

    code = "settings"


class Cancelled(LadderError):
    """A person stopped the work."""

    code = "cancelled"
