"""What was done once and for all."""

from __future__ import annotations

from bisectum.store.database import Database
from bisectum.store.tables import FlagRow


class Flags:
    def __init__(self, database: Database) -> None:
        self._database = database

    def is_set(self, name: str) -> bool:
        """Whether `set` was called with this name, in this data folder, ever."""
        with self._database.reading() as session:
            return session.get(FlagRow, name) is not None

    def set(self, name: str) -> None:
        with self._database.writing() as session:
            if session.get(FlagRow, name) is None:
                session.add(FlagRow(name=name))
