"""Try-outs: treatments of an item's picture made side by side. Nothing here changes the job."""

from __future__ import annotations

from fastapi import APIRouter
from fastapi.concurrency import run_in_threadpool

from bisectum.web.deps import BenchDep, ItemId, JobId, waited
from bisectum.web.schemas.tryouts import RecipeOut, RecipesAsked, TreatmentBody, TriedOut

router = APIRouter(prefix="/api/jobs/{job_id}/items/{item_id}/try-outs", tags=["try-outs"])


@router.post("/recipes")
async def recipes(bench: BenchDep, job_id: JobId, item_id: ItemId, body: RecipesAsked) -> list[RecipeOut]:
    """What is worth trying: treatments of all kinds, or variants of one."""
    work = await run_in_threadpool(
        lambda: bench.results.recipes(job_id, bench.job(job_id).document, item_id, body.treatment(), body.like_this))
    return [RecipeOut.of(recipe) for recipe in await waited(work)]


@router.post("")
async def try_out(bench: BenchDep, job_id: JobId, item_id: ItemId, body: TreatmentBody) -> TriedOut:
    """A treatment as a real small result. A newer request of the job ends older ones with 409."""
    work = await run_in_threadpool(lambda: bench.results.tried(job_id, bench.job(job_id).document, item_id, body.treatment()))
    return TriedOut.of(await waited(work))
