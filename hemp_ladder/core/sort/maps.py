"""What the materials in use wear, slot by slot: what is there, what is missing, what might fit."""

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from statistics import median
from typing import Literal

from hemp_ladder.core.fit import Fitted
from hemp_ladder.core.model.bodies import Meshed
from hemp_ladder.core.model.finish import SLOTS, Map, Slot
from hemp_ladder.core.model.join import Joined
from hemp_ladder.core.model.material import Material
from hemp_ladder.core.model.texture import Texture
from hemp_ladder.core.receive.meshed.habits import read_name
from hemp_ladder.core.sort import Sorted
from hemp_ladder.core.sort.palette import pictures_of
from hemp_ladder.core.sort.settings import SortSettings

State = Literal["worn", "guessed", "missing", "empty"]


@dataclass(frozen=True)
class Filled:
    """A slot of a material: what is in it or might be, the file name of what is missing, and remarks in words."""

    slot: Slot
    state: State
    map: Map | None = None
    missing: str = ""
    remarks: tuple[str, ...] = ()


@dataclass(frozen=True)
class Row:
    """A material in use. `tile` is how long its picture lies on what wears it, in metres, and `repeats` how often it
    repeats across one group of triangles at most; 0 where there are no UV."""

    material: Material
    placements: int
    tile: float
    repeats: float
    slots: tuple[Filled, ...]

    def pixels_per_metre(self, pictures: Mapping[str, Texture]) -> float:
        """Of the picture that the colour comes from."""
        base = self.material.finish.map("base colour")
        texture = pictures.get(base.picture) if base else None
        if base is None or texture is None or not self.tile:
            return 0.0
        across = (texture.width * abs(base.scale[0]) * texture.height * abs(base.scale[1])) ** 0.5
        return float(across / self.tile)


@dataclass(frozen=True)
class Orphan:
    """A picture that nobody wears, and the slots that it would fit: material id, slot, channel and whether turned over."""

    texture: Texture
    fits: tuple[tuple[str, Slot, Map], ...]


def rows_of(fitted: Fitted, found: Sorted, settings: SortSettings) -> list[Row]:
    """The materials in use, those with something to say of maps first."""
    model = fitted.model
    pictures = pictures_of(model, settings)
    tiles = _tiles(fitted, found)
    counts: dict[str, int] = defaultdict(int)
    for dress in found.dress_of.tolist():
        for id_ in set(found.dresses[dress].materials):
            counts[id_] += 1
    rows = []
    for id_, count in counts.items():
        material, own = found.palette[id_], tiles.get(id_, [])
        rows.append(
            Row(
                material, count, median(tile for tile, _ in own) if own else 0.0,
                max((times for _, times in own), default=0.0), tuple(_slots(material, model, pictures)),
            )
        )  # fmt: skip
    return sorted(rows, key=lambda row: all(item.state == "empty" for item in row.slots))


def _slots(material: Material, model: Joined, pictures: Mapping[str, Texture]) -> Iterator[Filled]:
    style = material.id.removeprefix("look:")
    guesses = model.guesses.get(style, {}) if material.id != style else {}
    lacking = model.lacking.get(style, {}) if material.id != style else {}
    for slot in SLOTS:
        worn = material.finish.map(slot)
        if worn is not None:
            texture = pictures.get(worn.picture)
            if texture is None:
                yield Filled(slot, "missing", worn, "a picture that is no more")
            else:
                yield Filled(slot, "worn", worn, remarks=tuple(_remarks(slot, worn, texture)))
        elif slot in lacking:
            yield Filled(slot, "missing", guesses.get(slot), lacking[slot])
        elif slot in guesses:
            yield Filled(slot, "guessed", guesses[slot])
        else:
            yield Filled(slot, "empty")


def _remarks(slot: Slot, worn: Map, texture: Texture) -> Iterator[str]:
    """What a picture's form says against it in this slot."""
    _, told = read_name(texture.name)
    if texture.width != texture.height:
        yield "not square"
    if slot == "normal" and not texture.bluish:
        yield "not the colours of a normal map"
    if slot in ("base colour", "emission") and texture.bluish:
        yield "the colours of a normal map"
    if slot == "roughness" and told and told.inverted and not worn.inverted:
        yield "a gloss map by its name"


def _tiles(fitted: Fitted, found: Sorted) -> dict[str, list[tuple[float, float]]]:
    """By material: how long a picture lies on each group of triangles that wears it, in metres, and how often it repeats."""
    told: dict[str, list[tuple[float, float]]] = defaultdict(list)
    seen: set[tuple[int, int]] = set()
    for part, number in zip(found.parts.tolist(), found.dress_of.tolist(), strict=True):
        body = fitted.model.parts[part].body
        if (part, number) in seen or not isinstance(body, Meshed) or not body.tiles:
            continue
        seen.add((part, number))
        dress, scale = found.dresses[number], float(fitted.scale_of(part))
        slots = dict(dress.face_slots)
        for group, (tile, repeats) in enumerate(body.tiles):
            if tile:
                told[dress.materials[slots.get(group, 0)]].append((tile * scale, repeats))
    return told


def orphans_of(rows: list[Row], model: Joined, settings: SortSettings) -> list[Orphan]:
    """Pictures that no material in use wears and that no guess speaks of."""
    spoken = {item.map.picture for row in rows for item in row.slots if item.map is not None}
    return [
        Orphan(texture, tuple(_fits(texture, rows)))
        for sha256, texture in pictures_of(model, settings).items()
        if sha256 not in spoken
    ]


def _fits(texture: Texture, rows: list[Row]) -> Iterator[tuple[str, Slot, Map]]:
    """Slots that are empty and that its name, or else its colours, speak for; where something is missing comes first."""
    words, told = read_name(texture.name)
    plain: Slot = "normal" if texture.bluish else "base colour"
    slots = told.slots if told else ((plain, "rgb"),)
    wanted = sorted(rows, key=lambda row: not any(item.state == "missing" for item in row.slots))
    # A material that shares a word with it is meant before others.
    shared = [row for row in wanted if set(words) & set(read_name(f"{row.material.name}.png")[0])]
    for row in shared or wanted:
        states = {item.slot: item.state for item in row.slots}
        for slot, channel in slots:
            if states[slot] in ("missing", "empty"):
                yield row.material.id, slot, Map(texture.sha256, channel, told.inverted if told else False)
