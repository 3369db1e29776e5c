"""What the routers are given."""

from __future__ import annotations

import asyncio
from concurrent.futures import Future
from typing import Annotated, TypeVar

from fastapi import Depends, Path, Query, Request

from bisectum.core.patterns import CLOTH_ID, ITEM_ID
from bisectum.services.bench import Bench
from bisectum.services.fonts import FontCase
from bisectum.services.rooms import Rooms
from bisectum.services.scanner import Scanner
from bisectum.services.shelf import Shelf
from bisectum.services.stocks import StockRoom

T = TypeVar("T")


def _rooms(request: Request) -> Rooms:
    rooms: Rooms = request.app.state.rooms
    return rooms


RoomsDep = Annotated[Rooms, Depends(_rooms)]


def _bench(rooms: RoomsDep) -> Bench:
    return rooms.bench


def _stock_room(rooms: RoomsDep) -> StockRoom:
    return rooms.stock_room


def _shelf(rooms: RoomsDep) -> Shelf:
    return rooms.shelf


def _font_case(rooms: RoomsDep) -> FontCase:
    return rooms.font_case


def _scanner(rooms: RoomsDep) -> Scanner:
    return rooms.scanner


async def waited(future: Future[T]) -> T:
    """What a future brings, without holding a thread. A request that is given up leaves the work to others who wait."""
    return await asyncio.shield(asyncio.wrap_future(future))


StockRoomDep = Annotated[StockRoom, Depends(_stock_room)]
FontCaseDep = Annotated[FontCase, Depends(_font_case)]
ScannerDep = Annotated[Scanner, Depends(_scanner)]
ShelfDep = Annotated[Shelf, Depends(_shelf)]
BenchDep = Annotated[Bench, Depends(_bench)]
JobId = Annotated[int, Path(ge=1, le=2**63 - 1)]
ClothId = Annotated[str, Path(pattern=CLOTH_ID)]
Cloth = Annotated[str, Query(pattern=f"^$|{CLOTH_ID}", description="A cloth of the job; none for its own.")]
ItemId = Annotated[str, Path(pattern=ITEM_ID)]
