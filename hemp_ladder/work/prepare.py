"""`python -m hemp_ladder.work.prepare`: bring the schema up to date and lay the demo in, once."""

import hashlib

from sqlalchemy import text

from hemp_ladder.core.decisions import Decisions
from hemp_ladder.store import blobs
from hemp_ladder.store.config import ROOT
from hemp_ladder.store.database import migrate, session
from hemp_ladder.work.actions import create_job
from hemp_ladder.work.queue import defer

_DEMO = ROOT / "demo" / "gull-rock-lantern.step"


def main() -> None:
    """Migrate; a house that never had a job gets the demo's, the others' jobs are brought up to date."""
    migrate()

    with session() as s:
        if s.scalar(text("SELECT is_called FROM jobs_id_seq")):
            defer(s, "catch_up")
            return
        data = _DEMO.read_bytes()
        sha256 = hashlib.sha256(data).hexdigest()
        if not blobs.exists(f"sources/{sha256}"):
            blobs.put(f"sources/{sha256}", data)
        create_job(s, "Gull Rock lantern", [{"name": _DEMO.name, "sha256": sha256, "bytes": len(data)}], _decided())


def _decided() -> Decisions:
    """Where an artist might stand after the first five minutes: the glass and metal named, loose ends left."""
    return Decisions.model_validate_json(_DEMO.with_name("gull-rock-decisions.json").read_bytes())


if __name__ == "__main__":
    main()
