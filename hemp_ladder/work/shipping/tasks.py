"""The queued writing of a delivery, read back and put away as one ZIP with its receipt."""

import hashlib
import zipfile
from pathlib import Path
from typing import Any

from hemp_ladder.core.climb import climb
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import Cancelled, LadderError
from hemp_ladder.core.ship.deliver import climb_ship
from hemp_ladder.core.ship.names import file_stem
from hemp_ladder.core.ship.settings import Target
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


@app.task(name="ship")
def ship(delivery_id: int) -> None:
    """Write a delivery's files, read them back, and put them away as one ZIP with the receipt."""
    with session() as s:
        delivery = s.get(DeliveryRow, delivery_id)
        if delivery is None or delivery.state not in ("waiting", "writing"):
            return
        job = s.get_one(Job, delivery.job_id)
        decisions = Decisions.model_validate(s.get_one(DecisionsRow, delivery.decisions_id).document)
        target = Target.model_validate(delivery.target)
        received = sources_of(s, job.id)
        sources: Any = tuple(tuple(item) for item in delivery.sources) or models_of(received)
        files = [item for r in received for item in r.newest.files]
        delivery.state, delivery.stage = "writing", "meshing"
        tell(s, job.id)
    cancelled = asker(DeliveryRow, delivery_id, {"cancelled"})

    def stage(name: str) -> None:
        if cancelled():
            raise Cancelled("Stopped on request.")
        with session() as s:
            s.get_one(DeliveryRow, delivery_id).stage = name
            tell(s, job.id)

    try:
        result = climb(model_blob.load_joined(sources), decisions, StoreShelf(cancelled, job.id), target.level)
        with working_folder() as folder:
            stem = file_stem(job.name, set())
            with session() as s:
                figures = shipped_notes(s, job.id, sources, decisions)
            out = folder / f"{stem}{target.written_format.suffix}"
            shipped = climb_ship(result, target, out, stage, _picture, figures)
            proof = folder / f"{stem}-receipt.json"
            receipt_file(proof, shipped, target, decisions, files)
            bundle = _bundle([*shipped.paths, proof], folder / "bundle.zip")
            stage("storing")
            name = f"{_sha256(bundle)}.zip"
            blobs.put_file(f"deliveries/{name}", bundle)
            size = bundle.stat().st_size
            written = [{"name": path.name, "bytes": path.stat().st_size} for path in shipped.paths]
    except Cancelled:
        return
    except LadderError as error:
        close_delivery(delivery_id, "failed", message=f"{error.message} {error.remedy}".strip())
        return
    except Exception as error:
        close_delivery(delivery_id, "failed", message=f"Writing failed: {type(error).__name__}: {error}"[:400])
        raise
    close_delivery(
        delivery_id, "done", files=written, bundle=name, bundle_bytes=size, receipt=shipped.receipt.as_dict()
    )


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
    """End a delivery in this state, unless it was cancelled; with these values in its row."""
    with session() as s:
        delivery = s.get_one(DeliveryRow, delivery_id)
        if delivery.state == "cancelled":
            return
        delivery.state, delivery.stage = state, ""
        for name, value in values.items():
            setattr(delivery, name, value)
        tell(s, delivery.job_id)
