"""The cut check of a job, and what mends its findings."""

from __future__ import annotations

from concurrent.futures import Future

from fastapi import APIRouter
from fastapi.concurrency import run_in_threadpool

from bisectum.services.results import Shown
from bisectum.web.deps import BenchDep, Cloth, JobId, waited
from bisectum.web.schemas.check import CheckOut, RepairChange, RepairPreview
from bisectum.web.schemas.jobs import JobOut
from bisectum.web.schemas.results import ResultOut

router = APIRouter(prefix="/api/jobs", tags=["check"])


@router.get("/{job_id}/check")
async def check(bench: BenchDep, job_id: JobId, cloth: Cloth = "") -> CheckOut:
    """The cut check of the job as it stands, for one of its cloths. A newer question of the job ends older ones with 409."""
    job = await run_in_threadpool(bench.job, job_id)
    found = await waited(await run_in_threadpool(bench.results.check, job, cloth))
    return await run_in_threadpool(CheckOut.of, found, job.document.make.check)


@router.post("/{job_id}/repairs")
def repair(bench: BenchDep, job_id: JobId, body: RepairChange) -> JobOut:
    """Mend findings: one revision, one undo."""
    return JobOut.of(bench.repair(job_id, body.revision, body.code, body.repairing(), body.ticket))


@router.post("/{job_id}/repairs/preview")
async def preview_repair(bench: BenchDep, job_id: JobId, body: RepairPreview) -> ResultOut:
    """What repairs would give, on reduced pictures."""
    def order() -> Future[Shown]:
        return bench.results.preview(job_id, bench.repaired(bench.job(job_id).document, body.repairing()))

    return await run_in_threadpool(ResultOut.of, await waited(await run_in_threadpool(order)))
