"""Items that are no pictures, and how all items of a make lie."""

from __future__ import annotations

from concurrent.futures import Future

from fastapi import APIRouter
from fastapi.concurrency import run_in_threadpool

from bisectum.services.items import with_changes
from bisectum.services.results import Shown
from bisectum.web.deps import BenchDep, ItemId, JobId, waited
from bisectum.web.schemas.items import Copies, ItemsChange, ItemsMove, ItemsPreview, NewItemIn
from bisectum.web.schemas.jobs import JobOut
from bisectum.web.schemas.results import ResultOut

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["items"])


@router.post("/made", status_code=201)
def add(bench: BenchDep, job_id: JobId, body: NewItemIn) -> JobOut:
    """Lettering, a shape, a drawn line or a border into a job."""
    return JobOut.of(bench.add_made(job_id, body.revision, body.new(), body.ticket))


@router.put("/items")
def change(bench: BenchDep, job_id: JobId, body: ItemsChange) -> JobOut:
    """Places, parts, and what items are made from: of one or several, one revision, one undo."""
    return JobOut.of(bench.change_items(job_id, body.revision, body.items, body.did, body.ticket))


@router.put("/items/moved")
def move(bench: BenchDep, job_id: JobId, body: ItemsMove) -> JobOut:
    """Items moved, sized or lined up, from where they stand when the change is made."""
    return JobOut.of(bench.move_items(job_id, body.revision, body.how.moves, body.did, body.ticket, body.shifts))


@router.post("/items/preview")
async def preview(bench: BenchDep, job_id: JobId, body: ItemsPreview) -> ResultOut:
    """What such a change would give, on reduced pictures."""
    def order() -> Future[Shown]:
        return bench.results.preview(job_id, with_changes(bench.job(job_id).document, body.items))

    return await run_in_threadpool(ResultOut.of, await waited(await run_in_threadpool(order)))


@router.post("/items/{item_id}/copies", status_code=201)
def copy(bench: BenchDep, job_id: JobId, item_id: ItemId, body: Copies) -> JobOut:
    """Copies of an item right above it, each moved on from it."""
    return JobOut.of(bench.copy_item(job_id, body.revision, item_id, [one.move() for one in body.moves], body.ticket))
