"""The stand-in scanner: what lies on its glass, a first look, and scans."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Path, UploadFile
from fastapi.responses import Response

from bisectum.services.decode import MOST_BYTES
from bisectum.web.deps import ScannerDep
from bisectum.web.routers.export import download
from bisectum.web.schemas.scanner import GlassOut, Scanning

router = APIRouter(prefix="/api/scanner", tags=["scanner"])


@router.get("")
def glass(scanner: ScannerDep) -> GlassOut:
    """What lies on the glass, and what the scanner can do."""
    return GlassOut.of(scanner.originals())


@router.get("/look", response_class=Response)
def look(scanner: ScannerDep) -> Response:
    """The whole glass at a low resolution, PNG."""
    return Response(scanner.look(), media_type="image/png", headers={"Cache-Control": "no-store"})


@router.post("/scan", response_class=Response)
def scan(scanner: ScannerDep, body: Scanning) -> Response:
    """An area of the glass as a PNG with its resolution in it."""
    name, data = scanner.scan((body.x, body.y, body.width, body.height), body.dpi, body.grey)
    return download(data, name, "image/png")


@router.post("/glass", status_code=201)
def put(scanner: ScannerDep, picture: Annotated[UploadFile, File()]) -> GlassOut:
    """Put a picture of one's own onto the glass."""
    scanner.put(picture.file.read(MOST_BYTES + 1), picture.filename or "")
    return GlassOut.of(scanner.originals())


@router.delete("/glass/{name}")
def take_off(scanner: ScannerDep, name: Annotated[str, Path(max_length=80)]) -> GlassOut:
    """Take a picture of one's own off the glass."""
    scanner.take_off(name)
    return GlassOut.of(scanner.originals())
