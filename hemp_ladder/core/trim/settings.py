"""What a person decides at Trim."""

from pydantic import Field, field_validator

from hemp_ladder.core.settings import Range, Settings

#: How many times larger the chord errors of a lighter level are, as offered.
COARSER = Range(1, 100, 8)
#: What every job has: each part as Facet and Mend make it.
FULL = "full"


class Level(Settings):
    """A lighter level of every part, beside the full one."""

    name: str = Field("light", pattern=r"^[a-z0-9][a-z0-9 -]{0,39}$")
    coarser: float = Field(
        COARSER.start, ge=1, le=1000, description="how many times larger chord errors are; angles go with the root"
    )


class TrimSettings(Settings):
    """Levels of detail."""

    levels: tuple[Level, ...] = Field((), max_length=4)

    @field_validator("levels")
    @classmethod
    def _each_once(cls, value: tuple[Level, ...]) -> tuple[Level, ...]:
        names = [FULL, *(level.name for level in value)]
        twice = next((name for name in names if names.count(name) > 1), None)
        if twice is not None:
            raise ValueError(f"two levels are called “{twice}”")
        return value
