"""The shelf: jobs come, are renamed, go; undo, redo and history."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Query, UploadFile
from fastapi.responses import FileResponse, Response

from bisectum.core.errors import NotFoundError
from bisectum.services.decode import MOST_BYTES
from bisectum.web.deps import BenchDep, JobId
from bisectum.web.schemas.jobs import ChangeOut, JobOut, JobSummary, Rename

router = APIRouter(prefix="/api/jobs", tags=["jobs"])


@router.get("")
def list_jobs(bench: BenchDep) -> list[JobSummary]:
    return [JobSummary.of(job) for job in bench.jobs()]


@router.post("", status_code=201)
def bring_in(bench: BenchDep, picture: Annotated[UploadFile, File()]) -> JobOut:
    """A new job from a picture."""
    data = picture.file.read(MOST_BYTES + 1)
    return JobOut.of(bench.new_job(data, picture.filename or ""))


@router.get("/{job_id}")
def get_job(bench: BenchDep, job_id: JobId) -> JobOut:
    return JobOut.of(bench.job(job_id))


@router.put("/{job_id}/name")
def rename(bench: BenchDep, job_id: JobId, body: Rename) -> JobOut:
    return JobOut.of(bench.rename(job_id, body.revision, body.name))


@router.delete("/{job_id}", status_code=204)
def delete(bench: BenchDep, job_id: JobId) -> None:
    bench.delete(job_id)


@router.post("/{job_id}/undo")
def undo(bench: BenchDep, job_id: JobId) -> JobOut:
    return JobOut.of(bench.undo(job_id))


@router.post("/{job_id}/redo")
def redo(bench: BenchDep, job_id: JobId) -> JobOut:
    return JobOut.of(bench.redo(job_id))


@router.get("/{job_id}/history")
def history(bench: BenchDep, job_id: JobId) -> list[ChangeOut]:
    return [ChangeOut.of(change) for change in bench.history(job_id)]


@router.get("/{job_id}/thumbnail", response_class=FileResponse)
def thumbnail(bench: BenchDep, job_id: JobId, v: Annotated[str | None, Query()] = None) -> Response:
    path = bench.thumbnail(job_id)
    if path is None:
        raise NotFoundError("This job has no picture yet.", code="thumbnail_missing")
    return FileResponse(path, media_type="image/png", headers={"Cache-Control": "no-cache"})


@router.get("/{job_id}/picture", response_class=Response)
def picture(bench: BenchDep, job_id: JobId) -> Response:
    """The picture for the stage, PNG."""
    return Response(bench.picture(job_id), media_type="image/png", headers={"Cache-Control": "no-cache"})
