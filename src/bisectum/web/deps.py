"""What the routers are given."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Path, Request

from bisectum.services.bench import Bench
from bisectum.services.stocks import StockRoom


def _bench(request: Request) -> Bench:
    bench: Bench = request.app.state.bench
    return bench


def _stock_room(request: Request) -> StockRoom:
    room: StockRoom = request.app.state.stock_room
    return room


StockRoomDep = Annotated[StockRoom, Depends(_stock_room)]
BenchDep = Annotated[Bench, Depends(_bench)]
JobId = Annotated[int, Path(ge=1, le=2**63 - 1)]
