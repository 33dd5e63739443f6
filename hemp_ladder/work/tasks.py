"""The queued tasks. Each can run twice: it writes by content key and asks first whether it is still wanted."""

import hashlib
import json
import tempfile
import time
import zipfile
from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np
import procrastinate
from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert

from hemp_ladder.core.climb import climb
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import Cancelled
from hemp_ladder.core.facet import MeshRequest
from hemp_ladder.core.findings import Finding, finding
from hemp_ladder.core.mesh import Mesh
from hemp_ladder.core.model import Model
from hemp_ladder.core.ship.deliver import climb_ship
from hemp_ladder.core.ship.names import file_stem
from hemp_ladder.core.ship.settings import Target
from hemp_ladder.store import blobs, model_blob, packs
from hemp_ladder.store.database import among, session, tell
from hemp_ladder.store.tables import (
    ClimbRow,
    DecisionsRow,
    DeliveryRow,
    FindingRow,
    Job,
    MeshRow,
    Revision,
    Source,
)  # fmt: skip
from hemp_ladder.work.actions import add_source, catch_up, models_of, name_source, source_key, sources_of, start_climb
from hemp_ladder.work.children import Crew
from hemp_ladder.work.queue import MOST_ATTEMPTS, STALLED_SECONDS, app
from hemp_ladder.work.receipts import receipt_file
from hemp_ladder.work.receiving import Ears, SourceRefused, receive_files
from hemp_ladder.work.shelf import make_meshes
from hemp_ladder.work.standing import standing_crew

#: Meshes a task makes before it stores them, so that the stage fills as they come; more of small ones that come
#: quickly, up to so many vertices.
_PACK, _MOST_PACKED, _PACK_SECONDS, _MOST_VERTICES = 24, 500, 0.4, 300_000
_ASK_SECONDS = 0.5


@app.task(name="receive")
def receive(revision_id: int) -> None:
    """Read a revision's files into a model; what comes of it is in the revision's row."""
    with session() as s:
        revision = s.get(Revision, revision_id)
        if revision is None or revision.state not in ("waiting", "reading"):
            return
        job_id = s.get_one(Source, revision.source_id).job_id
        revision.state, revision.stage, revision.count = "reading", "reading", 0
        files, root = list(revision.files), revision.root
        tell(s, job_id)
    key = source_key(files, root)
    try:
        if blobs.exists(f"models/{key}"):
            model = model_blob.load(key)
            if blobs.exists(f"bundles/{key}"):
                _opened(revision_id, *json.loads(blobs.get(f"bundles/{key}")))
        else:
            model = _read(files, root, revision_id, job_id, key)
    except SourceRefused as refused:
        _close_revision(revision_id, job_id, "refused", [refused.finding])
        return
    except Cancelled:
        return
    with session() as s:
        revision = s.get_one(Revision, revision_id)
        if revision.state != "reading":
            return
        revision.model_key = key
        facts = _facts(model, sum(item["bytes"] for item in files))
        revision.facts = {**facts, "clean": blobs.exists(f"clean/{key}")}
    _close_revision(revision_id, job_id, "ready", model.findings)


def _facts(model: Model, size: int) -> dict[str, Any]:
    """What a source declares, for whoever shows it without opening the model."""
    return {
        "format": model.format, "schema": model.schema, "writer": model.writer, "bytes": size,
        "unit": model.unit, "up": model.up, "metres": float(model.metres_per_coordinate),
        "parts": sum(1 for part in model.parts if part.faces), "placements": len(model.placements),
        "layers": len(model.layers), "hidden": model.hidden, "colours": len(model.colours()),
        "storeys": len(dict.fromkeys(node.tags.storey for node in model.nodes if node.tags.storey)),
        "leftovers": model.leftovers, "place": asdict(model.place) if model.place else None,
        "size": (np.ptp(model.box, axis=0) * float(model.metres_per_coordinate)).tolist(),
        "middle": (model.box.mean(axis=0) * float(model.metres_per_coordinate)).tolist(),
    }  # fmt: skip


def _read(files: list[dict[str, Any]], root: str | None, revision_id: int, job_id: int, key: str) -> Model:
    last = 0.0

    def on_stage(stage: str, count: int) -> None:
        nonlocal last
        if stage == "parts" and time.monotonic() - last < _ASK_SECONDS:
            return
        last = time.monotonic()
        with session() as s:
            revision = s.get_one(Revision, revision_id)
            revision.stage, revision.count = stage, count
            tell(s, job_id)

    def on_outline(model: Model) -> None:
        name = model_blob.outline_name(key)
        blobs.put(f"models/{name}", model_blob.encode(model))
        with session() as s:
            s.get_one(Revision, revision_id).outline_key = name
            tell(s, job_id)

    def on_opened(name: str, others: list[str]) -> None:
        # A lone file is known by the name that it came under, which is not part of its key.
        if len(files) > 1 or others or name != files[0]["name"]:
            blobs.put(f"bundles/{key}", json.dumps([name, others]).encode())
            _opened(revision_id, name, others)

    ears = Ears(
        shape=lambda part_key, data: blobs.put(f"shapes/{part_key}", data),
        stage=on_stage, outline=on_outline, opened=on_opened,
        details=lambda number, data: blobs.put(f"details/{key}-{number}", data),
        preview=lambda data: blobs.put(f"previews/{key}", data),
        clean=lambda data: blobs.put(f"clean/{key}", data),
    )  # fmt: skip
    with tempfile.TemporaryDirectory() as folder, Crew(1) as crew:
        laid = []
        for number, item in enumerate(files):
            path = Path(folder) / f"blob-{number}"
            blobs.fetch(f"sources/{item['sha256']}", path)
            laid.append((item["name"], path))
        bundle = Path(folder) / "bundle"
        bundle.mkdir()
        model = receive_files(laid, bundle, crew, ears, _asker(Revision, revision_id, {"cancelled"}), root)
    blobs.put(f"models/{key}", model_blob.encode(model))
    return model


def _opened(revision_id: int, name: str, others: list[str]) -> None:
    """A bundle dropped at once is known by the file that was read of it; what else it holds are sources beside it."""
    with session() as s:
        revision = s.get_one(Revision, revision_id)
        source = s.get_one(Source, revision.source_id)
        if revision.root is not None:
            return
        name_source(s, source, name)
        for other in others:
            add_source(s, source.job_id, revision.files, other)


def _asker(table: Any, row_id: int, stop: set[str]) -> Callable[[], bool]:
    """Whether the row says to stop, asked of the database no more often than makes sense."""
    asked, answer = 0.0, False

    def cancelled() -> bool:
        nonlocal asked, answer
        if not answer and time.monotonic() - asked > _ASK_SECONDS:
            asked = time.monotonic()
            with session() as s:
                state = s.scalar(select(table.state).where(table.id == row_id))
            answer = state is None or state in stop
        return answer

    return cancelled


def _close_revision(revision_id: int, job_id: int, state: str, findings: Sequence[Finding]) -> None:
    with session() as s:
        revision = s.get_one(Revision, revision_id)
        revision.state, revision.stage = state, ""
        s.query(FindingRow).filter(FindingRow.revision_id == revision_id).delete()
        for item in findings:
            values = item.as_dict()
            del values["source"]
            s.add(FindingRow(revision_id=revision_id, **values))
        s.flush()
        if state == "ready":
            job = s.get_one(Job, job_id, with_for_update=True)
            start_climb(s, job)
        tell(s, job_id)


@app.task(name="facet")
def facet(climb_id: int, requests: list[list[Any]]) -> None:
    """Make one batch of a climb's meshes; whichever batch ends last closes the climb."""
    with session() as s:
        climb_row = s.get(ClimbRow, climb_id)
        if climb_row is None or climb_row.state != "working":
            return
        job_id = climb_row.job_id
        keys = [item[0] for item in requests]
        there = set(s.scalars(select(MeshRow.key).where(among(MeshRow.key, keys))))
    wanted = [MeshRequest.from_list(item) for item in requests if item[0] not in there]
    made: dict[str, Mesh] = {}
    stored, vertices = time.monotonic(), 0

    def keep(request: MeshRequest, mesh: Mesh) -> None:
        nonlocal stored, vertices
        made[request.key] = mesh
        vertices += len(mesh.positions)
        waited = time.monotonic() - stored > _PACK_SECONDS or vertices > _MOST_VERTICES
        if len(made) >= (_PACK if waited else _MOST_PACKED):
            _store(made, job_id)
            made.clear()
            stored, vertices = time.monotonic(), 0

    light = all(request.solid is not None for request in wanted)
    try:
        with standing_crew() if light else Crew(1) as crew:
            make_meshes(
                wanted, lambda key: blobs.get(f"shapes/{key}"), crew, keep, _asker(ClimbRow, climb_id, {"cancelled"})
            )
    except Cancelled:
        return
    finally:
        _store(made, job_id)
    with session() as s:
        climb_row = s.get_one(ClimbRow, climb_id, with_for_update=True)
        count = s.scalar(select(func.count()).select_from(MeshRow).where(among(MeshRow.key, climb_row.keys)))
        if climb_row.state == "working" and count == len(climb_row.keys):
            climb_row.state = "done"
        tell(s, job_id)


@app.task(name="catch_up", queueing_lock="catch_up")
def catch_up_all() -> None:
    """Look through all jobs for meshes that a newer version makes anew, the newest job first."""
    with session() as s:
        jobs = list(s.scalars(select(Job.id).order_by(Job.id.desc())))
    for job_id in jobs:
        with session() as s:
            if s.get(Job, job_id) is not None:
                catch_up(s, job_id)


def _store(meshes: Mapping[str, Mesh], job_id: int) -> None:
    """Put meshes away as one pack, their figures as rows; a mesh that another made meanwhile stays its."""
    if not meshes:
        return
    pack = blobs.put_by_content("packs", packs.encode(meshes), ".glb")
    rows = [
        {
            "key": key, "pack": pack, "triangles": len(mesh.triangles), "vertices": len(mesh.positions),
            "off_by": mesh.off_by, "watertight": mesh.watertight, "inside_out": mesh.inside_out,
            "failed_faces": len(mesh.failed), "thin": [list(place) for place in mesh.thin],
            "box": [mesh.positions.min(axis=0).tolist(), mesh.positions.max(axis=0).tolist()]
            if len(mesh.positions) else [],
        }
        for key, mesh in meshes.items()
    ]  # fmt: skip
    with session() as s:
        s.execute(insert(MeshRow).on_conflict_do_nothing(), rows)
        tell(s, job_id)


class StoreShelf:
    """Meshes from the store; what is not there is made in this process's children."""

    def __init__(self, cancelled: Callable[[], bool]) -> None:
        self._cancelled = cancelled

    def meshes(self, requests: Sequence[MeshRequest]) -> Mapping[str, Mesh]:
        kept: dict[str, Mesh] = {}
        with session() as s:
            rows = s.execute(select(MeshRow.key, MeshRow.pack).where(among(MeshRow.key, [r.key for r in requests])))
            pack_of = {row.key: row.pack for row in rows}
        for pack in set(pack_of.values()):
            if self._cancelled():
                raise Cancelled("Stopped on request.")
            kept.update(packs.decode(blobs.get(f"packs/{pack}")))
        missing = [r for r in requests if r.key not in kept]

        def keep(request: MeshRequest, mesh: Mesh) -> None:
            kept[request.key] = mesh

        with Crew() as crew:
            make_meshes(missing, lambda key: blobs.get(f"shapes/{key}"), crew, keep, self._cancelled)
        return kept


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
    cancelled = _asker(DeliveryRow, delivery_id, {"cancelled"})

    def stage(name: str) -> None:
        if cancelled():
            raise Cancelled("Stopped on request.")
        with session() as s:
            s.get_one(DeliveryRow, delivery_id).stage = name
            tell(s, job.id)

    try:
        result = climb(model_blob.load_joined(sources), decisions, StoreShelf(cancelled))
        with tempfile.TemporaryDirectory() as folder:
            stem = file_stem(job.name, set())
            shipped = climb_ship(result, target, Path(folder) / f"{stem}.{target.format}", stage)
            proof = Path(folder) / f"{stem}-receipt.json"
            receipt_file(proof, shipped, decisions, files)
            bundle = _bundle([*shipped.paths, proof], Path(folder) / "bundle.zip")
            stage("storing")
            name = f"{_sha256(bundle)}.zip"
            blobs.put_file(f"deliveries/{name}", bundle)
            size = bundle.stat().st_size
            written = [{"name": path.name, "bytes": path.stat().st_size} for path in shipped.paths]
    except Cancelled:
        return
    except Exception as error:
        _close_delivery(delivery_id, "failed", message=f"Writing failed: {type(error).__name__}: {error}"[:400])
        raise
    _close_delivery(
        delivery_id, "done", files=written, bundle=name, bundle_bytes=size, receipt=shipped.receipt.as_dict()
    )


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


def _close_delivery(delivery_id: int, state: str, **values: Any) -> None:
    with session() as s:
        delivery = s.get_one(DeliveryRow, delivery_id)
        if delivery.state == "cancelled":
            return
        delivery.state, delivery.stage = state, ""
        for name, value in values.items():
            setattr(delivery, name, value)
        tell(s, delivery.job_id)


@app.periodic(cron="*/3 * * * * *")
@app.task(name="rescue", queueing_lock="rescue", pass_context=True)
async def rescue(context: procrastinate.JobContext, timestamp: int) -> None:
    """Take up again what a dead worker left; give up what keeps killing its workers."""
    manager = context.app.job_manager
    for job in await manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_SECONDS):
        if job.attempts + 1 >= MOST_ATTEMPTS:
            await manager.finish_job(job, procrastinate.jobs.Status.FAILED, delete_job=False)
            give_up(job.task_name, job.task_kwargs)
        else:
            await manager.retry_job(job)


def give_up(task: str, values: dict[str, Any]) -> None:
    """End what a task was for, with a sentence where it is looked for."""
    if task == "receive":
        with session() as s:
            revision = s.get(Revision, values["revision_id"])
            if revision is None:
                return
            job_id = s.get_one(Source, revision.source_id).job_id
            name = revision.files[0]["name"]
        _close_revision(
            values["revision_id"], job_id, "refused",
            [finding("reader-crashed", name, f"Reading it ended its worker {MOST_ATTEMPTS} times.")],
        )  # fmt: skip
    elif task == "ship":
        _close_delivery(values["delivery_id"], "failed", message="Writing it ended its worker several times.")
    elif task == "facet":
        with session() as s:
            climb_row = s.get(ClimbRow, values["climb_id"])
            if climb_row is not None:
                climb_row.state = "cancelled"
                tell(s, climb_row.job_id)
