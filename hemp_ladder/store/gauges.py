"""What was measured of meshes that are not kept."""

from collections.abc import Collection, Mapping
from typing import Any

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from hemp_ladder.store.database import among
from hemp_ladder.store.tables import GaugeRow


def gauges_of(session: Session, keys: Collection[str]) -> dict[str, dict[str, Any]]:
    """What was measured, by key, of those that were; `why` where that could not be done."""
    rows = session.execute(select(GaugeRow.key, GaugeRow.told).where(among(GaugeRow.key, list(keys))))
    return dict(row for row in rows.tuples())


def put_gauges(session: Session, told: Mapping[str, Mapping[str, Any]]) -> None:
    """Keep what was measured; what another measured meanwhile stays."""
    if told:
        rows = [{"key": key, "told": dict(values)} for key, values in told.items()]
        session.execute(insert(GaugeRow).on_conflict_do_nothing(), rows)
