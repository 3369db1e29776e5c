"""What was used of each stock: written down when files are taken along, once for each state of a job."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import func, select
from sqlalchemy.dialects.sqlite import insert

from bisectum.store.database import Database
from bisectum.store.tables import UsageRow


@dataclass(frozen=True, slots=True)
class Usage:
    """Of one stock. taken_mm2: of material that is gone; makes: how many it went into."""

    taken_mm2: float
    makes: int


class Usages:
    def __init__(self, database: Database) -> None:
        self._database = database

    def note(self, job_id: int, state: str, taken: Sequence[tuple[str, float]]) -> None:
        """Take note that a state of a job was taken along. taken: id of a stock and mm² of it. The same state again is the same
        make: it counts once, with what it took last."""
        now = datetime.now(UTC)
        rows = [{"stock": stock, "job": job_id, "state": state, "taken_mm2": mm2, "at": now} for stock, mm2 in taken]
        if not rows:
            return
        with self._database.writing() as session:
            new = insert(UsageRow).values(rows)
            session.execute(new.on_conflict_do_update(index_elements=["stock", "job", "state"],
                                                      set_={"taken_mm2": new.excluded.taken_mm2, "at": new.excluded.at}))

    def all(self) -> dict[str, Usage]:
        """By the id of the stock."""
        with self._database.reading() as session:
            found = session.execute(select(UsageRow.stock, func.sum(UsageRow.taken_mm2), func.count()).group_by(UsageRow.stock))
            return {stock: Usage(float(taken), int(makes)) for stock, taken, makes in found}
