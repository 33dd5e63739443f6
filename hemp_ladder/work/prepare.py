"""`python -m hemp_ladder.work.prepare`: bring the schema up to date and lay the demo in, once."""

import hashlib
from typing import Any

from sqlalchemy import text

from hemp_ladder.core.decisions import Decisions
from hemp_ladder.store import blobs
from hemp_ladder.store.config import ROOT
from hemp_ladder.store.database import migrate, session
from hemp_ladder.work.actions import create_job
from hemp_ladder.work.queue import defer
from hemp_ladder.work.sources import add_candidate, add_source, sources_of

_DEMO = ROOT / "demo"
#: Each where an artist might stand after the first ten minutes, loose ends left. The last opens the list of jobs: the
#: house, the shed and the lantern on one site.
_JOBS = [
    ("Harbour sign", ("harbour-sign.svg",), "harbour-sign-decisions.json"),
    ("Quay seat", ("quay-seat.zip",), "quay-seat-decisions.json"),
    ("Site drawing", ("site-drawing.dxf",), "site-drawing-decisions.json"),
    (
        "Quay strays",
        ("stray-davit.step", "stray-shed.glb", "signal-house.ifc", "name-board.dxf"),
        "quay-strays-decisions.json",
    ),
    ("Shed soup", ("shed-soup.stl",), "shed-soup-decisions.json"),
    ("Quay paving", ("quay-paving.glb",), "quay-paving-decisions.json"),
    ("Gull Rock site", ("keepers-house.ifc", "boat-shed.ifc", "gull-rock-lantern.step"), "gull-rock-decisions.json"),
]
#: Other files for the same thing.
_CANDIDATES = {"Quay seat": ("seat-dense.glb", "seat-plain.glb")}


def main() -> None:
    """Migrate; a house that never had a job gets the demo's, the others' jobs are brought up to date."""
    migrate()

    with session() as s:
        if s.scalar(text("SELECT is_called FROM jobs_id_seq")):
            defer(s, "catch_up")
            return
        for title, sources, decided in _JOBS:
            first, *others = (_kept(name) for name in sources)
            job = create_job(s, title, [first], Decisions.model_validate_json((_DEMO / decided).read_bytes()))
            for item in others:
                add_source(s, job.id, [item])
            for name in _CANDIDATES.get(title, ()):
                s.flush()
                add_candidate(s, job.id, sources_of(s, job.id)[0].source.ref, [_kept(name)])


def _kept(name: str) -> dict[str, Any]:
    """The demo file among the sources, as an upload would leave it."""
    data = (_DEMO / name).read_bytes()
    sha256 = hashlib.sha256(data).hexdigest()
    if not blobs.exists(f"sources/{sha256}"):
        blobs.put(f"sources/{sha256}", data)
    return {"name": name, "sha256": sha256, "bytes": len(data)}


if __name__ == "__main__":
    main()
