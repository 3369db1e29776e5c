"""What left the house: which file of a job was taken along, when, and in which state."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import delete, select

from bisectum.store.database import Database
from bisectum.store.tables import LeftRow

MOST_KEPT = 200  # of one job; older ones are forgotten


@dataclass(frozen=True, slots=True)
class Left:
    """name: of the file; state: names what it was made from, equal as long as the job is as it was."""

    name: str
    state: str
    at: datetime


class Leavings:
    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, job_id: int, name: str, state: str) -> None:
        with self._database.writing() as session:
            session.add(LeftRow(job=job_id, name=name[:200], state=state, at=datetime.now(UTC)))
            old = session.scalars(select(LeftRow.id).where(LeftRow.job == job_id).order_by(LeftRow.id.desc()).offset(MOST_KEPT))
            session.execute(delete(LeftRow).where(LeftRow.id.in_(old.all())))

    def of(self, job_id: int) -> list[Left]:
        """The last first."""
        with self._database.reading() as session:
            rows = session.scalars(select(LeftRow).where(LeftRow.job == job_id).order_by(LeftRow.id.desc()))
            return [Left(row.name, row.state, row.at) for row in rows]
