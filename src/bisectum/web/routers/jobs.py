"""The shelf: jobs come, are renamed, go; their pictures come and go; undo, redo and history."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Form, Query, UploadFile
from fastapi.responses import FileResponse, Response

from bisectum.core.errors import NotFoundError
from bisectum.services.decode import MOST_BYTES
from bisectum.web.deps import BenchDep, ItemId, JobId
from bisectum.web.schemas.jobs import (
    At,
    Changed,
    ChangeOut,
    JobOut,
    JobSummaryOut,
    Move,
    Rename,
    Resize,
    ShelfOut,
)

router = APIRouter(prefix="/api/jobs", tags=["jobs"])


@router.get("")
def list_jobs(bench: BenchDep) -> ShelfOut:
    return ShelfOut(jobs=[JobSummaryOut.of(job) for job in bench.jobs()], freed_bytes=bench.freed)


@router.post("", status_code=201)
def bring_in(bench: BenchDep, picture: Annotated[UploadFile, File()]) -> JobOut:
    """A new job from a picture."""
    return JobOut.of(bench.new_job(picture.file.read(MOST_BYTES + 1), picture.filename or ""))


@router.get("/{job_id}")
def get_job(bench: BenchDep, job_id: JobId) -> JobOut:
    return JobOut.of(bench.job(job_id))


@router.put("/{job_id}/name")
def rename(bench: BenchDep, job_id: JobId, body: Rename) -> Changed:
    return Changed.of(bench.rename(job_id, body.revision, body.name, body.ticket))


@router.put("/{job_id}/size")
def resize(bench: BenchDep, job_id: JobId, body: Resize) -> JobOut:
    """Make everything larger or smaller together, so that the page is so wide."""
    return JobOut.of(bench.resize(job_id, body.revision, body.width_mm, body.ticket))


@router.delete("/{job_id}", status_code=204)
def delete(bench: BenchDep, job_id: JobId) -> None:
    bench.delete(job_id)


@router.post("/{job_id}/items", status_code=201)
def bring_in_another(
    bench: BenchDep, job_id: JobId, revision: Annotated[int, Form(ge=0, le=2**63 - 1)], picture: Annotated[UploadFile, File()]
) -> JobOut:
    """Another picture into a job."""
    return JobOut.of(bench.bring_in(job_id, revision, picture.file.read(MOST_BYTES + 1), picture.filename or ""))


@router.put("/{job_id}/items/{item_id}/name")
def rename_item(bench: BenchDep, job_id: JobId, item_id: ItemId, body: Rename) -> JobOut:
    return JobOut.of(bench.rename_item(job_id, body.revision, item_id, body.name, body.ticket))


@router.put("/{job_id}/items/{item_id}/order")
def move_item(bench: BenchDep, job_id: JobId, item_id: ItemId, body: Move) -> JobOut:
    """Put an item at another place among the others, 0 the lowest."""
    return JobOut.of(bench.move_item(job_id, body.revision, item_id, body.place, body.ticket))


@router.post("/{job_id}/items/{item_id}/taken-out")
def take_out_item(bench: BenchDep, job_id: JobId, item_id: ItemId, body: At) -> JobOut:
    return JobOut.of(bench.take_out_item(job_id, body.revision, item_id, body.ticket))


@router.post("/{job_id}/undo")
def undo(bench: BenchDep, job_id: JobId, body: At) -> JobOut:
    return JobOut.of(bench.undo(job_id, body.revision))


@router.post("/{job_id}/redo")
def redo(bench: BenchDep, job_id: JobId, body: At) -> JobOut:
    return JobOut.of(bench.redo(job_id, body.revision))


@router.get("/{job_id}/history")
def history(bench: BenchDep, job_id: JobId) -> list[ChangeOut]:
    return [ChangeOut.of(change) for change in bench.history(job_id)]


@router.get("/{job_id}/thumbnail", response_class=FileResponse)
def thumbnail(bench: BenchDep, job_id: JobId, v: Annotated[str | None, Query(max_length=80)] = None) -> Response:
    path = bench.thumbnail(job_id)
    if path is None:
        raise NotFoundError("This job has no picture yet.", code="thumbnail_missing")
    return FileResponse(path, media_type="image/png", headers={"Cache-Control": "no-cache"})
