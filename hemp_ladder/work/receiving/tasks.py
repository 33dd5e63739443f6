"""The queued reading of a revision. It can run twice: it writes by content key and asks first whether it is wanted."""

import json
import time
from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

import numpy as np

from hemp_ladder.core.errors import Cancelled
from hemp_ladder.core.findings import Finding, finding
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.reader import ROOM
from hemp_ladder.store import blobs, model_blob
from hemp_ladder.store.database import session, tell
from hemp_ladder.store.tables import FindingRow, Job, Revision, Source
from hemp_ladder.work.actions import start_or_fail
from hemp_ladder.work.asking import ASK_SECONDS, asker
from hemp_ladder.work.children import Crew
from hemp_ladder.work.folders import working_folder
from hemp_ladder.work.queue import MOST_ATTEMPTS, app
from hemp_ladder.work.receiving.reading import Ears, SourceRefused, receive_files
from hemp_ladder.work.sources import add_source, name_source, source_key


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
    except Exception as error:
        message = f"Reading it failed on our side: {type(error).__name__}: {error}"[:400]
        _close_revision(revision_id, job_id, "refused", [finding("reading-failed", files[0]["name"], message)])
        raise
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
        "parts": sum(1 for part in model.parts if part.body.has_surface), "placements": len(model.placements),
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
        if count and time.monotonic() - last < ASK_SECONDS:
            return
        last = time.monotonic()
        with session() as s:
            revision = s.get_one(Revision, revision_id)
            revision.stage, revision.count = stage, count
            tell(s, job_id)

    def on_skeleton(model: Model) -> None:
        name = model_blob.skeleton_name(key)
        blobs.put(f"models/{name}", model_blob.encode(model))
        with session() as s:
            s.get_one(Revision, revision_id).skeleton_key = name
            tell(s, job_id)

    def on_opened(name: str, others: list[str]) -> None:
        # A lone file is known by the name that it came under, which is not part of its key.
        if len(files) > 1 or others or name != files[0]["name"]:
            blobs.put(f"bundles/{key}", json.dumps([name, others]).encode())
            _opened(revision_id, name, others)

    ears = Ears(
        blob=lambda kind, name, data: blobs.put(model_blob.beside(key, kind, name), data),
        stage=on_stage, skeleton=on_skeleton, opened=on_opened,
    )  # fmt: skip
    with working_folder() as folder, Crew(1) as crew:
        laid = []
        for number, item in enumerate(files):
            path = folder / f"blob-{number}"
            blobs.fetch(f"sources/{item['sha256']}", path)
            laid.append((item["name"], path))
        bundle = folder / ROOM
        bundle.mkdir()
        model = receive_files(laid, bundle, crew, ears, asker(Revision, revision_id, {"cancelled"}), root)
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
        for other in others if source.candidate_for is None else ():
            add_source(s, source.job_id, revision.files, other)


def _close_revision(revision_id: int, job_id: int, state: str, findings: Sequence[Finding]) -> None:
    with session() as s:
        # Locked first, as everywhere: the job, then its climbs, then its revisions.
        job = s.get_one(Job, job_id, with_for_update=True)
        revision = s.get_one(Revision, revision_id)
        revision.state, revision.stage = state, ""
        s.query(FindingRow).filter(FindingRow.revision_id == revision_id).delete()
        for item in findings:
            values = item.as_dict()
            del values["source"]
            s.add(FindingRow(revision_id=revision_id, **values))
        s.flush()
        if state == "ready" and s.get_one(Source, revision.source_id).candidate_for is None:
            start_or_fail(s, job)
        tell(s, job_id)


def give_up_revision(revision_id: int) -> None:
    """End the reading of a revision that keeps ending its worker."""
    with session() as s:
        revision = s.get(Revision, revision_id)
        if revision is None:
            return
        job_id = s.get_one(Source, revision.source_id).job_id
        name = revision.files[0]["name"]
    message = f"Reading it ended its worker {MOST_ATTEMPTS} times."
    _close_revision(revision_id, job_id, "refused", [finding("reader-crashed", name, message)])
