"""The drawer: the materials a person has, as one list that is kept whole or not at all."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import cast

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from bisectum.core.errors import ConflictError
from bisectum.core.model.stock import Stock, StockKind
from bisectum.core.raster.colour import rgb_of
from bisectum.store.database import Database
from bisectum.store.tables import StockRow


@dataclass(frozen=True, slots=True)
class Drawer:
    """stocks in the order of the table. version: changes with every change of them."""

    stocks: tuple[Stock, ...]

    @property
    def version(self) -> str:
        return hashlib.sha256(repr(self.stocks).encode()).hexdigest()[:16]


class Stocks:
    def __init__(self, database: Database) -> None:
        self._database = database

    def drawer(self) -> Drawer:
        with self._database.reading() as session:
            return _drawer(session)

    def replace(self, expected: str, stocks: Sequence[Stock]) -> Drawer:
        """Put these in place of all. expected: the version that is replaced. Raises: ConflictError; BrokenStructure."""
        for stock in stocks:
            stock.check()
        with self._database.writing() as session:
            if _drawer(session).version != expected:
                raise ConflictError("The drawer has been changed in another window; it is shown anew.", code="drawer_moved_on")
            session.execute(delete(StockRow))
            session.add_all(
                StockRow(place=place, name=stock.name, kind=stock.kind, colour=stock.colour, width_mm=stock.width_mm,
                         height_mm=stock.height_mm, on_hand=stock.on_hand, finish=stock.finish, code=stock.id,
                         patterned=stock.patterned)
                for place, stock in enumerate(_with_ids(stocks))
            )
            session.flush()
            return _drawer(session)


def _with_ids(stocks: Sequence[Stock]) -> list[Stock]:
    """Each with an id that no other one has or had: jobs may know one that is in the drawer no more."""
    taken: set[str] = set()
    result = []
    for stock in stocks:
        name = stock.id
        while not name or name in taken:
            name = f"stock-{secrets.randbelow(10**9)}"
        taken.add(name)
        result.append(replace(stock, id=name))
    return result


def _drawer(session: Session) -> Drawer:
    rows = session.scalars(select(StockRow).order_by(StockRow.place, StockRow.id))
    return Drawer(tuple(
        Stock(row.name, cast(StockKind, row.kind), rgb_of(row.colour), row.width_mm, row.height_mm, row.on_hand, row.finish,
              row.patterned, row.code)
        for row in rows
    ))
