"""Mats, rolls and cards of the person's own, as one list that is kept whole or not at all."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import delete, select

from bisectum.core.steps.sheets.settings import Carrier
from bisectum.store.database import Database
from bisectum.store.tables import CarrierRow


class Carriers:
    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> tuple[Carrier, ...]:
        """In the order of the table."""
        with self._database.reading() as session:
            rows = session.scalars(select(CarrierRow).order_by(CarrierRow.place, CarrierRow.id))
            return tuple(Carrier.model_validate({name: getattr(row, name) for name in Carrier.model_fields}) for row in rows)

    def replace(self, carriers: Sequence[Carrier]) -> None:
        """Put these in place of all."""
        with self._database.writing() as session:
            session.execute(delete(CarrierRow))
            session.add_all(CarrierRow(place=place, **one.model_dump()) for place, one in enumerate(carriers))
