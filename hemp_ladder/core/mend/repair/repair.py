"""Repair: the operation, and the kinds of damage in the order in which they are put right."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Annotated, ClassVar, Literal, Self, get_args

from pydantic import Field, field_validator

from hemp_ladder.core.chain.steps import Operation, Option
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.lengths import Metres
from hemp_ladder.core.mend.repair.apart import without_over_shared
from hemp_ladder.core.mend.repair.holes import without_holes
from hemp_ladder.core.mend.repair.joints import without_seams, without_t_joints
from hemp_ladder.core.mend.repair.remove import without_degenerate, without_duplicates
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.settings import Range

Damage = Literal["degenerate", "duplicate", "open", "t-joints", "over-shared", "holes", "crossing"]
KINDS: tuple[str, ...] = get_args(Damage)


class Repair(Operation):
    """Which kinds of damage are put right."""

    version: ClassVar[int] = 1
    option: ClassVar[Option] = Option(
        "KINDS", f"put right, with commas between: {', '.join(KINDS)}; all of these; or watertight, by force"
    )
    ranges: ClassVar[Mapping[str, Range]] = {"reach": Range(1e-6, 0.1, 1e-4), "cells": Range(16, 256, 96)}
    does: Literal["repair"] = "repair"
    # In one order always: it goes into keys.
    kinds: tuple[Damage, ...] = Field(KINDS, description="what is put right")  # type: ignore[arg-type]
    reach: Annotated[Metres, Field(ge=0, le=1e9)] = Field(
        ranges["reach"].start, description="with `open`, how near each other borders lie that are one seam, in metres"
    )
    watertight: bool = Field(
        False, description="what is still not closed is made anew from what it encloses: a last resort"
    )
    cells: int = Field(96, ge=16, le=256, description="for that, cells along the longest side")

    @field_validator("kinds")
    @classmethod
    def _in_order(cls, kinds: tuple[Damage, ...]) -> tuple[Damage, ...]:
        return tuple(kind for kind in get_args(Damage) if kind in kinds)

    @classmethod
    def from_option(cls, text: str) -> Self:
        words = [word.strip() for word in text.split(",") if word.strip()]
        kinds = set(words) - {"all", "watertight"}
        strange = sorted(kinds - set(KINDS))
        if strange or not words:
            told = ", ".join((*KINDS, "all", "watertight"))
            raise SettingsError(f"“{text[:60]}” is no kind of damage. Write some of: {told}.")
        force = "watertight" in words
        return cls.model_validate(
            {"kinds": KINDS if "all" in words or (force and not kinds) else sorted(kinds), "watertight": force}
        )

    def in_coordinates(self, metres: float) -> Self:
        return self.model_copy(update={"reach": self.reach / metres})

    def apply(self, mesh: Mesh) -> Mesh:
        return repair(mesh, self)

    def seconds(self, triangles: int) -> float:
        return 1e-5 * triangles


def repair(mesh: Mesh, settings: Repair) -> Mesh:
    """Put the kinds right one after the other: what is too much goes first, then what should meet meets, then holes close.

    Effects: `repair`, places put right in all, and `repair.` with each kind
    its own; `repair.forced`, 1 where the surface was made anew.
    """
    if not len(mesh.triangles):
        return mesh
    made, effects = mesh, dict(mesh.figures.effects)
    total = 0
    for kind, put_right in _IN_ORDER.items():
        if kind in settings.kinds and len(made.triangles):
            made, count = put_right(made, settings)
            effects[f"{settings.does}.{kind}"] = float(count)
            total += count
    if not len(made.triangles):
        raise SettingsError(
            "Every triangle of it lies on another or has no area; nothing would be left.", "Leave it out."
        )
    if settings.watertight and not _closed(made):
        from hemp_ladder.core.mend.repair.watertight import forced

        try:
            made = forced(made, settings.cells)
            effects[f"{settings.does}.forced"] = 1.0
        except SettingsError as error:
            # What was put right by kind stays so.
            refused = {**made.figures.refused, settings.does: f"{error.message} {error.remedy}"}
            made = replace(made, figures=replace(made.figures, refused=refused))
    effects[settings.does] = float(total)
    return replace(made, figures=replace(made.figures, effects=effects, open_edges=None))


def _closed(mesh: Mesh) -> bool:
    return replace(mesh, figures=replace(mesh.figures, open_edges=None)).open_edges == 0


def _degenerate(mesh: Mesh, settings: Repair) -> tuple[Mesh, int]:
    made, count = without_degenerate(mesh)
    # The gap that one leaves has no width.
    return (without_t_joints(made)[0], count) if count else (made, 0)


def _crossing(mesh: Mesh, settings: Repair) -> tuple[Mesh, int]:
    from hemp_ladder.core.mend.repair.crossing import without_crossings

    return without_crossings(mesh)


_IN_ORDER: dict[str, Callable[[Mesh, Repair], tuple[Mesh, int]]] = {
    "degenerate": _degenerate,
    "duplicate": lambda mesh, settings: without_duplicates(mesh),
    "open": lambda mesh, settings: without_seams(mesh, settings.reach),
    # Without seams only what is a joint but for rounding: that can be put right unseen, however small the part is.
    "t-joints": lambda mesh, settings: without_t_joints(mesh, settings.reach if "open" in settings.kinds else 0.0),
    "over-shared": lambda mesh, settings: without_over_shared(mesh),
    "holes": lambda mesh, settings: without_holes(mesh),
    "crossing": _crossing,
}
