"""The drawer of materials."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form, UploadFile
from fastapi.responses import Response

from bisectum.core.errors import SettingsError
from bisectum.core.raster.colour import rgb_of
from bisectum.web.deps import StockRoomDep
from bisectum.web.schemas.stocks import CarriersChange, CarriersOut, DrawerChange, DrawerOut, MatchesOut, MatchQuestion

router = APIRouter(prefix="/api/stocks", tags=["stocks"])
MOST_BYTES = 2_000_000


@router.get("")
def drawer(room: StockRoomDep) -> DrawerOut:
    return DrawerOut.of(room.drawer(), room.used())


@router.put("")
def replace(room: StockRoomDep, body: DrawerChange) -> DrawerOut:
    """Put these in place of all. Answers 409 where the drawer has been changed meanwhile."""
    return DrawerOut.of(room.replace(body.version, [one.stock() for one in body.stocks]), room.used())


@router.post("/csv")
def bring_in(
    room: StockRoomDep, file: UploadFile, version: Annotated[str, Form(max_length=64)], add: Annotated[bool, Form()] = True
) -> DrawerOut:
    """Stocks from a CSV file, after those that are there or in their place."""
    data = file.file.read(MOST_BYTES + 1)
    if len(data) > MOST_BYTES:
        raise SettingsError("This file is too large for a list of stocks; 2 MB is the most.", code="stocks_too_large")
    return DrawerOut.of(room.bring_in(version, data, add), room.used())


@router.get("/csv", response_class=Response)
def as_csv(room: StockRoomDep) -> Response:
    return Response(room.as_csv(), media_type="text/csv; charset=utf-8",
                    headers={"Content-Disposition": 'attachment; filename="stocks.csv"', "Cache-Control": "no-store"})


@router.post("/match")
def match(room: StockRoomDep, body: MatchQuestion) -> MatchesOut:
    """The nearest stock for each colour, by CIEDE2000."""
    try:
        colours = [rgb_of(colour) for colour in body.colours]
    except ValueError as error:
        raise SettingsError(f"“{error}” is no colour; write one such as #2f5d7c.") from error
    return MatchesOut.of(room.match(colours, body.kind))


@router.get("/carriers")
def carriers(room: StockRoomDep) -> CarriersOut:
    """Mats, rolls and cards."""
    shipped, own = room.carriers()
    return CarriersOut(shipped=list(shipped), own=list(own))


@router.put("/carriers")
def keep_carriers(room: StockRoomDep, body: CarriersChange) -> CarriersOut:
    """Put these in place of all of the person's own."""
    room.keep_carriers(body.own)
    return carriers(room)
