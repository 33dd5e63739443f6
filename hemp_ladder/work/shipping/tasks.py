"""The queued writing of a delivery, read back and put away as one ZIP with its receipt; two of one job at two levels at once,
where they were asked for together."""

import hashlib
import zipfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from hemp_ladder.core.climb import climb
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import Cancelled, LadderError
from hemp_ladder.core.ship.deliver import climb_ship, name_each_other
from hemp_ladder.core.ship.names import file_stem
from hemp_ladder.core.ship.settings import Target
from hemp_ladder.core.trim.settings import FULL
from hemp_ladder.store import blobs, model_blob
from hemp_ladder.store.database import session, tell
from hemp_ladder.store.tables import DecisionsRow, DeliveryRow, Job
from hemp_ladder.work.asking import asker
from hemp_ladder.work.fitting import shipped_notes
from hemp_ladder.work.folders import working_folder
from hemp_ladder.work.meshing.store import StoreShelf
from hemp_ladder.work.queue import app
from hemp_ladder.work.shipping.receipts import receipt_file
from hemp_ladder.work.sources import models_of, sources_of


@dataclass(frozen=True)
class _Order:
    """What is to be written: of which job, by which decisions, of which models; the deliveries by their target."""

    job: Job
    decisions: Decisions
    sources: Any
    files: list[dict[str, Any]]
    targets: dict[int, Target]


@app.task(name="ship")
def ship(delivery_id: int) -> None:
    """Write a delivery's files, and those of the one beside it, read them back, and put each away as one ZIP with its
    receipt."""
    order = _ordered(delivery_id)
    if order is None:
        return
    numbers = list(order.targets)
    asked = [asker(DeliveryRow, number, {"cancelled"}) for number in numbers]

    def cancelled() -> bool:
        # Two that were asked for together are stopped together: each would name what is not there.
        return any(ask() for ask in asked)

    def stage(name: str) -> None:
        if cancelled():
            raise Cancelled("Stopped on request.")
        with session() as s:
            for number in numbers:
                s.get_one(DeliveryRow, number).stage = name
            tell(s, order.job.id)

    try:
        done = _written(order, cancelled, stage)
    except Cancelled:
        for number in numbers:
            close_delivery(number, "cancelled")
        return
    except LadderError as error:
        for number in numbers:
            close_delivery(number, "failed", message=f"{error.message} {error.remedy}".strip())
        return
    except Exception as error:
        for number in numbers:
            close_delivery(number, "failed", message=f"Writing failed: {type(error).__name__}: {error}"[:400])
        raise
    for number, values in done.items():
        close_delivery(number, "done", **values)


def _ordered(delivery_id: int) -> _Order | None:
    """What a delivery asks for; none where it is over, or stopped."""
    with session() as s:
        delivery = s.get(DeliveryRow, delivery_id)
        if delivery is None or delivery.state not in ("waiting", "writing"):
            return None
        other = s.get(DeliveryRow, delivery.beside_id) if delivery.beside_id is not None else None
        rows = [delivery, *([other] if other is not None else [])]
        if any(row.state == "cancelled" for row in rows):
            for row in rows:
                row.state = "cancelled"
            return None
        job = s.get_one(Job, delivery.job_id)
        received = sources_of(s, job.id)
        for row in rows:
            row.state, row.stage = "writing", "meshing"
        tell(s, job.id)
        return _Order(
            job, Decisions.model_validate(s.get_one(DecisionsRow, delivery.decisions_id).document),
            tuple(tuple(item) for item in delivery.sources) or models_of(received),
            [item for r in received for item in r.newest.files],
            {row.id: Target.model_validate(row.target) for row in rows},
        )  # fmt: skip


def _written(order: _Order, cancelled: Callable[[], bool], stage: Callable[[str], None]) -> dict[int, dict[str, Any]]:
    """For each delivery what its row is to hold, once its files are put away."""
    job, decisions = order.job, order.decisions
    model = model_blob.load_joined(order.sources)
    shelf = StoreShelf(cancelled, job.id)
    stem = file_stem(job.name, set())
    with session() as s:
        figures = shipped_notes(s, job.id, order.sources, decisions)
    with working_folder() as folder:
        shipped, number_of, called = {}, {}, {}
        for number, target in order.targets.items():
            name = stem if target.level == FULL else f"{stem}-{file_stem(target.level, set())}"
            out = folder / str(number) / f"{name}{target.written_format.suffix}"
            out.parent.mkdir()
            result = climb(model, decisions, shelf, target.level)
            shipped[target.level] = climb_ship(result, target, out, stage, _picture, figures)
            number_of[target.level], called[target.level] = number, name
        stage("storing")
        found = {}
        for level, item in name_each_other(shipped).items():
            number = number_of[level]
            proof = folder / str(number) / f"{called[level]}-receipt.json"
            receipt_file(proof, item, order.targets[number], decisions, order.files)
            bundle = _bundle([*item.paths, proof], folder / f"{number}.zip")
            name = f"{_sha256(bundle)}.zip"
            blobs.put_file(f"deliveries/{name}", bundle)
            found[number] = {
                "files": [{"name": path.name, "bytes": path.stat().st_size} for path in item.paths], "bundle": name,
                "bundle_bytes": bundle.stat().st_size, "receipt": item.receipt.as_dict(),
            }  # fmt: skip
    return found


def _picture(sha256: str) -> bytes:
    return blobs.get(f"textures/{sha256}")


def _bundle(paths: list[Path], out: Path) -> Path:
    """One ZIP with fixed times, so that the same files give the same bytes."""
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        for path in paths:
            entry = zipfile.ZipInfo(path.name, (2026, 1, 1, 0, 0, 0))
            entry.compress_type = zipfile.ZIP_DEFLATED
            entry.external_attr = 0o644 << 16
            with path.open("rb") as source, archive.open(entry, "w", force_zip64=True) as target:
                while chunk := source.read(1 << 20):
                    target.write(chunk)
    return out


def _sha256(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def close_delivery(delivery_id: int, state: str, **values: Any) -> None:
    """End a delivery in this state, unless it is over; with these values in its row."""
    with session() as s:
        delivery = s.get_one(DeliveryRow, delivery_id)
        if delivery.state not in ("waiting", "writing"):
            return
        delivery.state, delivery.stage = state, ""
        for name, value in values.items():
            setattr(delivery, name, value)
        tell(s, delivery.job_id)
