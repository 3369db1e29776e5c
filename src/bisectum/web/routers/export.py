"""Files to carry to the cutter, what the stand-in cutter makes of them, and jobs as bundles."""

from __future__ import annotations

from functools import partial
from typing import IO, Annotated
from urllib.parse import quote

from fastapi import APIRouter, Path, Query
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response, StreamingResponse
from starlette.background import BackgroundTask

from bisectum.core.formats.exporters import Wishes, exporter
from bisectum.core.formats.lines import CUT_SPOT
from bisectum.core.formats.pdf.build_sheet import Paper
from bisectum.core.formats.png.write import DPI
from bisectum.core.formats.selection import Drawn, Selection
from bisectum.core.steps.layers.settings import MOST_LAYERS
from bisectum.services.build_sheet import pages_of
from bisectum.services.export import Per, Wanted
from bisectum.services.sheets import plain
from bisectum.web.deps import BenchDep, Cloth, ItemId, JobId, ShelfDep, waited
from bisectum.web.schemas.files import CutOut, LeftOut

router = APIRouter(prefix="/api/jobs", tags=["export"])
SheetNumber = Annotated[int, Path(ge=1, le=10**6)]
SPOT = r"^[A-Za-z0-9][A-Za-z0-9 _.-]{0,59}$"
Kind = Annotated[str, Path(pattern=r"^[a-z]{2,12}$")]
LayerNumbers = Annotated[list[Annotated[int, Query(ge=1, le=MOST_LAYERS)]], Query(max_length=MOST_LAYERS)]


@router.get("/{job_id}/files/{kind}", response_class=Response)
async def export(
    bench: BenchDep, job_id: JobId, kind: Kind, cloth: Cloth = "", per: Per = "make", drawn: Drawn = "filled",
    layers: LayerNumbers = [],  # noqa: B006
    dpi: Annotated[int, Query(ge=30, le=1200)] = DPI, spot: Annotated[str, Query(pattern=SPOT)] = CUT_SPOT,
) -> Response:
    """Files of the job, read back and compared before they are handed over; several as a ZIP archive. layers: from 1, none for
    all. dpi: of a PNG; spot: what the spot colour of cut lines is called in a PDF."""
    wanted = Wanted(kind, per, cloth, Selection(drawn, tuple(number - 1 for number in layers)), Wishes(dpi, spot))
    job = await run_in_threadpool(bench.job, job_id)
    name, media_type, data = await waited(await run_in_threadpool(bench.export, job_id, wanted))
    await run_in_threadpool(bench.took_along, job, name, True, cloth)
    return download(data, name, media_type)


@router.get("/{job_id}/sheets/files/{kind}", response_class=Response)
async def sheets(bench: BenchDep, job_id: JobId, kind: Kind, cloth: Cloth = "") -> Response:
    """All sheets of the job as a ZIP archive, each read back and compared."""
    job = await run_in_threadpool(bench.job, job_id)
    name, work = await run_in_threadpool(bench.sheets_archive, job_id, kind, cloth)
    data = await waited(work)
    await run_in_threadpool(bench.took_along, job, name, True, cloth)
    return download(data, name, "application/zip")


@router.get("/{job_id}/sheets/{number}/files/{kind}", response_class=Response)
async def sheet(bench: BenchDep, job_id: JobId, number: SheetNumber, kind: Kind, cloth: Cloth = "") -> Response:
    """One sheet of the job, read back and compared. number: from 1."""
    chosen = exporter(kind)
    job = await run_in_threadpool(bench.job, job_id)
    name, data = await waited(await run_in_threadpool(bench.results.sheet_file, job, cloth, kind, number - 1))
    await run_in_threadpool(bench.took_along, job, name, True, cloth)
    return download(data, name, chosen.media_type)


@router.get("/{job_id}/sheets/{number}/cut")
async def cut(bench: BenchDep, job_id: JobId, number: SheetNumber, cloth: Cloth = "") -> CutOut:
    """A sheet's file, cut by the stand-in cutter: its way, what comes free, and how that differs from what was meant."""
    job = await run_in_threadpool(bench.job, job_id)
    done = await waited(await run_in_threadpool(bench.results.cut, job, cloth, number - 1))
    return await run_in_threadpool(CutOut.of, done)


@router.get("/{job_id}/build-sheet", response_class=Response)
async def build_sheet(bench: BenchDep, job_id: JobId, cloth: Cloth = "", paper: Paper = "a4") -> Response:
    """The build sheet of the job, PDF."""
    job = await run_in_threadpool(bench.job, job_id)
    data = await waited(await run_in_threadpool(bench.results.build_sheet, job, cloth, paper))
    return download(data, f"{plain(job.document.name)}-build-sheet.pdf", "application/pdf")


@router.get("/{job_id}/build-sheet/pages/{page}", response_class=Response)
async def build_sheet_page(
    bench: BenchDep, job_id: JobId, page: Annotated[int, Path(ge=1, le=99)], cloth: Cloth = "", paper: Paper = "a4"
) -> Response:
    """A page of the build sheet for the screen, PNG; the header X-Pages says how many there are."""
    job = await run_in_threadpool(bench.job, job_id)
    data = await waited(await run_in_threadpool(bench.results.build_sheet, job, cloth, paper))
    pages = await run_in_threadpool(pages_of, data)
    return Response(pages[min(page, len(pages)) - 1], media_type="image/png",
                    headers={"X-Pages": str(len(pages)), "Cache-Control": "no-store"})


@router.get("/{job_id}/items/{item_id}/cleared", response_class=Response)
async def cleared(bench: BenchDep, job_id: JobId, item_id: ItemId) -> Response:
    """The picture of an item without its background, PNG."""
    job = await run_in_threadpool(bench.job, job_id)
    data = await waited(await run_in_threadpool(bench.results.cleared, job.document, item_id))
    name = f"{plain(job.document.item(item_id).name)}-cleared.png"
    await run_in_threadpool(bench.took_along, job, name, False)
    return download(data, name, "image/png")


@router.get("/{job_id}/left")
def left(bench: BenchDep, job_id: JobId) -> list[LeftOut]:
    """What of the job was taken along, the last first."""
    return [LeftOut(name=one.name, at=one.at, unchanged=unchanged) for one, unchanged in bench.left(job_id)]


@router.get("/{job_id}/bundle", response_class=Response)
def bundle(shelf: ShelfDep, job_id: JobId) -> Response:
    """The job's document as it is kept, and its pictures, as a ZIP archive; also of a job that cannot be opened."""
    return handed_out(*shelf.take_out([job_id]))


def handed_out(name: str, file: IO[bytes]) -> Response:
    """A bundle part by part, so that it need not be in memory as a whole."""
    parts = iter(partial(file.read, 2**20), b"")
    return StreamingResponse(parts, media_type="application/zip", headers=_named(name), background=BackgroundTask(file.close))


def download(data: bytes, name: str, media_type: str) -> Response:
    return Response(data, media_type=media_type, headers=_named(name))


def _named(name: str) -> dict[str, str]:
    return {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}", "Cache-Control": "no-store"}
