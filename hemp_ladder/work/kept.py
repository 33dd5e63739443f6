"""What is kept by a name for other jobs: documents of several kinds, one of a name in each."""

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from hemp_ladder.store.tables import KeptRow
from hemp_ladder.work.sources import NothingThere


def kept(session: Session, kind: str) -> list[KeptRow]:
    """All of a kind, by name."""
    return list(session.scalars(select(KeptRow).where(KeptRow.kind == kind).order_by(KeptRow.name)))


def keep(session: Session, kind: str, name: str, document: dict[str, Any]) -> None:
    """Keep a document; one of that name gives way."""
    row = session.scalar(select(KeptRow).where(KeptRow.kind == kind, KeptRow.name == name))
    if row is None:
        session.add(KeptRow(kind=kind, name=name, document=document))
    else:
        row.document = document


def one_kept(session: Session, kind: str, number: int) -> KeptRow:
    """One of a kind. Raises NothingThere for one that is not kept any more."""
    row = session.get(KeptRow, number)
    if row is None or row.kind != kind:
        raise NothingThere("That is not kept any more.")
    return row


def forget(session: Session, kind: str, number: int) -> None:
    row = session.get(KeptRow, number)
    if row is not None and row.kind == kind:
        session.delete(row)
