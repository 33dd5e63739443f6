"""The maps board as it goes over the wire."""

from collections.abc import Mapping

from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.findings import Offer
from hemp_ladder.core.model.finish import SLOTS, Channel, Slot
from hemp_ladder.core.model.texture import Texture
from hemp_ladder.core.offers import take_offer
from hemp_ladder.core.receive.meshed.habits import read_name
from hemp_ladder.core.sort.maps import Filled, Row, State, orphans_of, rows_of
from hemp_ladder.core.sort.palette import pictures_of
from hemp_ladder.core.sort.settings import as_picture
from hemp_ladder.store import blobs
from hemp_ladder.work import actions
from hemp_ladder.work.plans import planned
from hemp_ladder.work.sources import job_of, models_of, sources_of


class PictureView(BaseModel):
    """A picture: bytes as stored, size in pixels, what its opacity does."""

    sha256: str
    name: str
    width: int
    height: int
    bytes: int
    clear: str
    given: bool = Field(description="it was given to the job, and did not come with a source")


class SlotView(BaseModel):
    slot: Slot
    state: State
    picture: PictureView | None
    channel: Channel | None
    inverted: bool
    missing: str = Field(description="the file name of what is missing")
    remarks: list[str]


class MapRow(BaseModel):
    material: str = Field(description="its id")
    name: str
    colour: str
    placements: int
    tile: float = Field(description="how long its picture lies on what wears it, in metres; 0 without UV")
    repeats: float
    pixels_per_metre: float
    slots: list[SlotView]


class FitView(BaseModel):
    """A slot that a picture would fit."""

    material: str
    name: str
    slot: Slot
    channel: Channel
    inverted: bool


class OrphanView(BaseModel):
    picture: PictureView
    fits: list[FitView]


class MapsView(BaseModel):
    """What the materials in use wear."""

    slots: list[Slot]
    rows: list[MapRow]
    orphans: list[OrphanView]
    pictures: int
    bytes: int
    unpacked: int = Field(
        description="bytes of all worn pictures as a graphics card holds them, with their smaller copies"
    )


class PictureIn(BaseModel):
    """An uploaded file as a picture of the job, and where it is worn at once."""

    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    name: str = Field(min_length=1, max_length=400)
    material: str | None = Field(None, max_length=300)
    slot: Slot | None = None


def maps_view(session: Session, job_id: int) -> MapsView:
    job = job_of(session, job_id)
    _, decisions = actions.decisions_of(session, job)
    now = planned(models_of(sources_of(session, job_id)), decisions)
    settings = now.decisions.sort
    pictures, given = pictures_of(now.model, settings), {item.sha256 for item in settings.pictures}
    rows = rows_of(now.fitted, now.sorted, settings)
    worn = {item.map.picture for row in rows for item in row.slots if item.state == "worn" and item.map}
    names = {row.material.id: row.material.name for row in rows}
    return MapsView(
        slots=list(SLOTS),
        rows=[_row(row, pictures, given) for row in rows],
        orphans=[
            OrphanView(
                picture=_picture(orphan.texture, given),
                fits=[
                    FitView(material=id_, name=names[id_], slot=slot, channel=fit.channel, inverted=fit.inverted)
                    for id_, slot, fit in orphan.fits[:12]
                ],
            )
            for orphan in orphans_of(rows, now.model, settings)
        ],
        pictures=len(worn),
        bytes=sum(pictures[sha256].bytes for sha256 in worn),
        # Four bytes a pixel, and a third more for the smaller copies that cards keep (common practice).
        unpacked=sum(pictures[sha256].width * pictures[sha256].height * 4 * 4 // 3 for sha256 in worn),
    )


def _row(row: Row, pictures: Mapping[str, Texture], given: set[str]) -> MapRow:
    return MapRow(
        material=row.material.id, name=row.material.name, colour=row.material.colour.hex[:7], placements=row.placements,
        tile=row.tile, repeats=row.repeats, pixels_per_metre=row.pixels_per_metre(pictures),
        slots=[_slot(item, pictures, given) for item in row.slots],
    )  # fmt: skip


def _slot(item: Filled, pictures: Mapping[str, Texture], given: set[str]) -> SlotView:
    texture = pictures.get(item.map.picture) if item.map else None
    return SlotView(
        slot=item.slot, state=item.state, picture=_picture(texture, given) if texture else None,
        channel=item.map.channel if item.map else None, inverted=bool(item.map and item.map.inverted),
        missing=item.missing, remarks=list(item.remarks),
    )  # fmt: skip


def _picture(texture: Texture, given: set[str]) -> PictureView:
    return PictureView(
        sha256=texture.sha256, name=texture.name, width=texture.width, height=texture.height, bytes=texture.bytes,
        clear=texture.clear, given=texture.sha256 in given,
    )  # fmt: skip


def give_picture(session: Session, job_id: int, told: PictureIn, data: bytes, texture: Texture) -> None:
    """Keep a picture with the job, as it is stored, and put it where it was dropped: one decision."""
    job = job_of(session, job_id, lock=True)
    _, decisions = actions.decisions_of(session, job)
    models = models_of(sources_of(session, job_id))
    if not models:
        raise SettingsError("No source is read yet.", "Wait until Receive is done.")
    blobs.put(f"textures/{texture.sha256}", data)
    now = planned(models, decisions)
    sort = now.decisions.sort
    label = f"Picture {texture.name[:60]}"
    if texture.sha256 not in pictures_of(now.model, sort):
        sort = sort.model_copy(update={"pictures": (*sort.pictures, as_picture(texture))})
    changed = now.decisions.model_copy(update={"sort": sort})
    if told.material and told.slot:
        values = {"material": told.material, "slot": told.slot, "picture": texture.sha256, **_taken(told.slot, texture)}
        changed = take_offer(now.model, changed, Offer(label, "wear", values))
        label = f"{label} as {told.slot}"
    actions.decide(session, job_id, changed, label)


def _taken(slot: Slot, texture: Texture) -> dict[str, object]:
    """Which numbers of a dropped picture count: its opacity where it has any, in that slot; gloss by its name turned over."""
    _, told = read_name(texture.name)
    channel = dict(told.slots).get(slot, "rgb") if told else "rgb"
    if slot == "opacity" and texture.clear:
        channel = "a"
    return {"channel": channel, "inverted": bool(told and told.inverted and slot == "roughness")}
