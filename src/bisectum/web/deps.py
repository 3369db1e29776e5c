"""What the routers are given."""

from __future__ import annotations

import asyncio
from concurrent.futures import Future
from typing import Annotated, TypeVar

from fastapi import Depends, Path, Query, Request

from bisectum.core.patterns import CLOTH_ID, ITEM_ID
from bisectum.services.bench import Bench
from bisectum.services.fonts import FontCase
from bisectum.services.shelf import Shelf
from bisectum.services.stocks import StockRoom

T = TypeVar("T")


def _bench(request: Request) -> Bench:
    bench: Bench = request.app.state.bench
    return bench


def _stock_room(request: Request) -> StockRoom:
    room: StockRoom = request.app.state.stock_room
    return room


def _shelf(request: Request) -> Shelf:
    shelf: Shelf = request.app.state.shelf
    return shelf


def _font_case(request: Request) -> FontCase:
    case: FontCase = request.app.state.font_case
    return case


async def waited(future: Future[T]) -> T:
    """What a future brings, without holding a thread. A request that is given up leaves the work to others who wait."""
    return await asyncio.shield(asyncio.wrap_future(future))


StockRoomDep = Annotated[StockRoom, Depends(_stock_room)]
FontCaseDep = Annotated[FontCase, Depends(_font_case)]
ShelfDep = Annotated[Shelf, Depends(_shelf)]
BenchDep = Annotated[Bench, Depends(_bench)]
JobId = Annotated[int, Path(ge=1, le=2**63 - 1)]
ClothId = Annotated[str, Path(pattern=CLOTH_ID)]
Cloth = Annotated[str, Query(pattern=f"^$|{CLOTH_ID}", description="A cloth of the job; none for its own.")]
ItemId = Annotated[str, Path(pattern=ITEM_ID)]
