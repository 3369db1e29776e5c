"""Files to carry to the cutter, and jobs as bundles."""

from __future__ import annotations

from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Path
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response

from bisectum.core.formats.exporters import exporter
from bisectum.web.deps import BenchDep, Cloth, JobId, waited

router = APIRouter(prefix="/api/jobs", tags=["export"])
SheetNumber = Annotated[int, Path(ge=1, le=10**6)]
Kind = Annotated[str, Path(pattern=r"^[a-z]{2,12}$")]


@router.get("/{job_id}/files/{kind}", response_class=Response)
async def export(bench: BenchDep, job_id: JobId, kind: Kind, cloth: Cloth = "") -> Response:
    """A file of the job, for one of its cloths, read back and compared before it is handed over."""
    name, media_type, work = await run_in_threadpool(bench.export, job_id, kind, cloth)
    return _download(await waited(work), name, media_type)


@router.get("/{job_id}/sheets/files/{kind}", response_class=Response)
async def sheets(bench: BenchDep, job_id: JobId, kind: Kind, cloth: Cloth = "") -> Response:
    """All sheets of the job as a ZIP archive, each read back and compared."""
    name, work = await run_in_threadpool(bench.sheets_archive, job_id, kind, cloth)
    return _download(await waited(work), name, "application/zip")


@router.get("/{job_id}/sheets/{number}/files/{kind}", response_class=Response)
async def sheet(bench: BenchDep, job_id: JobId, number: SheetNumber, kind: Kind, cloth: Cloth = "") -> Response:
    """One sheet of the job, read back and compared. number: from 1."""
    chosen = exporter(kind)
    work = await run_in_threadpool(lambda: bench.results.sheet_file(bench.job(job_id), cloth, kind, number - 1))
    name, data = await waited(work)
    return _download(data, name, chosen.media_type)


@router.get("/{job_id}/bundle", response_class=Response)
def bundle(bench: BenchDep, job_id: JobId) -> Response:
    """The job's document as it is kept, and its pictures, as a ZIP archive; also of a job that cannot be opened."""
    name, data = bench.bundle(job_id)
    return _download(data, name, "application/zip")


def _download(data: bytes, name: str, media_type: str) -> Response:
    return Response(data, media_type=media_type, headers={
        "Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}", "Cache-Control": "no-store"})
