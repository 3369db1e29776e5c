"""The person's own fonts: files that are kept, and what they are called."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.dialects.sqlite import insert

from bisectum.store.database import Database
from bisectum.store.tables import FontRow


@dataclass(frozen=True, slots=True)
class OwnFont:
    """sha256: of its file's bytes, by which lettering names it."""

    sha256: str
    name: str


class OwnFonts:
    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> list[OwnFont]:
        """By name."""
        with self._database.reading() as session:
            rows = session.scalars(select(FontRow).order_by(FontRow.name, FontRow.sha256))
            return [OwnFont(row.sha256, row.name) for row in rows]

    def add(self, font: OwnFont) -> None:
        """Keep one; nothing where it is there already."""
        with self._database.writing() as session:
            session.execute(insert(FontRow).values(sha256=font.sha256, name=font.name).on_conflict_do_nothing())
