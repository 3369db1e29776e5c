"""The courses of a job's items and the steps of its make: change, preview, result, images, edge view."""

from __future__ import annotations

import asyncio
import json
import queue
from collections.abc import AsyncIterator, Callable
from concurrent.futures import Future
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response, StreamingResponse

from bisectum.core.course import StepName
from bisectum.core.errors import Cancelled, NotFoundError
from bisectum.core.job import MakeStep
from bisectum.core.steps.background.settings import Touch
from bisectum.core.steps.layers.edge_view import Axis
from bisectum.services.bench import Bench
from bisectum.services.progress_board import News
from bisectum.services.results import Shown
from bisectum.web.deps import BenchDep, Cloth, ClothId, ItemId, JobId, waited
from bisectum.web.schemas.jobs import At, Changed, JobOut, StepChange, StepPreview
from bisectum.web.schemas.results import BarOut, Dropped, PiecesOut, ResultOut
from bisectum.web.schemas.sheets import SheetsOut

router = APIRouter(prefix="/api", tags=["course"])
SeamPlace = Annotated[float, Query(ge=-1e6, le=1e6, allow_inf_nan=False)]
PicturePlace = Annotated[float, Query(ge=-100, le=100, allow_inf_nan=False)]
QUIET = 15.0  # seconds after which a sign of life is sent
NO_STORE = {"Cache-Control": "no-store"}


@router.put("/jobs/{job_id}/items/{item_id}/steps/{step}")
def change_step(bench: BenchDep, job_id: JobId, item_id: ItemId, step: StepName, body: StepChange) -> Changed:
    """Change settings of one step of an item: one revision, one undo. Answers 409 where the same was changed meanwhile."""
    return Changed.of(bench.change(job_id, body.revision, item_id, step, body.edits()))


@router.put("/jobs/{job_id}/make/{step}")
def change_make(bench: BenchDep, job_id: JobId, step: MakeStep, body: StepChange) -> JobOut:
    """Change settings of one step of the make: one revision, one undo. Layers without an id are given one."""
    return JobOut.of(bench.change_make(job_id, body.revision, step, body.edits()))


@router.post("/jobs/{job_id}/items/{item_id}/steps/{step}/preview")
async def preview_step(bench: BenchDep, job_id: JobId, item_id: ItemId, step: StepName, body: StepPreview) -> ResultOut:
    """What a change would give, on reduced pictures. A newer request of the job ends older ones with 409."""
    def order() -> Future[Shown]:
        return bench.results.preview(job_id, bench.edited(bench.job(job_id).document, item_id, step, body.edits()))

    return await _result(order)


@router.post("/jobs/{job_id}/make/{step}/preview")
async def preview_make(bench: BenchDep, job_id: JobId, step: MakeStep, body: StepPreview) -> ResultOut:
    """What a change of the make would give, on reduced pictures."""
    def order() -> Future[Shown]:
        return bench.results.preview(job_id, bench.edited_make(bench.job(job_id).document, step, body.edits()))

    return await _result(order)


async def _result(order: Callable[[], Future[Shown]]) -> ResultOut:
    return await run_in_threadpool(ResultOut.of, await waited(await run_in_threadpool(order)))


@router.post("/jobs/{job_id}/items/{item_id}/spot", response_class=Response)
async def spot(bench: BenchDep, job_id: JobId, item_id: ItemId, body: Touch) -> Response:
    """What a spot would take, as a PNG over the picture's frame. A newer question of the job ends older ones with 409."""
    data = await waited(await run_in_threadpool(lambda: bench.results.spot(job_id, bench.job(job_id).document, item_id, body)))
    return Response(data, media_type="image/png", headers=NO_STORE)


@router.post("/jobs/{job_id}/items/{item_id}/ground", response_class=Response)
async def ground(bench: BenchDep, job_id: JobId, item_id: ItemId, body: StepPreview) -> Response:
    """The ground a change of the background would give, as a PNG over the picture's frame, before anything else is done."""
    def order() -> Future[bytes]:
        document = bench.edited(bench.job(job_id).document, item_id, "background", body.edits())
        return bench.results.ground(job_id, document, item_id)

    data = await waited(await run_in_threadpool(order))
    return Response(data, media_type="image/png", headers=NO_STORE)


@router.get("/jobs/{job_id}/items/{item_id}/pieces")
async def pieces(bench: BenchDep, job_id: JobId, item_id: ItemId) -> PiecesOut:
    """All pieces of a picture as the job stands, and all that are gone, with the reason."""
    work = await run_in_threadpool(lambda: bench.results.pieces(job_id, bench.job(job_id).document, item_id))
    return await run_in_threadpool(PiecesOut.of, await waited(work))


@router.get("/jobs/{job_id}/items/{item_id}/dropper")
async def dropper(bench: BenchDep, job_id: JobId, item_id: ItemId, x: PicturePlace, y: PicturePlace) -> Dropped:
    """The colour of the flat area at a place, shares of the width of the picture that came in; none beside it."""
    work = await run_in_threadpool(lambda: bench.results.dropper(job_id, bench.job(job_id).document, item_id, x, y))
    return Dropped(colour=await waited(work))


@router.get("/jobs/{job_id}/items/{item_id}/picture", response_class=Response)
async def picture(bench: BenchDep, job_id: JobId, item_id: ItemId) -> Response:
    """The picture for the stage, PNG."""
    work = await run_in_threadpool(lambda: bench.results.picture(bench.job(job_id).document.picture(item_id).source))
    return Response(await waited(work), media_type="image/png", headers={"Cache-Control": "no-cache"})


@router.get("/jobs/{job_id}/result")
async def result(bench: BenchDep, job_id: JobId) -> ResultOut:
    """The full result of the job as it stands; waits until it is there. Where the job moves on meanwhile, so does the wait."""
    return await run_in_threadpool(ResultOut.of, await _newest(bench, job_id))


@router.get("/jobs/{job_id}/cloths/{cloth}/result")
async def variant(bench: BenchDep, job_id: JobId, cloth: ClothId) -> ResultOut:
    """The full result of the make for another cloth."""
    return await _result(lambda: bench.results.variant(bench.job(job_id), cloth))


@router.post("/jobs/{job_id}/cloths")
def add_opposite(bench: BenchDep, job_id: JobId, body: At) -> JobOut:
    """The variant for the opposite cloth, as one more."""
    return JobOut.of(bench.add_opposite(job_id, body.revision, body.ticket))


@router.get("/jobs/{job_id}/sheets")
async def sheets(bench: BenchDep, job_id: JobId, cloth: Cloth = "") -> SheetsOut:
    """The sheets of the job as it stands, for one of its cloths. A newer question of the job ends older ones with 409."""
    work = await run_in_threadpool(lambda: bench.results.sheets(bench.job(job_id), cloth))
    return await run_in_threadpool(SheetsOut.of, await waited(work))


async def _newest(bench: Bench, job_id: int) -> Shown:
    while True:
        job = await run_in_threadpool(bench.job, job_id)
        try:
            return await waited(await run_in_threadpool(bench.results.of, job))
        except Cancelled as cancelled:
            if cancelled.code != "superseded":
                raise
            await asyncio.sleep(0)


@router.post("/jobs/{job_id}/stop", status_code=204)
def stop(bench: BenchDep, job_id: JobId) -> None:
    bench.results.stop(bench.job(job_id).id)


@router.get("/results/{key}/edge")
async def edge(bench: BenchDep, key: str, axis: Axis, at: SeamPlace) -> list[BarOut]:
    """The stack of films under an upright (x) or level (y) seam at a place in mm."""
    bars = await run_in_threadpool(bench.results.edge, key, axis, at)
    if bars is None:
        raise NotFoundError("This result is no longer kept.", code="result_missing")
    return [BarOut.of(bar) for bar in bars]


@router.get("/images/{name}", response_class=Response)
async def image(bench: BenchDep, name: str) -> Response:
    """A state of an item as a raster with transparency, PNG. Equal images have the same name."""
    data = bench.results.raster(name)
    if data is None:
        raise NotFoundError("This image is no longer kept.", code="result_missing")
    return Response(data, media_type="image/png", headers={"Cache-Control": "private, max-age=31536000, immutable"})


@router.get("/jobs/{job_id}/progress", response_class=StreamingResponse)
async def progress(request: Request, bench: BenchDep, job_id: JobId) -> StreamingResponse:
    """Server-sent events: how far the work on the job is."""
    await run_in_threadpool(bench.job, job_id)  # 404 where it is gone
    board = bench.progress

    async def events() -> AsyncIterator[str]:
        watcher = board.watch(job_id)
        bench.results.opened(job_id)
        silent = 0.0
        try:
            yield ": watching\n\n"
            while not board.ended and not await request.is_disconnected():
                try:
                    news = watcher.get_nowait()
                    yield _event(news)
                    if news.state == "gone":
                        return
                    silent = 0.0
                except queue.Empty:
                    await asyncio.sleep(0.05)
                    silent += 0.05
                    if silent > QUIET:
                        silent = 0.0
                        yield ": still here\n\n"
        finally:
            board.leave(job_id, watcher)
            bench.results.closed(job_id)

    return StreamingResponse(events(), media_type="text/event-stream", headers=NO_STORE)


def _event(news: News) -> str:
    told = {"state": news.state, "fraction": round(news.fraction, 4), "code": news.code, "moves": news.moves, "what": news.what}
    return f"data: {json.dumps(told)}\n\n"
