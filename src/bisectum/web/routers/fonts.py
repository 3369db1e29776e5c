"""The fonts that lettering can be cut in."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Path, UploadFile
from fastapi.responses import Response

from bisectum.services.fonts import MOST_BYTES
from bisectum.web.deps import FontCaseDep
from bisectum.web.schemas.items import FontOut

router = APIRouter(prefix="/api/fonts", tags=["fonts"])
FontId = Annotated[str, Path(pattern=r"^[a-z0-9-]{2,64}$")]


@router.get("")
def list_fonts(case: FontCaseDep) -> list[FontOut]:
    return [FontOut.of(font) for font in case.all()]


@router.post("", status_code=201)
def bring_in(case: FontCaseDep, font: Annotated[UploadFile, File()]) -> FontOut:
    """A TrueType or OpenType font of one's own."""
    return FontOut.of(case.bring_in(font.file.read(MOST_BYTES + 1), font.filename or ""))


@router.get("/{font_id}/file", response_class=Response)
def file(case: FontCaseDep, font_id: FontId) -> Response:
    """The font's commonest characters, to show it by."""
    return Response(case.data(font_id), media_type="font/ttf", headers={"Cache-Control": "private, max-age=86400"})
